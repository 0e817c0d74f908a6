"""Plans over the API: what they say, what they refuse, and how their days are laid out and changed."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from icalendar import Calendar
from rest_framework.test import APIClient

from accounts.models import Role
from days.models import CheckItem, TestDay
from plans.models import Plan
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetUpFactory, UserFactory

FIRST = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)
STATE = {"charge_percent": 60, "pack_temp_c": 12, "outside_temp_c": 10, "charger_kw": 11}


class PlanTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        self.car = CarFactory(power_kw=250, pack_kwh=80)
        self.course = CourseFactory(time_zone="Europe/Dublin")
        self.set_up = SetUpFactory(car=self.car, name="7.1")

    def asked(self, **changes) -> dict:
        given = {
            "question": "Did 7.2 change 0-60?",
            "car": self.car.pk,
            "course": self.course.pk,
            "smallest_difference": 0.08,
            "runs_per_arm": 4,
            "arms": [{"name": "before", "set_up": self.set_up.pk}, {"name": "after"}],
        }
        return given | changes

    def post(self, page: str, given: dict, *args):
        return self.client.post(reverse(page, args=args), given, format="json")

    def plan(self, **changes) -> dict:
        answer = self.post("plan-list", self.asked(**changes))
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def day(self, plan: dict, **changes) -> dict:
        times = {"first_run_at": FIRST.isoformat(), "known_at": (FIRST - timedelta(hours=9)).isoformat()}
        answer = self.post("day-list", {"plan": plan["id"], **times, **STATE, **changes})
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def read(self, day: dict) -> dict:
        return self.client.get(reverse("day-detail", args=[day["id"]])).json()


class AdviceTest(PlanTest):
    def advice(self, **changes) -> dict:
        answer = self.post("plan-advise", self.asked(**changes))
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_scatter_is_assumed_until_the_car_has_a_history(self):
        self.assertIn("assumed", self.advice()["size"]["scatter_source"])
        for number in range(6):
            RunFactory(set_up=self.set_up, sixty_s=4.0 + 0.03 * (number % 3))
        size = self.advice()["size"]
        self.assertIn("own, 1 days of 6 runs", size["scatter_source"])
        self.assertAlmostEqual(size["run_sd"], 0.0268, places=4)

    def test_a_smaller_difference_needs_more_runs(self):
        self.assertGreater(self.advice(smallest_difference=0.05)["size"]["runs_needed"], 8)
        self.assertLess(self.advice(smallest_difference=0.2)["size"]["runs_needed"], 5)

    def test_a_change_that_cannot_be_undone_needs_days(self):
        told = self.advice(can_alternate=False, days_per_arm=2)
        self.assertEqual([{step["arm"] for step in day} for day in told["days"]], [{"before"}] * 2 + [{"after"}] * 2)
        self.assertIn("partly inseparable", told["confounded"][0]["sentence"])
        self.assertIn("one day each", self.advice(can_alternate=False)["confounded"][0]["sentence"])

    def test_a_blocked_order_offers_abba(self):
        told = self.advice(order="blocked")["confounded"]
        self.assertEqual([(each["what"], each["avoided_by"]) for each in told], [("time of day", "ABBA")])
        self.assertEqual(self.advice(order="ABBA")["confounded"], [])

    def test_every_kind_lays_its_own_runs_out(self):
        sweep = self.advice(kind="charge sweep", arms=[{"name": "7.1"}], runs_per_arm=2, both_directions=True)
        self.assertEqual({step["charge_percent"] for step in sweep["days"][0]}, set(range(96, 10, -10)))
        self.assertIsNone(sweep["size"])
        stops = self.advice(kind="braking series", measure="100-0 km/h", arms=[{"name": "7.1"}], both_directions=False)
        self.assertEqual([step["wait_min"] for step in stops["days"][0]], [0, 3, 3, 3])
        rolls = self.advice(kind="roll-ons", measure="30-70 mph", clock="speed")
        self.assertTrue(all(step["from_speed_mps"] > 13 for step in rolls["days"][0]))
        beside = self.advice(kind="side by side")
        self.assertEqual({step["lane"] for step in beside["days"][0]}, {"left", "right"})

    def test_top_ups_fall_where_the_charge_runs_out(self):
        narrow = self.advice(low_charge_percent=92, high_charge_percent=95, runs_per_arm=6)
        self.assertTrue(narrow["top_ups"])
        self.assertEqual(self.advice(low_charge_percent=60, runs_per_arm=4)["top_ups"], [])

    def test_nothing_is_stored(self):
        self.advice()
        self.assertEqual(Plan.objects.count(), 0)


class RefusalTest(PlanTest):
    def test_a_strip_too_short_is_refused_with_the_shortfall(self):
        self.course.length_m, self.course.run_off_m = 150, 20
        self.course.save()
        answer = self.post("plan-list", self.asked())
        self.assertEqual(answer.status_code, 400)
        self.assertRegex(answer.json()["course"][0], r"\d+ m \(\d+ ft\) too short.*highest speed that fits is \d+ mph")
        self.assertEqual(Plan.objects.count(), 0)
        self.assertFalse(self.post("plan-advise", self.asked()).json()["strip"]["fits"])

    def test_each_mistake_names_its_field(self):
        stranger = SetUpFactory()
        for field, changes in {
            "measure": {"measure": "zero to sixty"},
            "high_charge_percent": {"low_charge_percent": 97},
            "high_pack_temp_c": {"high_pack_temp_c": 20},
            "days_per_arm": {"runs_per_arm": 2, "days_per_arm": 3},
            "arms": {"arms": [{"name": "a", "set_up": stranger.pk}, {"name": "b"}]},
        }.items():
            self.assertIn(field, self.post("plan-list", self.asked(**changes)).json())
        self.assertIn("arms", self.post("plan-list", self.asked(arms=[{"name": "a"}, {"name": "a"}])).json())
        self.assertEqual(Plan.objects.count(), 0)

    def test_a_reader_plans_nothing(self):
        self.client.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.post("plan-list", self.asked()).status_code, 403)


class ReminderTest(PlanTest):
    def test_an_open_question_without_baseline_is_told_until_it_has_one(self):
        self.plan()
        page = reverse("plan-reminders")
        told = self.client.get(page, {"car": self.car.pk}).json()
        self.assertIn("0 valid runs of 0-60 mph on before", told[0]["sentence"])
        RunFactory.create_batch(3, set_up=self.set_up, sixty_s=4.0)
        self.assertEqual(self.client.get(page, {"car": self.car.pk}).json(), [])


class DayTest(PlanTest):
    def test_a_day_has_its_runs_its_checklist_and_its_timetable(self):
        day = self.day(self.plan())
        self.assertEqual("".join(step["arm_name"][0] for step in day["steps"]), "bbaaaabb")
        self.assertEqual([step["direction"] for step in day["steps"]], ["out", "back"] * 4)
        self.assertIn("Receiver", {item["section"] for item in day["checks"]})
        kinds = [step["kind"] for step in day["timetable"]["steps"]]
        self.assertLess(kinds.index("plug in"), kinds.index("leave"))
        first = next(step for step in day["timetable"]["steps"] if step["kind"] == "first run")
        self.assertEqual(first["local"], "10:00")  # summer time at the course
        self.assertEqual(day["local_date"], "Saturday 9 May 2026")

    def test_times_without_a_zone_are_those_of_the_course(self):
        day = self.day(self.plan(), first_run_at="2026-05-09T10:00", known_at="2026-05-08T22:00")
        self.assertEqual(TestDay.objects.get().first_run_at, FIRST)
        self.assertEqual((day["first_run_local"], day["known_local"]), ("2026-05-09T10:00", "2026-05-08T22:00"))

    def test_days_of_a_plan_come_one_after_the_other_and_no_more(self):
        plan = self.plan(can_alternate=False, days_per_arm=2)
        arms = [{step["arm_name"] for step in self.day(plan)["steps"]} for _ in range(4)]
        self.assertEqual(arms, [{"before"}, {"before"}, {"after"}, {"after"}])
        times = {"first_run_at": FIRST.isoformat(), "known_at": FIRST.isoformat()}
        answer = self.post("day-list", {"plan": plan["id"], **times, **STATE})
        self.assertIn("laid out already", answer.json()["plan"][0])
        self.assertEqual(TestDay.objects.count(), 4)

    def test_a_day_that_cannot_be_met_says_why_and_what_would(self):
        late = (FIRST - timedelta(minutes=70)).isoformat()
        told = self.day(self.plan(), known_at=late)["timetable"]
        self.assertFalse(told["met"])
        self.assertTrue(any("the window begins at" in each for each in told["shortfalls"]))
        self.assertTrue(told["remedies"])

    def test_on_the_day_runs_are_done_skipped_repeated_added_and_moved(self):
        day = self.day(self.plan())
        first, second = day["steps"][0], day["steps"][1]
        before = day["can_still_show"]
        self.client.patch(reverse("planned-run-detail", args=[first["id"]]), {"state": "done"})
        self.assertEqual(self.read(day)["state"], "under way")
        self.client.patch(reverse("planned-run-detail", args=[second["id"]]), {"state": "skipped"})
        self.assertGreater(self.read(day)["can_still_show"], before)
        self.assertEqual(self.post("planned-run-repeat", {}, first["id"]).status_code, 201)
        steps = self.read(day)["steps"]
        self.assertEqual([step["arm_name"] for step in steps[:3]], ["before"] * 3)
        self.assertEqual(steps[1]["state"], "open")
        added = self.post("planned-run-list", {"day": day["id"], "arm": first["arm"], "direction": "back"}).json()
        self.assertEqual(added["position"], len(steps))
        ids = [step["id"] for step in self.read(day)["steps"]][::-1]
        moved = self.post("day-reorder", {"ids": ids}, day["id"]).json()
        self.assertEqual([step["id"] for step in moved["steps"]], ids)
        stale = self.post("day-reorder", {"ids": ids[1:]}, day["id"])
        self.assertIn("reload", stale.json()["ids"][0])

    def test_a_day_is_finished_when_nothing_is_open(self):
        day = self.day(self.plan(runs_per_arm=2, both_directions=False))
        for step in day["steps"]:
            self.client.patch(reverse("planned-run-detail", args=[step["id"]]), {"state": "done"})
        self.assertEqual(self.read(day)["state"], "finished")

    def test_an_arm_of_another_plan_is_refused(self):
        day, other = self.day(self.plan()), self.plan()
        answer = self.post("planned-run-list", {"day": day["id"], "arm": other["arms"][0]["id"]})
        self.assertIn("arm", answer.json())

    def test_budget_follows_the_runs(self):
        day = self.day(self.plan())
        self.assertTrue(day["budget"]["charge_is_estimated"])
        run = RunFactory(set_up=self.set_up, charge_after_percent=88)
        changes = {"state": "done", "run": run.pk}
        self.client.patch(reverse("planned-run-detail", args=[day["steps"][0]["id"]]), changes)
        told = self.read(day)["budget"]
        self.assertEqual((told["charge_percent"], told["charge_is_estimated"], told["done"]), (88, False, 1))
        self.assertLessEqual(told["sure"], told["at_best"])

    def test_go_needs_every_line_that_is_needed_signed(self):
        day = self.day(self.plan())
        self.assertFalse(day["go"])
        CheckItem.objects.exclude(pk=day["checks"][0]["id"]).update(needed=False)
        page = reverse("check-item-detail", args=[day["checks"][0]["id"]])
        self.assertEqual(self.client.patch(page, {"signed": True}).json()["signed_by"], self.person.username)
        self.assertTrue(self.read(day)["go"])
        self.client.patch(page, {"signed": False})
        self.assertFalse(self.read(day)["go"])
        added = self.post("check-item-list", {"day": day["id"], "section": "Car", "text": "Tow hook out"}).json()
        self.assertEqual(added["position"], len(day["checks"]))

    def test_a_checklist_signed_for_each_run_starts_afresh(self):
        day = self.day(self.plan())
        for item in day["checks"]:
            self.client.patch(reverse("check-item-detail", args=[item["id"]]), {"signed": True})
        self.assertTrue(self.read(day)["go"])
        again = self.post("day-sign-again", {}, day["id"]).json()
        self.assertFalse(again["go"])
        self.assertEqual({item["signed_by"] for item in again["checks"]}, {None})

    def test_a_sweep_needs_its_top_rung_at_the_first_run(self):
        plan = self.plan(kind="charge sweep", arms=[{"name": "7.1"}], low_charge_percent=10)
        late = (FIRST - timedelta(minutes=100)).isoformat()
        told = self.day(plan, known_at=late, charge_percent=60)["timetable"]
        self.assertTrue(any("the window begins at 93 %" in each for each in told["shortfalls"]))

    def test_a_plan_is_changed_and_its_days_stay(self):
        plan = self.plan()
        day = self.day(plan)
        changed = self.asked(runs_per_arm=8, arms=[{"name": "7.1"}, {"name": "7.2", "set_up": self.set_up.pk}])
        answer = self.client.patch(reverse("plan-detail", args=[plan["id"]]), changed, format="json").json()
        self.assertEqual([arm["name"] for arm in answer["arms"]], ["7.1", "7.2"])
        self.assertEqual(answer["arms"][1]["set_up_name"], "7.1")
        self.assertEqual(answer["advice"]["run_count"], 16)
        self.assertEqual(len(self.read(day)["steps"]), 8)

    def test_a_line_is_reworded_and_left_out(self):
        day = self.day(self.plan())
        page = reverse("check-item-detail", args=[day["checks"][0]["id"]])
        self.client.patch(page, {"text": "Gate locked behind us", "needed": False})
        first = self.read(day)["checks"][0]
        self.assertEqual((first["text"], first["needed"]), ("Gate locked behind us", False))

    def test_each_kind_of_test_adds_its_own_checks(self):
        sections = {
            kind: {item["section"] for item in self.day(self.plan(kind=kind, **more))["checks"]}
            for kind, more in {
                "braking series": {"measure": "100-0 km/h", "arms": [{"name": "7.1"}]},
                "roll-ons": {"measure": "30-70 mph", "clock": "speed"},
                "side by side": {},
            }.items()
        }
        self.assertIn("Stops", sections["braking series"])
        self.assertIn("Roll-ons", sections["roll-ons"])
        self.assertIn("Two cars", sections["side by side"])

    def test_readers_read_and_strangers_do_not(self):
        day = self.day(self.plan())
        pages = [reverse(name) for name in ("plan-list", "day-list", "claim-list", "pack-spell-list")]
        reader, stranger = APIClient(), APIClient()
        reader.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        for page in [*pages, reverse("day-detail", args=[day["id"]]), reverse("day-calendar", args=[day["id"]])]:
            self.assertEqual(reader.get(page).status_code, 200)
            self.assertEqual(stranger.get(page).status_code, 403)
        step = reverse("planned-run-detail", args=[day["steps"][0]["id"]])
        self.assertEqual(reader.patch(step, {"state": "done"}).status_code, 403)
        self.assertEqual(reader.post(reverse("day-sign-again", args=[day["id"]])).status_code, 403)

    def test_the_timetable_goes_out_as_a_calendar(self):
        day = self.day(self.plan())
        answer = self.client.get(reverse("day-calendar", args=[day["id"]]))
        self.assertIn("day-2026-05-09.ics", answer["Content-Disposition"])
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        self.assertEqual(len(events), len(day["timetable"]["steps"]))
        leave = next(event for event in events if str(event["summary"]).startswith("Leave"))
        self.assertEqual(leave.decoded("dtstart").astimezone(UTC), FIRST - timedelta(minutes=45))

    def test_a_days_page_takes_few_queries(self):
        day = self.day(self.plan())
        with CaptureQueriesContext(connection) as asked:
            self.read(day)
        self.assertLess(len(asked), 40)
