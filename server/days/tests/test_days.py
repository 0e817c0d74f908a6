"""Test days over the API: laid out, changed while they go on, signed off, and out as a calendar."""

from __future__ import annotations

from datetime import UTC, timedelta

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar
from rest_framework.test import APIClient

from accounts.models import AccessToken, Role, User
from days.models import ChecklistItem, TestDay
from days.services import worked_out
from plans.tests.asking import FIRST, STATE, PlanTest
from runs.tests.factories import RunFactory, UserFactory


class DayTest(PlanTest):
    def test_a_day_has_its_runs_its_checklist_and_its_timetable(self):
        day = self.day(self.plan())
        self.assertEqual("".join(step["group_name"][0] for step in day["scheduled_runs"]), "bbaaaabb")
        self.assertEqual([step["direction"] for step in day["scheduled_runs"]], ["out", "back"] * 4)
        self.assertIn("Receiver", {item["section"] for item in day["checklist"]})
        kinds = [step["kind"] for step in day["timetable"]["steps"]]
        self.assertLess(kinds.index("plug in"), kinds.index("leave"))
        first = next(step for step in day["timetable"]["steps"] if step["kind"] == "first run")
        self.assertEqual(first["local"], "10:00")  # summer time at the course
        self.assertEqual(day["local_date"], "Saturday, May 9, 2026")

    def test_times_without_a_zone_are_those_of_the_course(self):
        day = self.day(self.plan(), first_run_at="2026-05-09T10:00", known_at="2026-05-08T22:00")
        self.assertEqual(TestDay.objects.get().first_run_at, FIRST)
        self.assertEqual((day["first_run_local"], day["known_local"]), ("2026-05-09T10:00", "2026-05-08T22:00"))

    def test_days_of_a_plan_come_one_after_the_other_and_no_more(self):
        plan = self.plan(can_alternate=False, days_per_group=2)
        groups = [{step["group_name"] for step in self.day(plan)["scheduled_runs"]} for _ in range(4)]
        self.assertEqual(groups, [{"before"}, {"before"}, {"after"}, {"after"}])
        times = {"first_run_at": FIRST.isoformat(), "known_at": FIRST.isoformat()}
        answer = self.post("test-day-list", {"plan": plan["id"], **times, **STATE})
        self.assertIn("planned already", answer.json()["errors"]["plan"][0])
        self.assertEqual(TestDay.objects.count(), 4)

    def test_a_day_that_cannot_be_met_says_why_and_what_would(self):
        late = (FIRST - timedelta(minutes=70)).isoformat()
        report = self.day(self.plan(), known_at=late)["timetable"]
        self.assertFalse(report["met"])
        self.assertTrue(any("the window begins at" in each for each in report["shortfalls"]))
        self.assertTrue(report["remedies"])

    def test_a_change_that_would_make_a_day_work_does_once_it_is_made(self):
        day = self.day(self.plan(), known_at=(FIRST - timedelta(minutes=70)).isoformat())
        offered = [each["changes"] for each in day["timetable"]["remedies"] if each["changes"]]
        self.assertTrue(offered)
        for changes in offered:
            now = self.read(day)
            address = reverse("test-day-detail", args=[day["id"]])
            changed = self.client.patch(address, {**changes, "revision": now["revision"]}, format="json")
            self.assertTrue(changed.json()["timetable"]["met"], changes)
            before = {name: now[name] for name in changes}
            self.client.patch(address, {**before, "revision": changed.json()["revision"]}, format="json")

    def test_on_the_day_runs_are_done_skipped_repeated_added_and_moved(self):
        day = self.day(self.plan())
        first, second = day["scheduled_runs"][0], day["scheduled_runs"][1]
        before = day["can_still_show"]["difference"]
        self.client.patch(reverse("scheduled-run-detail", args=[first["id"]]), {"state": "done", "revision": 1})
        self.assertEqual(self.read(day)["state"], "under way")
        self.client.patch(reverse("scheduled-run-detail", args=[second["id"]]), {"state": "skipped", "revision": 1})
        self.assertGreater(self.read(day)["can_still_show"]["difference"], before)
        self.assertEqual(self.post("scheduled-run-repeat", {}, first["id"]).status_code, 201)
        steps = self.read(day)["scheduled_runs"]
        self.assertEqual([step["group_name"] for step in steps[:3]], ["before"] * 3)
        self.assertEqual(steps[1]["state"], "open")
        added = self.post("scheduled-run-list", {"day": day["id"], "group": first["group"], "direction": "back"}).json()
        self.assertEqual(added["position"], len(steps))
        ids = [step["id"] for step in self.read(day)["scheduled_runs"]][::-1]
        moved = self.post("test-day-reorder", {"ids": ids}, day["id"]).json()
        self.assertEqual([step["id"] for step in moved["scheduled_runs"]], ids)
        stale = self.post("test-day-reorder", {"ids": ids[1:]}, day["id"])
        self.assertIn("reload", stale.json()["errors"]["ids"][0])

    def test_a_day_is_finished_when_nothing_is_open(self):
        day = self.day(self.plan(runs_per_group=2, both_directions=False))
        for step in day["scheduled_runs"]:
            given = {"state": "done", "revision": step["revision"]}
            self.client.patch(reverse("scheduled-run-detail", args=[step["id"]]), given)
        self.assertEqual(self.read(day)["state"], "finished")

    def test_a_group_of_another_plan_is_refused(self):
        day, other = self.day(self.plan()), self.plan()
        answer = self.post("scheduled-run-list", {"day": day["id"], "group": other["groups"][0]["id"]})
        self.assertIn("group", answer.json()["errors"])

    def test_budget_follows_the_runs(self):
        day = self.day(self.plan())
        self.assertTrue(day["budget"]["charge_is_estimated"])
        run = RunFactory(setup=self.setup, charge_after_percent=88)
        changes = {"state": "done", "run": run.pk, "revision": 1}
        self.client.patch(reverse("scheduled-run-detail", args=[day["scheduled_runs"][0]["id"]]), changes)
        report = self.read(day)["budget"]
        self.assertEqual((report["charge_percent"], report["charge_is_estimated"], report["done"]), (88, False, 1))
        self.assertLessEqual(report["sure"], report["at_best"])

    def test_go_needs_every_line_that_is_needed_signed(self):
        day = self.day(self.plan())
        self.assertFalse(day["go"])
        ChecklistItem.objects.exclude(pk=day["checklist"][0]["id"]).update(needed=False)
        page = reverse("checklist-item-detail", args=[day["checklist"][0]["id"]])
        self.assertEqual(
            self.client.patch(page, {"signed": True, "revision": 1}).json()["signed_by"], self.person.username
        )
        self.assertTrue(self.read(day)["go"])
        self.client.patch(page, {"signed": False, "revision": 2})
        self.assertFalse(self.read(day)["go"])
        added = self.post("checklist-item-list", {"day": day["id"], "section": "Car", "text": "Tow hook out"}).json()
        self.assertEqual(added["position"], len(day["checklist"]))

    def test_a_checklist_signed_for_each_run_starts_afresh(self):
        day = self.day(self.plan())
        for item in day["checklist"]:
            self.client.patch(
                reverse("checklist-item-detail", args=[item["id"]]), {"signed": True, "revision": item["revision"]}
            )
        self.assertTrue(self.read(day)["go"])
        again = self.post("test-day-reset-checklist", {}, day["id"]).json()
        self.assertFalse(again["go"])
        self.assertEqual({item["signed_by"] for item in again["checklist"]}, {None})

    def test_a_sweep_needs_its_top_rung_at_the_first_run(self):
        plan = self.plan(kind="charge sweep", groups=[{"name": "7.1"}], low_charge_percent=10)
        late = (FIRST - timedelta(minutes=100)).isoformat()
        report = self.day(plan, known_at=late, charge_percent=60)["timetable"]
        self.assertTrue(any("the window begins at 93 %" in each for each in report["shortfalls"]))

    def test_a_plan_is_changed_and_its_days_stay(self):
        plan = self.plan()
        day = self.day(plan)
        changed = self.asked(runs_per_group=8, groups=[{"name": "7.1"}, {"name": "7.2", "setup": self.setup.pk}])
        page = reverse("plan-detail", args=[plan["id"]])
        answer = self.client.patch(page, changed | {"revision": 1}, format="json").json()
        self.assertEqual([group["name"] for group in answer["groups"]], ["7.1", "7.2"])
        self.assertEqual(answer["groups"][1]["setup_name"], "7.1")
        self.assertEqual(answer["advice"]["run_count"], 16)
        self.assertEqual(len(self.read(day)["scheduled_runs"]), 8)

    def test_a_line_is_reworded_and_left_out(self):
        day = self.day(self.plan())
        page = reverse("checklist-item-detail", args=[day["checklist"][0]["id"]])
        self.client.patch(page, {"text": "Gate locked behind us", "needed": False, "revision": 1})
        first = self.read(day)["checklist"][0]
        self.assertEqual((first["text"], first["needed"]), ("Gate locked behind us", False))

    def test_each_kind_of_test_adds_its_own_checks(self):
        sections = {
            kind: {item["section"] for item in self.day(self.plan(kind=kind, **more))["checklist"]}
            for kind, more in {
                "braking series": {"measure": "100-0 km/h", "groups": [{"name": "7.1"}]},
                "roll-ons": {"measure": "30-70 mph", "clock": "speed"},
                "side by side": {},
            }.items()
        }
        self.assertIn("Stops", sections["braking series"])
        self.assertIn("Roll-ons", sections["roll-ons"])
        self.assertIn("Two cars", sections["side by side"])

    def test_readers_read_and_strangers_do_not(self):
        day = self.day(self.plan())
        pages = [
            reverse(name) for name in ("plan-list", "test-day-list", "manufacturer-claim-list", "battery-interval-list")
        ]
        reader, stranger = APIClient(), APIClient()
        reader.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        for page in [
            *pages,
            reverse("test-day-detail", args=[day["id"]]),
            reverse("test-day-calendar", args=[day["id"]]),
        ]:
            self.assertEqual(reader.get(page).status_code, 200)
            self.assertEqual(stranger.get(page).status_code, 401)
        step = reverse("scheduled-run-detail", args=[day["scheduled_runs"][0]["id"]])
        self.assertEqual(reader.patch(step, {"state": "done"}).status_code, 403)
        self.assertEqual(reader.post(reverse("test-day-reset-checklist", args=[day["id"]])).status_code, 403)

    def test_the_timetable_goes_out_as_a_calendar(self):
        day = self.day(self.plan())
        answer = self.client.get(reverse("test-day-calendar", args=[day["id"]]))
        self.assertIn("day-2026-05-09.ics", answer["Content-Disposition"])
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        self.assertEqual(len(events), len(day["timetable"]["steps"]))
        leave = next(event for event in events if str(event["summary"]).startswith("Leave"))
        self.assertEqual(leave.decoded("dtstart").astimezone(UTC), FIRST - timedelta(minutes=45))

    def address(self, use: str) -> str:
        given = {"name": "phone", "role": "reader", "use": use}
        return reverse("calendar-feed", args=[self.client.post(reverse("token-list"), given).json()["token"]])

    def test_a_calendar_program_gets_every_day_by_an_address_that_opens_nothing_else(self):
        day = self.day(self.plan())
        soon = (timezone.now() + timedelta(days=3)).replace(microsecond=0)
        old = TestDay.objects.filter(pk=day["id"])
        stranger, address = APIClient(), self.address("calendar")
        self.assertEqual(len(Calendar.from_ical(stranger.get(address).content).walk("VEVENT")), 0)  # long ago by now
        old.update(first_run_at=soon, known_at=soon - timedelta(hours=9))
        answer = stranger.get(address)
        self.assertEqual(
            (answer["Content-Type"], answer["Cache-Control"]), ("text/calendar; charset=utf-8", "no-store")
        )
        (event,) = Calendar.from_ical(answer.content).walk("VEVENT")
        steps = worked_out(old.get()).steps
        self.assertEqual(event.decoded("dtstart"), min(step.at for step in steps).replace(microsecond=0))
        self.assertGreater(event.decoded("dtend"), soon)
        self.assertIn(f"{steps[0].at:%H:%M} {steps[0].kind}", str(event["description"]))
        secret = address.removeprefix("/calendar/").removesuffix(".ics")
        self.assertEqual(stranger.get(reverse("car-list"), HTTP_AUTHORIZATION=f"Bearer {secret}").status_code, 401)

    def test_another_a_revoked_and_a_disabled_persons_address_say_so(self):
        stranger = APIClient()
        for address in (self.address("api"), "/calendar/coombe_guessed.ics"):
            self.assertEqual(stranger.get(address).status_code, 404)
        address = self.address("calendar")
        self.assertEqual(stranger.get(address).status_code, 200)
        self.assertEqual(stranger.post(address).status_code, 405)
        User.objects.update(is_active=False)
        self.assertContains(stranger.get(address), "Make another address", status_code=404)
        User.objects.update(is_active=True)
        AccessToken.objects.all().delete()
        self.assertEqual(stranger.get(address).status_code, 404)

    def test_a_days_page_takes_few_queries(self):
        day = self.day(self.plan())
        with CaptureQueriesContext(connection) as asked:
            self.read(day)
        self.assertLess(len(asked), 40)
