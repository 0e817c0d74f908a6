"""The main job through the real interface: from logs to a verdict, the same as the command gives."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

from playwright.sync_api import expect

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from runs.models import Run
from runs.tests.factories import PASSWORD, CarFactory, SetupFactory, UserFactory
from two_folders import by_command, write_logs


class MainJobTest(BrowserTest):
    def setUp(self):
        super().setUp()
        self.person = UserFactory(username="tester")
        car = CarFactory(name="Vireo")
        self.setups = {group: SetupFactory(car=car, name=name) for group, name in (("before", "7.1"), ("after", "7.2"))}
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.logs = write_logs(Path(folder.name), 1, 2)

    def import_group(self, group: str) -> None:
        page = self.page
        page.goto("/import")
        page.get_by_label("Log files").set_input_files(self.logs[group])
        found = page.get_by_role("table", name="What was found")
        expect(found.get_by_text("5 standing starts")).to_have_count(len(self.logs[group]))
        self.choose(page, "Setup", f"Vireo: {self.setups[group].name}")
        page.get_by_label("Charge before").fill("95")
        page.get_by_label("Battery before").fill("111")
        page.get_by_label("Drive mode").fill("Sport")
        page.get_by_role("button", name=re.compile(rf"^Import {len(self.logs[group])} logs?$")).click()
        for path in self.logs[group]:
            row = page.locator(".flag", has_text=path.name)
            expect(row).to_contain_text("5 runs found", timeout=60_000)

    def compare(self) -> None:
        page = self.page
        page.get_by_role("link", name="Compare").click()
        page.get_by_role("button", name="Compare groups").click()
        self.choose(page, "By change", "Vireo: as delivered to 7.2")
        expect(page.get_by_test_id("verdict")).to_have_text("faster")

    def test_from_logs_to_a_verdict(self):
        page = self.page
        self.log_in(page, "tester", PASSWORD)
        self.import_group("before")
        self.import_group("after")
        self.assertEqual(Run.objects.count(), 15)
        self.compare()
        theirs = by_command(self.logs)
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text(theirs["sentence"])
        shown = re.search(r"faster by ([\d.]+ s ± [\d.]+)", theirs["sentence"])
        expect(page.get_by_test_id("difference")).to_contain_text(f"−{shown[1]}")
        page.get_by_label("Title").fill("Did 7.2 change 0-60?")
        page.get_by_role("button", name="Save comparison").click()
        expect(page.get_by_role("heading", name="Did 7.2 change 0-60?")).to_be_visible()
        self.void_and_come_back()

    def void_and_come_back(self) -> None:
        """Open a sheet from the comparison, write a condition down, void the run, and see it drop out."""
        page = self.page
        page.locator("td a").first.click()
        expect(page.get_by_role("heading", name="Splits")).to_be_visible()
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Charge after").fill("93")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("History (2)")).to_be_visible()
        page.keyboard.press("v")
        page.get_by_label("traffic").check()
        page.get_by_role("button", name="Void run").click()
        expect(page.get_by_text("Void: traffic")).to_be_visible()
        self.assertEqual(Run.objects.filter(validity="void").count(), 1)
        page.go_back()
        expect(page.get_by_text("void: traffic")).to_be_visible()
        expect(page.locator("tr", has_text="before").first).to_contain_text("4 of 5")

    def test_a_bad_file_is_told_beside_good_ones_and_stores_nothing(self):
        page = self.page
        bad = self.logs["before"][0].with_name("notes.csv")
        bad.write_text("hello\n1,2\n")
        self.log_in(page, "tester", PASSWORD)
        page.goto("/import")
        page.get_by_label("Log files").set_input_files([bad, self.logs["before"][0]])
        found = page.get_by_role("table", name="What was found")
        expect(found.get_by_role("row", name="notes.csv")).to_contain_text("notes.csv: no known format")
        expect(found.get_by_role("row", name="before-0.nmea")).to_contain_text("5 standing starts")
        self.assertFalse(Run.objects.exists())
        self.choose(page, "Setup", "Vireo: 7.1")
        page.get_by_role("button", name="Import 1 log").click()
        expect(page.locator(".flag", has_text="before-0.nmea")).to_contain_text("5 runs found", timeout=60_000)
        self.assertEqual(Run.objects.count(), 5)


class SessionEndTest(BrowserTest):
    def test_what_was_typed_survives_a_log_in_that_ended(self):
        UserFactory(username="tester")
        from runs.services import import_log

        setup = SetupFactory()
        data = write_log(simulate(SCENARIOS["clean-run"], 3).trace, "nmea")
        run = import_log("day.nmea", data, setup, UserFactory(), {}).log.runs.last()
        page = self.page
        self.log_in(page, "tester", PASSWORD)
        page.goto(f"/runs/{run.pk}")
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Driver").fill("A. Person")
        page.wait_for_load_state("networkidle")  # a chart that is still asked for would end the session first
        page.context.clear_cookies()
        page.get_by_role("button", name="Save", exact=True).click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Name").fill("tester")
        dialog.get_by_label("Password", exact=True).fill(PASSWORD)
        dialog.get_by_role("button", name="Log in").click()
        expect(dialog).to_be_hidden()
        expect(page.get_by_label("Driver")).to_have_value("A. Person")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("History (2)")).to_be_visible()
        run.refresh_from_db()
        self.assertEqual(run.driver, "A. Person")
