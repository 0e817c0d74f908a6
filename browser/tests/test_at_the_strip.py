"""A day at the strip in the real interface: a whole plan with a simulated car, and what a break in its middle costs."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from playwright.sync_api import Page, expect

from cars.models import Car
from days.models import TestDay
from days.services import lay_out
from driving import HAND, violations
from plans.models import Group, Plan
from recording.models import Recorder
from recording.tests.recording_case import until
from runs.models import Run
from runs.tests.factories import PASSWORD, SetupFactory
from served import ServedTest

PACE = 9.0
RUN = {"launch": 2, "jump": 2, "spin": 2, "lift early": 1, "launch, receiver drop-out": 2}  # what each leaves to store


class StripCase(ServedTest):
    def setUp(self):
        super().setUp()
        self.page = self.open_page()

    def open_strip(self, page: Page) -> None:
        self.log_in(page, "tester", PASSWORD)
        page.goto(f"/record/{self.recorder.pk}")
        expect(page.get_by_test_id("word")).to_have_text("off")

    def start(self, page: Page) -> None:
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("word")).to_have_text("staged")

    def drive(self, page: Page, intent: str) -> Run:
        """Have the simulated car drive, and give the pull once all of it is stored and the car waits again."""
        before = Run.objects.count()
        page.get_by_role("button", name=intent, exact=True).click()
        until(f"{intent} was stored", lambda: Run.objects.count() >= before + RUN[intent])
        until("the car waits", lambda: self.made.order()["idle"])
        return Run.objects.filter(kind="standing").order_by("start_utc").last()

    def decide(self, page: Page, key: str, message: str) -> None:
        page.keyboard.press(key)
        expect(page.get_by_test_id("decision")).to_have_text(message)


class WholePlanTest(StripCase):
    def day(self) -> TestDay:
        """Three runs of each of two groups, out and back."""
        Car.objects.update(power_kw=250)
        setups = [self.recorder.setup, SetupFactory(car=self.recorder.setup.car)]
        course = self.recorder.course
        plan = Plan.objects.create(
            car=setups[0].car, course=course, question="Which is quicker?", created_by=self.person, runs_per_group=3
        )
        for position, setup in enumerate(setups):
            Group.objects.create(plan=plan, name=("before", "after")[position], position=position, setup=setup)
        Plan.objects.filter(pk=plan.pk).update(both_directions=False, low_charge_percent=50)
        plan.refresh_from_db()
        now = datetime.now(UTC)
        state = {"charge_percent": 90, "battery_temp_c": 40, "outside_temp_c": 15}
        return lay_out(plan, {"first_run_at": now, "known_at": now - timedelta(hours=2), **state})

    def test_ten_runs_of_which_four_fail_fill_the_plan_with_what_truly_was(self):
        with self.simulated_devices(pace=PACE):
            day = self.day()
            Recorder.objects.update(day=day, wanted=False)
            self.look_after_recorders()
            page = self.page
            self.open_strip(page)
            self.start(page)
            expect(page.get_by_test_id("next")).to_contain_text("before")
            for intent, key, message in (
                ("launch", "k", "Kept"),
                ("jump", "1", "Void: jumped"),
                ("launch", "k", "Kept"),
                ("lift early", "2", "Void: lifted early"),
                ("launch", "k", "Kept"),
                ("spin", "3", "Void: wheel spin"),
                ("launch", "k", "Kept"),
                ("launch, receiver drop-out", "6", "Void: gap in the fix"),
                ("launch", "k", "Kept"),
                ("launch", "k", "Kept"),
            ):
                run = self.drive(page, intent)
                expect(page.get_by_role("link", name="Run sheet")).to_have_attribute("href", f"/runs/{run.pk}")
                self.decide(page, key, message)
            expect(page.get_by_test_id("next")).to_have_text("Over")
            page.get_by_role("button", name="Stop recording").click()
            until("the recording has ended", lambda: self.recorder.recordings.get().ended_at)
        self.check_against_truth(day)

    def check_against_truth(self, day: TestDay) -> None:
        pulls = list(Run.objects.filter(kind="standing").order_by("start_utc"))
        truths = [truth for truth in self.made.truths if truth["kind"] == "standing" and truth["measures"]]
        self.assertEqual((len(pulls), len(truths)), (10, 10))
        errors = [
            error
            for run, truth in zip(pulls, truths, strict=True)
            if truth["intent"] != "spin" and run.void_reason != "gap in the fix"
            for error in self.errors_by_u95(run, truth).values()
        ]
        self.assertLess(max(errors), 3)  # the measures of a run err together: one run in many is far out in all
        self.assertGreater(sum(error <= 1 for error in errors) / len(errors), 0.75)  # 0.95 of very many
        voided = [run.void_reason for run in pulls if run.validity == "void"]
        self.assertEqual(voided, ["jumped", "lifted early", "wheel spin", "gap in the fix"])
        steps = list(day.scheduled_runs.order_by("position"))
        self.assertEqual([step.run for step in steps], [run for run in pulls if run.validity == "valid"])
        self.assertEqual([step.run.setup_id for step in steps], [step.group.setup_id for step in steps])
        day.refresh_from_db()
        self.assertEqual(day.state, "finished")


class OfflineTest(StripCase):
    def test_once_open_it_opens_without_a_network_and_forgets_itself_at_log_out(self):
        recorder = Recorder.objects.create(name="Windshield", setup=SetupFactory(), wanted=False)
        page = self.watched(self.open_context(service_workers="allow").new_page())
        self.log_in(page, "tester", PASSWORD)
        page.goto(f"/record/{recorder.pk}")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        page.reload()
        expect(page.get_by_test_id("word")).to_have_text("off")
        page.wait_for_load_state("load")
        self.kill_web()
        page.context.set_offline(True)
        page.reload()
        expect(page.get_by_test_id("word")).to_be_visible()
        expect(page).to_have_title("Windshield · Coombe")
        page.context.set_offline(False)
        self.web = self.serve()
        page.goto("/runs")
        page.get_by_role("button", name="Account of tester").click()
        page.get_by_role("menuitem", name="Log out").click()
        page.get_by_label("Password", exact=True).wait_for()
        self.assertFalse(page.evaluate("() => caches.has('coombe-last')"))


class BreakTest(StripCase):
    def test_a_reload_in_mid_run_shows_the_run_going_on_and_a_killed_recorder_comes_back(self):
        with self.simulated_devices(pace=1.3):
            Recorder.objects.update(wanted=False, measure="1/4 mile")
            self.look_after_recorders()
            self.open_strip(self.page)
            self.start(self.page)
            self.page.get_by_role("button", name="launch", exact=True).click()
            expect(self.page.get_by_test_id("word")).to_have_text("running")
            self.page.reload()
            expect(self.page.get_by_test_id("word")).to_have_text("running")
            expect(self.page.get_by_test_id("result-rollout")).to_be_visible()
            self.kill_recorder()
            expect(self.page.get_by_test_id("word")).to_have_text("away")
            expect(self.page.get_by_test_id("word")).not_to_have_text("away")
            expect(self.page.get_by_text("s without fixes: not listening.")).to_be_visible()
            self.look_over(self.page)

    def look_over(self, page: Page) -> None:
        """The strip screen with all on it: nothing serious in either theme, nothing wider than a phone."""
        self.assertEqual(violations(page), [])
        page.keyboard.press("c")
        expect(page.get_by_label("Charge before")).to_be_focused()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Dark").click()
        self.assertEqual(violations(page), [])
        page.set_viewport_size(HAND)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), HAND["width"])

    def test_a_key_pressed_while_the_web_server_is_dead_counts_once_it_is_back(self):
        sent = self.var / "sent"
        with self.simulated_devices(pace=PACE, keep=sent):
            Recorder.objects.update(wanted=False)
            self.look_after_recorders()
            page = self.page
            self.open_strip(page)
            self.start(page)
            self.drive(page, "launch")
            expect(page.get_by_test_id("result-rollout")).to_be_visible()
            self.made.order(drive="launch")
            until("the car pulls", lambda: self.made.made.car.state.speed_mps > 12)
            self.kill_web()
            expect(page.get_by_text("this is the last known state")).to_be_visible()
            self.decide(page, "5", "Void: traffic, waiting for the server")
            pull = self.runs(4)[2]
            self.assert_true(pull, next(each for each in reversed(self.made.truths) if each["kind"] == "standing"))
            self.assertEqual(Run.objects.filter(validity="void").count(), 0)
            self.web = self.serve()
            until("the key has arrived", lambda: Run.objects.filter(void_reason="traffic").exists())
            expect(page.get_by_text("this is the last known state")).to_be_hidden()
            self.assertEqual(self.recorder.presses.count(), 1)
            expect(page.get_by_role("button", name="undo: void")).to_be_visible()
            page.keyboard.press("z")
            until("the key is undone", lambda: not Run.objects.filter(validity="void").exists())
            page.get_by_role("button", name="Stop recording").click()
            recording = until(
                "the recording has ended", lambda: self.recorder.recordings.exclude(ended_at=None).first()
            )
        self.assert_kept(sent, recording.log.sha256, holes=0)
