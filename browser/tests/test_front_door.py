"""The front door: a newcomer gets from two folders of logs to a verdict, and opening Coombe says what comes next."""

from __future__ import annotations

import tempfile
from copy import copy
from datetime import timedelta
from pathlib import Path

from django.utils import timezone
from playwright.sync_api import Locator, expect

from cars.models import Car, Setup
from comparisons.models import Comparison
from driving import BrowserTest, violations
from plans.models import Plan
from runs.models import Measured, Run
from runs.tests.factories import CourseFactory, LogFactory, RunFactory, SetupFactory, UserFactory
from two_folders import by_command, write_logs

MOST_CLICKS, MOST_FIELDS = 10, 4


class QuickCompareTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="newcomer")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.logs = write_logs(Path(folder.name), 1, 1)
        self.clicks = self.fields = 0

    def click(self, what: Locator) -> None:
        what.click()
        self.clicks += 1

    def fill(self, label: str, text: str) -> None:
        self.page.get_by_role("region", name="What changed").get_by_label(label, exact=True).fill(text)
        self.fields += 1

    def choose_folder(self, side: str) -> None:
        """A click on the place opens the browser's own window for files, where one more takes them."""
        self.page.get_by_label(f"{side.capitalize()} log files").set_input_files(self.logs[side])
        self.clicks += 2

    def test_a_newcomer_gets_from_an_empty_database_to_a_verdict(self):
        page = self.page
        self.come_in(page, "newcomer")
        page.goto("/")
        self.click(page.get_by_role("button", name="Quick compare"))
        expect(page.get_by_role("button", name="Drop before logs or folders here")).to_be_disabled()
        self.fill("Car", "Vireo")
        self.fill("What changed", "Update 7.2")
        self.choose_folder("before")
        self.choose_folder("after")
        expect(page.get_by_test_id("verdict")).to_have_text("faster", timeout=60_000)
        for side in ("before", "after"):
            done = page.get_by_role("region", name=side).get_by_text("5 runs found")
            expect(done).to_be_visible(timeout=60_000)
        theirs = by_command(self.logs)
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text(theirs["sentence"])
        self.assertEqual(violations(page), [])
        self.click(page.get_by_role("button", name="Save comparison"))
        expect(page.get_by_role("heading", name="Vireo: Update 7.2")).to_be_visible()
        self.assertLessEqual(self.clicks, MOST_CLICKS)
        self.assertLessEqual(self.fields, MOST_FIELDS)
        self.everything_is_ordinary()

    def everything_is_ordinary(self) -> None:
        car = Car.objects.get()
        self.assertEqual((car.name, [setup.name for setup in car.setups.all()]), ("Vireo", ["As it was", "Update 7.2"]))
        self.assertEqual([setup.runs.count() for setup in car.setups.all()], [5, 5])
        self.assertEqual(Comparison.objects.get().title, "Vireo: Update 7.2")
        page = self.page
        page.get_by_role("link", name="Coombe, home").click()
        verdict = (
            page.get_by_role("region", name="Latest verdicts")
            .get_by_role("listitem")
            .filter(has_text="Vireo: Update 7.2")
        )
        expect(verdict).to_contain_text("faster")
        expect(page.get_by_text("10 runs lack their charge or battery temperature.")).to_be_visible()
        self.assertEqual(violations(page), [])

    def test_a_car_that_is_there_gives_its_latest_setup_and_a_bad_file_says_why(self):
        page = self.page
        SetupFactory(car__name="Corin", name="7.1")
        bad = self.logs["before"][0].with_name("notes.nmea")
        bad.write_text("hello\n")
        self.come_in(page, "newcomer")
        page.goto("/compare/quick")
        self.fill("Car", "corin")
        self.fill("What changed", "Wheels")
        expect(page.get_by_text("Logs from before go to its setup 7.1, those from after to Wheels.")).to_be_visible()
        page.get_by_label("Before log files").set_input_files([bad, self.logs["before"][0]])
        before = page.get_by_role("region", name="before")
        expect(before.get_by_text("5 runs found")).to_be_visible(timeout=60_000)
        expect(before.locator(".flag", has_text="notes.nmea")).to_contain_text("refused")
        expect(page.get_by_text("The verdict appears once both sides have two runs: after has 0 of 2.")).to_be_visible()
        self.assertEqual({run.setup.name for run in Run.objects.all()}, {"7.1"})


