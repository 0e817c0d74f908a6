"""Plans over the API: what they say, and what they refuse."""

from __future__ import annotations

from django.urls import reverse

from accounts.models import Role
from plans.models import Plan
from plans.tests.asking import PlanTest
from runs.tests.factories import CarFactory, RunFactory, SetupFactory, UserFactory


class AdviceTest(PlanTest):
    def advice(self, **changes) -> dict:
        answer = self.post("plan-advice", self.asked(**changes))
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_scatter_is_assumed_until_the_car_has_a_history(self):
        self.assertIn("assumed", self.advice()["size"]["scatter_source"])
        for number in range(6):
            RunFactory(setup=self.setup, sixty_s=4.0 + 0.03 * (number % 3))
        size = self.advice()["size"]
        self.assertIn("own, 1 days of 6 runs", size["scatter_source"])
        self.assertAlmostEqual(size["run_sd"], 0.0268, places=4)

    def test_a_smaller_difference_needs_more_runs(self):
        self.assertGreater(self.advice(difference_that_matters=0.05)["size"]["runs_needed"], 8)
        self.assertLess(self.advice(difference_that_matters=0.2)["size"]["runs_needed"], 5)

    def test_how_many_runs_is_said_in_sentences(self):
        size = self.advice(runs_per_group=5)["size"]
        self.assertEqual(size["needed_sentence"], "This is enough to detect a difference of 0.08 s in 80 of 100 tests.")
        self.assertIn(
            f"The 5 planned runs detect {size['detectable_difference']:.2f} s or more", size["planned_sentence"]
        )
        self.assertEqual(self.advice(runs_per_group=1)["size"]["planned_sentence"], "")
        hopeless = self.advice(difference_that_matters=0.001)["size"]["needed_sentence"]
        self.assertEqual(hopeless, "Not even 60 runs per group detect 0.001 s: this car scatters too much.")
        days = self.advice(can_alternate=False, days_per_group=1, difference_that_matters=0.06)["size"]
        self.assertIn("the car's scatter from day to day hides it", days["needed_sentence"])
        stop = self.advice(kind="braking series", measure="100-0 km/h", difference_that_matters=1)["size"]
        self.assertIn("a difference of 1.0 m (3.3 ft)", stop["needed_sentence"])

    def test_a_change_that_cannot_be_undone_needs_days(self):
        report = self.advice(can_alternate=False, days_per_group=2)
        self.assertEqual(
            [{step["group"] for step in day} for day in report["days"]], [{"before"}] * 2 + [{"after"}] * 2
        )
        self.assertIn("partly inseparable", report["confounded"][0]["sentence"])
        self.assertIn("one day each", self.advice(can_alternate=False)["confounded"][0]["sentence"])

    def test_a_blocked_order_offers_abba(self):
        report = self.advice(order="blocked")["confounded"]
        self.assertEqual([(each["what"], each["avoided_by"]) for each in report], [("time of day", "ABBA")])
        self.assertEqual(self.advice(order="ABBA")["confounded"], [])

    def test_every_kind_lays_its_own_runs_out(self):
        sweep = self.advice(kind="charge sweep", groups=[{"name": "7.1"}], runs_per_group=2, both_directions=True)
        self.assertEqual({step["charge_percent"] for step in sweep["days"][0]}, set(range(96, 10, -10)))
        self.assertIsNone(sweep["size"])
        stops = self.advice(
            kind="braking series", measure="100-0 km/h", groups=[{"name": "7.1"}], both_directions=False
        )
        self.assertEqual([step["wait_min"] for step in stops["days"][0]], [0, 3, 3, 3])
        rolls = self.advice(kind="roll-ons", measure="30-70 mph", clock="speed")
        self.assertTrue(all(step["from_speed_mps"] > 13 for step in rolls["days"][0]))
        beside = self.advice(kind="side by side")
        self.assertEqual({step["lane"] for step in beside["days"][0]}, {"left", "right"})

    def test_top_ups_fall_where_the_charge_runs_out(self):
        narrow = self.advice(low_charge_percent=92, high_charge_percent=95, runs_per_group=6)
        self.assertTrue(narrow["top_ups"])
        self.assertEqual(self.advice(low_charge_percent=60, runs_per_group=4)["top_ups"], [])

    def test_nothing_is_stored(self):
        self.advice()
        self.assertEqual(Plan.objects.count(), 0)


