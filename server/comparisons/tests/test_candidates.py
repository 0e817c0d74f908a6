"""The runs that a group can be chosen from: filters, what they offer, and how many of all."""

from __future__ import annotations

from datetime import UTC, datetime

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from comparisons.candidates import MOST_DRAWN
from runs.models import Run
from runs.tests.factories import CarFactory, CourseFactory, LogFactory, RunFactory, SetupFactory, UserFactory


class CandidatesTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.car = CarFactory(name="Vireo")
        self.old = SetupFactory(car=self.car, name="7.1", tire_season="summer", tire_size="245/45 R19")
        self.new = SetupFactory(car=self.car, name="7.2", tire_season="winter", tire_size="")
        night = datetime(2026, 7, 1, 23, 30, tzinfo=UTC)
        dublin = CourseFactory(time_zone="Europe/Dublin", name="Brackmoor")
        facts = (
            (self.old, {"drive_mode": "Sport", "charge_before_percent": 95, "course": dublin, "start_utc": night}),
            (self.old, {"drive_mode": "Sport", "charge_before_percent": 80}),
            (self.new, {"drive_mode": "Sport", "charge_before_percent": 94, "launch_aid": True}),
            (self.new, {"drive_mode": "Eco", "charge_before_percent": None, "battery_temp_before_c": 41}),
        )
        self.runs = [RunFactory(setup=setup, sixty_s=4.0 + n / 10, **noted) for n, (setup, noted) in enumerate(facts)]

    def ask(self, **asked):
        query = {"measure": "0-60 mph", "clock": "rollout", **asked}
        return self.client.get(reverse("comparison-candidates"), query)

    def found(self, **asked) -> set[int]:
        answer = self.ask(**asked)
        self.assertEqual(answer.status_code, 200, answer.content)
        return {self.runs.index(run) for run in self.runs if run.pk in answer.json()["ids"]}

    def offers(self, name: str, **asked) -> dict[str, int]:
        return {offer["name"]: offer["count"] for offer in self.ask(**asked).json()["offers"][name]}

    def test_every_filter_leaves_what_has_its_word_or_lies_in_its_band(self):
        for asked, left in (
            ({}, {0, 1, 2, 3}),
            ({"setup": self.new.pk}, {2, 3}),
            ({"drive_mode": "Sport"}, {0, 1, 2}),
            ({"tires": "winter"}, {2, 3}),
            ({"launch_aid": "on"}, {2}),
            ({"course": self.runs[0].course_id}, {0}),
            ({"day": "2026-07-02"}, {0}),  # of the course: in Dublin it was half past midnight
            ({"charge_from": 90}, {0, 2}),
            ({"charge_from": 79, "charge_to": 90}, {1}),
            ({"battery_from": 40, "battery_to": 42}, {3}),
            ({"drive_mode": "Sport", "setup": self.new.pk, "charge_from": 90}, {2}),
        ):
            self.assertEqual(self.found(**asked), left, asked)

    def test_a_word_says_how_many_of_what_the_other_filters_leave_have_it(self):
        self.assertEqual(self.offers("drive_mode"), {"Eco": 1, "Sport": 3})
        self.assertEqual(self.offers("drive_mode", drive_mode="Eco"), {"Eco": 1, "Sport": 3})
        self.assertEqual(self.offers("drive_mode", setup=self.new.pk), {"Eco": 1, "Sport": 1})
        self.assertEqual(self.offers("setup", drive_mode="Eco"), {"Vireo: 7.2": 1})

    def test_values_are_those_of_the_measure_and_void_runs_are_none(self):
        drawn = {row["id"]: row["value"] for row in self.ask().json()["drawn"]}
        self.assertEqual([drawn[run.pk] for run in self.runs], [4.0, 4.1, 4.2, 4.3])
        self.assertEqual({row["value"] for row in self.ask(measure="1/4 mile").json()["drawn"]}, {None})
        Run.objects.filter(pk=self.runs[0].pk).update(validity="void", void_reason="traffic")
        self.assertEqual(self.found(), {1, 2, 3})

    def test_stops_are_looked_through_for_a_stop_and_another_car_s_runs_are_left_out(self):
        stop = RunFactory(setup=self.old, kind="stop")
        self.assertEqual(self.ask(measure="60-0 mph", clock="speed", quantity="distance").json()["ids"], [stop.pk])
        self.assertNotIn(stop.pk, self.ask().json()["ids"])
        self.assertEqual(self.ask(car=SetupFactory().car_id).json()["of"], 0)

    def test_all_of_many_runs_are_left_and_the_latest_are_drawn(self):
        log = LogFactory()
        Run.objects.bulk_create(
            RunFactory.build(setup=self.new, log=log, start_s=1e6 + n, sixty_s=None) for n in range(MOST_DRAWN + 5)
        )
        found = self.ask(car=self.car.pk).json()
        self.assertEqual((found["of"], len(found["ids"]), len(found["drawn"])), (MOST_DRAWN + 9,) * 2 + (MOST_DRAWN,))
        with self.assertNumQueries(4):  # the session, the person, the runs, their values
            self.ask()

    def test_what_there_is_not_is_refused_at_its_field(self):
        for asked in ({"measure": "0-sixty"}, {"clock": "noon"}, {"charge_from": "much"}, {"launch_aid": "maybe"}):
            answer = self.ask(**asked)
            self.assertEqual((answer.status_code, list(answer.json()["errors"])), (400, list(asked)))
