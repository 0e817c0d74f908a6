"""What the database gives up for something else is done again as a whole, once, and nothing that has committed is."""

from __future__ import annotations

import io
import threading
from unittest import mock

from django.db import OperationalError, connection, transaction
from django.db.backends.mysql import base
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory, TransactionTestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from cars.models import Car
from config import again
from config.again import TRIES, AskAgain, whole
from config.mariadb.base import GIVEN_UP
from runs.tests.factories import CarFactory, UserFactory

DEADLOCK = OperationalError(GIVEN_UP, "Deadlock found when trying to get lock; try restarting transaction")
LOST = OperationalError(2013, "Lost connection to server during query")


class AgainTest(TransactionTestCase):
    def setUp(self):
        self.enterContext(mock.patch.object(again, "LONGEST_PAUSE_S", 0.0))
        self.attempts = 0

    def failing(self, times: int, error: Exception):
        """What fails a number of times before it adds a car."""

        def act() -> Car:
            self.attempts += 1
            with transaction.atomic():
                made = Car.objects.create(name=f"car {self.attempts}")
                if self.attempts <= times:
                    raise error
            return made

        return act

    def test_a_whole_transaction_is_carried_out_again_and_stored_once(self):
        self.assertEqual(whole(self.failing(2, DEADLOCK))().name, "car 3")
        self.assertEqual(list(Car.objects.values_list("name", flat=True)), ["car 3"])

    def test_not_for_ever(self):
        with self.assertRaises(OperationalError):
            whole(self.failing(99, DEADLOCK))()
        self.assertEqual((self.attempts, Car.objects.count()), (TRIES, 0))

    def test_what_went_away_is_not_done_again_for_nobody_knows_what_became_of_it(self):
        with self.assertRaises(OperationalError):
            whole(self.failing(1, LOST))()
        self.assertEqual(self.attempts, 1)

    def test_a_part_leaves_it_to_whoever_has_the_whole(self):
        with self.assertRaises(OperationalError), transaction.atomic():
            whole(self.failing(1, DEADLOCK))()
        self.assertEqual(self.attempts, 1)


class RequestAgainTest(TransactionTestCase):
    def setUp(self):
        self.enterContext(mock.patch.multiple(again, LONGEST_PAUSE_S=0.0, AWAY_PAUSE_S=0.0))
        self.client = APIClient()
        self.client.force_login(UserFactory(role=Role.TESTER), backend="django.contrib.auth.backends.ModelBackend")

    def failing(self, times: int, error: Exception):
        """A patch of saving a car, which fails a number of times first."""
        saved, self.calls = Car.save, 0

        def save(car: Car, *args, **kwargs):
            self.calls += 1
            if self.calls <= times:
                raise error
            return saved(car, *args, **kwargs)

        return mock.patch.object(Car, "save", save)

    def test_a_request_that_met_another_is_carried_out_again(self):
        with self.failing(2, DEADLOCK):
            answer = self.client.post(reverse("car-list"), {"name": "Larch"})
        self.assertEqual((answer.status_code, answer.json()["name"]), (201, "Larch"))
        self.assertEqual(Car.objects.count(), 1)

    def test_one_that_never_comes_through_says_so(self):
        with self.failing(99, DEADLOCK):
            answer = self.client.post(reverse("car-list"), {"name": "Larch"})
        self.assertEqual((answer.status_code, answer.json()["code"]), (503, "busy"))
        self.assertEqual(self.calls, TRIES)

    def test_a_change_whose_connection_broke_before_its_end_is_carried_out_again(self):
        with self.failing(1, LOST):
            answer = self.client.post(reverse("car-list"), {"name": "Larch"})
        self.assertEqual((answer.status_code, self.calls, Car.objects.count()), (201, 2, 1))

    def test_one_that_broke_at_its_commit_is_not_for_nobody_knows_what_became_of_it(self):
        commit = base.DatabaseWrapper._commit

        def breaking(wrapper) -> None:
            commit(wrapper)
            raise LOST

        with self.failing(0, LOST), mock.patch.object(base.DatabaseWrapper, "_commit", breaking):
            answer = self.client.post(reverse("car-list"), {"name": "Larch"})
        self.assertEqual((answer.status_code, self.calls, Car.objects.count()), (503, 1, 1))

    def test_what_only_reads_is_asked_again_on_another_connection(self):
        CarFactory(name="Larch")
        with connection.cursor() as cursor:
            cursor.execute("SELECT CONNECTION_ID()")
            number = cursor.fetchone()[0]
        killer = threading.Thread(target=self.kill, args=[number])
        killer.start()
        killer.join()
        answer = self.client.get(reverse("car-list"))
        self.assertEqual((answer.status_code, answer.json()["results"][0]["name"]), (200, "Larch"))

    def kill(self, number: int) -> None:
        try:
            with connection.cursor() as cursor:
                cursor.execute("KILL %s", [number])
        finally:
            connection.close()

    def test_nothing_that_has_committed_is_done_again(self):
        for commit in (
            lambda: Car.objects.create(name="made"),
            lambda: Car.objects.filter(name="none").update(name="changed"),  # commits by itself
        ):
            asked = []

            def view(request: HttpRequest, commit=commit, asked=asked) -> HttpResponse:
                asked.append(request)
                commit()
                answer = HttpResponse(status=503)
                answer.database_error = DEADLOCK
                return answer

            request = RequestFactory().post("/", b"{}", content_type="application/json")
            self.assertEqual(AskAgain(view)(request).status_code, 503)
            self.assertEqual(len(asked), 1)

    def test_a_file_comes_again_where_nobody_has_read_it_yet(self):
        for reads, times in ((False, 2), (True, 1)):
            asked = []

            def view(request: HttpRequest, reads=reads, asked=asked) -> HttpResponse:
                asked.append(request)
                if reads:
                    request.FILES.get("file")
                answer = HttpResponse(status=503 if len(asked) == 1 else 201)
                answer.database_error = LOST if len(asked) == 1 else None
                return answer

            with self.subTest(reads=reads):
                request = RequestFactory().post("/", {"file": io.BytesIO(b"a log")})
                AskAgain(view)(request)
                self.assertEqual(len(asked), times)

    def test_two_that_wait_for_each_other_both_come_through(self):
        cars, ready = [CarFactory(), CarFactory()], threading.Barrier(2)
        met = []

        def change(first: int, second: int) -> None:
            tried = []

            @whole
            def act() -> None:
                tried.append(1)
                with transaction.atomic():
                    Car.objects.filter(pk=cars[first].pk).update(notes="a")
                    if len(tried) == 1:
                        ready.wait()
                    Car.objects.filter(pk=cars[second].pk).update(notes="b")

            try:
                act()
                met.append(len(tried))
            finally:
                connection.close()

        threads = [threading.Thread(target=change, args=pair) for pair in ((0, 1), (1, 0))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(met), [1, 2])