class RefusalTest(PlanTest):
    def test_a_strip_too_short_is_refused_with_the_shortfall(self):
        self.course.length_m, self.course.runout_m = 150, 20
        self.course.save()
        answer = self.post("plan-list", self.asked())
        self.assertEqual(answer.status_code, 400)
        self.assertRegex(
            answer.json()["errors"]["course"][0], r"\d+ m \(\d+ ft\) too short.*highest speed that fits is \d+ mph"
        )
        self.assertEqual(Plan.objects.count(), 0)
        self.assertFalse(self.post("plan-advice", self.asked()).json()["strip"]["fits"])

    def test_each_mistake_names_its_field(self):
        stranger = SetupFactory()
        for field, changes in {
            "measure": {"measure": "zero to sixty"},
            "high_charge_percent": {"low_charge_percent": 97},
            "high_battery_temp_c": {"high_battery_temp_c": 20},
            "days_per_group": {"runs_per_group": 2, "days_per_group": 3},
            "groups": {"groups": [{"name": "a", "setup": stranger.pk}, {"name": "b"}]},
        }.items():
            self.assertIn(field, self.post("plan-list", self.asked(**changes)).json()["errors"])
        self.assertIn(
            "groups", self.post("plan-list", self.asked(groups=[{"name": "a"}, {"name": "a"}])).json()["errors"]
        )
        self.assertEqual(Plan.objects.count(), 0)

    def test_cars_of_their_own_race_side_by_side_and_roll_on_but_are_no_groups_of_one_change(self):
        other = SetupFactory(name="as delivered", car=CarFactory(name="Wren", power_kw=180, battery_kwh=60))
        groups = [{"name": "left", "setup": self.setup.pk}, {"name": "Wren", "setup": other.pk}]
        for kind, measure in (("side by side", "0-60 mph"), ("roll-ons", "30-70 mph")):
            plan = self.plan(
                kind=kind, measure=measure, clock="speed" if kind == "roll-ons" else "rollout", groups=groups
            )
            self.assertEqual([group["car"] for group in plan["groups"]], [self.car.pk, other.car.pk])
        refused = self.post("plan-list", self.asked(groups=groups)).json()["errors"]
        self.assertIn("is no setup of", refused["groups"][0])
        three = [*groups, {"name": "third"}]
        refused = self.post("plan-list", self.asked(kind="side by side", groups=three)).json()["errors"]
        self.assertEqual(refused["groups"], ["Side by side takes two groups, one a lane."])

    def test_a_strip_that_fits_one_car_only_is_refused(self):
        slow = CarFactory(name="Wren", power_kw=60, battery_kwh=40)
        self.course.length_m, self.course.runout_m = 260, 60
        self.course.save()
        groups = [{"name": "Wren", "setup": SetupFactory(car=slow).pk}, {"name": "second", "setup": self.setup.pk}]
        alone = self.post("plan-advice", self.asked(kind="side by side"))
        self.assertTrue(alone.json()["strip"]["fits"])
        refused = self.post("plan-list", self.asked(kind="side by side", groups=groups))
        self.assertIn("too short", refused.json()["errors"]["course"][0])

    def test_a_saved_plan_keeps_its_number_of_groups(self):
        plan = self.plan()
        three = [*self.asked()["groups"], {"name": "third"}]
        at = reverse("plan-detail", args=[plan["id"]])
        refused = self.client.patch(at, {"groups": three, "revision": plan["revision"]}, format="json")
        self.assertIn("keeps its number of groups", refused.json()["errors"]["groups"][0])

    def test_a_reader_plans_nothing(self):
        self.client.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.post("plan-list", self.asked()).status_code, 403)


class ReminderTest(PlanTest):
    def test_an_open_question_without_baseline_is_told_until_it_has_one(self):
        self.plan()
        page = reverse("plan-reminders")
        report = self.client.get(page, {"car": self.car.pk}).json()
        self.assertIn("0 valid runs of 0-60 mph on before", report[0]["sentence"])
        RunFactory.create_batch(3, setup=self.setup, sixty_s=4.0)
        self.assertEqual(self.client.get(page, {"car": self.car.pk}).json(), [])