class GroupsTest(BrowserTest):
    """Of ten thousand runs: all that a filter leaves, and some by hand with shift."""

    def drive(self, setup: Setup, count: int, second_s: float, drive_mode: str) -> None:
        """Runs of a setup, all in one log, whose times repeat every five."""
        last = Run.objects.order_by("start_s").values_list("start_s", flat=True).last() or 0.0
        one = RunFactory.build(setup=setup, log=self.log, drive_mode=drive_mode, sixty_s=None)
        built = [copy(one) for _ in range(count)]
        for place, run in enumerate(built, 1):
            run.start_s = last + place
            run.start_utc = one.start_utc + timedelta(seconds=10 * (place % 3000))
        Run.objects.bulk_create(built, batch_size=2000)
        runs = Run.objects.filter(start_s__gt=last).values_list("pk", flat=True)
        Measured.objects.bulk_create(
            Measured(run_id=pk, name="0-60 mph", clock="rollout", time_s=second_s + 0.01 * (pk % 5), time_u95_s=0.01)
            for pk in runs
        )

    def test_groups_are_chosen_by_filter_and_by_hand(self):
        page = self.page
        UserFactory(username="tester")
        old = SetupFactory(car__name="Vireo", name="7.1")
        new = SetupFactory(car=old.car, name="7.2")
        self.log = LogFactory()
        self.drive(old, 6000, 4.0, "Sport")
        self.drive(new, 3970, 3.8, "Sport")
        self.drive(new, 30, 3.8, "Eco")
        self.come_in(page, "tester")
        page.goto("/compare/new")
        expect(page.get_by_text("10000 of 10000 runs; a group takes the latest 500", exact=True)).to_be_visible()
        self.choose(page, "Only setup", "Vireo: 7.1 (6000)")
        expect(page.get_by_text("6000 of 10000 runs; a group takes the latest 500", exact=True)).to_be_visible()
        page.get_by_role("button", name="Add 500 to before").click()
        self.choose(page, "Only setup", "Vireo: 7.2 (4000)")
        self.choose(page, "Only drive mode", "Eco (30)")
        expect(page.get_by_text("30 of 10000 runs", exact=True)).to_be_visible()
        rows = page.get_by_role("checkbox", name="Pick the run of")
        expect(rows).to_have_count(30)
        rows.nth(1).check()
        rows.nth(4).click(modifiers=["Shift"])
        page.get_by_role("button", name="Put them into after").click()
        expect(page.get_by_test_id("verdict")).to_have_text("faster")
        expect(page.get_by_role("img", name="after: 4 values from 3.8")).to_be_visible()
        self.assertEqual(violations(page), [])


class HomeTest(BrowserTest):
    def test_the_next_day_is_one_press_away(self):
        page = self.page
        person = UserFactory(username="tester")
        setup = SetupFactory(car__name="Vireo", name="7.1")
        plan = Plan.objects.create(
            question="Did 7.2 change 0-60?", car=setup.car, course=CourseFactory(), created_by=person
        )
        plan.groups.create(name="before", position=0, setup=setup)
        day = plan.days.create(
            part=0,
            first_run_at=timezone.now() + timedelta(hours=26, minutes=10),
            known_at=timezone.now(),
            charge_percent=60,
            battery_temp_c=20,
            outside_temp_c=15,
        )
        self.come_in(page, "tester")
        page.goto("/")
        coming = page.get_by_role("region", name="Next test day")
        expect(coming).to_contain_text("in 1 d 2 h")
        expect(coming).to_contain_text("Did 7.2 change 0-60?")
        coming.get_by_role("button", name="Open the day").click()
        page.wait_for_url(f"**/days/{day.pk}")
