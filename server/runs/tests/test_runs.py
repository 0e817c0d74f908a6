"""Conditions, their history, voiding and keeping, filters and sorting."""

from datetime import UTC, datetime, timedelta

from django.db import IntegrityError, transaction
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from history.models import changes_of
from runs.models import Flag, Run
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class RunTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        self.driven = RunFactory(charge_before_percent=90)

    def change(self, **changes):
        return self.client.patch(reverse("run-detail", args=[self.driven.pk]), {"revision": 1, **changes})


class CourseTimeTest(RunTest):
    def test_a_run_shows_the_clock_at_its_course_and_is_of_its_day(self):
        chicago = CourseFactory(time_zone="America/Chicago")
        late = RunFactory(
            start_utc=datetime(2026, 5, 10, 2, 30, 5, tzinfo=UTC), course=chicago, setup=self.driven.setup
        )
        row = self.client.get(reverse("run-list"), {"ids": late.pk}).json()["results"][0]
        self.assertEqual((row["start_local"], str(late)), ("2026-05-09 21:30:05 CDT", "standing 2026-05-09 21:30:05"))
        days = {name: self.of(**{name: "2026-05-10"}) for name in ("day", "from_day", "to_day")}
        self.assertEqual(days, {"day": [], "from_day": [], "to_day": [late.pk, self.driven.pk]})
        self.assertIn(late.pk, self.of(day="2026-05-09"))
        self.assertEqual(self.of(from_day="2026-05-09", to_day="2026-05-09"), [late.pk, self.driven.pk])

    def test_without_a_course_it_is_utc(self):
        page = self.client.get(reverse("run-detail", args=[self.driven.pk])).json()
        self.assertEqual(page["start_local"], f"{self.driven.start_utc:%Y-%m-%d %H:%M:%S} UTC")

    def of(self, **asked):
        return [row["id"] for row in self.client.get(reverse("run-list"), asked).json()["results"]]


class ConditionsTest(RunTest):
    def test_a_change_keeps_who_when_and_the_old_value(self):
        answer = self.change(charge_before_percent=88, drive_mode="Sport")
        self.assertEqual(answer.status_code, 200)
        change = changes_of(self.driven).get()
        self.assertEqual(change.values, {"charge_before_percent": [90.0, 88.0], "drive_mode": ["", "Sport"]})
        self.assertEqual((change.action.person, change.revision), (self.person, 2))
        self.assertEqual(answer.data["revision"], 2)

    def test_saving_what_was_there_is_no_change(self):
        self.change(charge_before_percent=90)
        self.assertFalse(changes_of(self.driven).exists())

    def test_a_change_by_someone_else_is_not_overwritten(self):
        self.change(charge_before_percent=88)
        late = self.change(charge_before_percent=70)
        self.assertEqual((late.status_code, late.json()["code"]), (409, "conflict"))
        self.assertEqual(Run.objects.get().charge_before_percent, 88)

    def test_a_run_deleted_meanwhile_is_404(self):
        address = reverse("run-detail", args=[self.driven.pk])
        Run.objects.all().delete()
        self.assertEqual(self.client.patch(address, {"revision": 1, "notes": "x"}).status_code, 404)

    def test_the_run_before_lends_its_conditions(self):
        page = reverse("run-previous", args=[self.driven.pk])
        self.assertEqual(self.client.get(page).status_code, 404)
        before = self.driven.start_utc - timedelta(minutes=6)
        RunFactory(setup=self.driven.setup, start_utc=before, drive_mode="Sport", occupants=2)
        lent = self.client.get(page).json()
        self.assertEqual((lent["drive_mode"], lent["occupants"], lent["charge_before_percent"]), ("Sport", 2, None))

    def test_markup_in_notes_is_kept_as_text(self):
        notes = "<script>alert(1)</script> & more"
        self.assertEqual(self.change(notes=notes).data["notes"], notes)

    def test_impossible_values_name_their_field(self):
        for name, value in {"charge_after_percent": -1, "battery_temp_after_c": 126, "wind_from_deg": 400}.items():
            self.assertIn(name, self.change(**{name: value}).json()["errors"])

    def test_a_run_goes_under_a_setup_of_another_car(self):
        other = SetupFactory()
        self.assertEqual(self.change(setup=other.pk).json()["setup"], other.pk)

    def test_the_database_itself_refuses_impossible_values(self):
        for name, value in {"charge_before_percent": 140, "battery_temp_before_c": 126, "validity": "maybe"}.items():
            with self.assertRaises(IntegrityError), transaction.atomic():
                Run.objects.update(**{name: value})


class DecisionTest(RunTest):
    def decide(self, what, revision, **given):
        return self.client.post(reverse(f"run-{what}", args=[self.driven.pk]), {"revision": revision, **given})

    def test_a_void_run_is_kept_with_its_reason_and_can_be_taken_back(self):
        voided = self.decide("void", 1, reason="traffic", note="a tractor")
        self.assertEqual((voided.data["validity"], voided.data["void_reason"]), ("void", "traffic"))
        self.assertFalse(voided.data["counts"])
        self.assertTrue(self.decide("keep", 2).data["counts"])

    def test_voiding_needs_a_reason(self):
        self.assertEqual(self.decide("void", 1).status_code, 400)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Run.objects.update(validity="void", void_reason="")

    def test_a_flag_proposes_and_a_person_decides(self):
        Flag.objects.create(run=self.driven, code="gap", severity="void", message="Fixes are missing.")
        self.assertFalse(self.client.get(reverse("run-detail", args=[self.driven.pk])).data["counts"])
        self.assertTrue(self.decide("keep", 1).data["counts"])


class TableTest(RunTest):
    def rows(self, **query):
        return [row["id"] for row in self.client.get(reverse("run-list"), query).data["results"]]

    def test_sorting_by_a_measure_puts_runs_without_it_last(self):
        slow, fast = RunFactory(sixty_s=4.4), RunFactory(sixty_s=3.9)
        self.assertEqual(self.rows(sort="0-60 mph|rollout"), [fast.pk, slow.pk, self.driven.pk])
        self.assertEqual(self.rows(sort="-0-60 mph|rollout"), [slow.pk, fast.pk, self.driven.pk])

    def test_filters_narrow_by_setup_car_and_charge(self):
        other = RunFactory(charge_before_percent=60)
        self.assertEqual(self.rows(setup=other.setup_id), [other.pk])
        self.assertEqual(self.rows(car=other.setup.car_id), [other.pk])
        self.assertEqual(self.rows(charge_from=80), [self.driven.pk])

    def test_an_unknown_sort_column_or_filter_is_refused_and_named(self):
        for query in (
            {"sort": "password"},
            {"sort": "0-60 mph|sundial"},
            {"sort": "0-sixty|rollout"},
            {"color": "red"},
        ):
            answer = self.client.get(reverse("run-list"), query)
            self.assertEqual((answer.status_code, list(answer.json()["errors"])), (400, list(query)))
        self.assertEqual(self.client.get(reverse("run-list"), {"ids": "x"}).status_code, 400)

    def test_a_page_of_runs_takes_a_fixed_number_of_queries(self):
        RunFactory.create_batch(8, sixty_s=4.0)
        self.client.get(reverse("session"))  # keeps that the browser was seen
        with self.assertNumQueries(7):
            self.client.get(reverse("run-list"))
