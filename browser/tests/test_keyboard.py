"""The main job without a mouse: every step is reached by Tab and done by keys."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Locator, expect

from comparisons.models import Comparison
from driving import BrowserTest
from runs.models import Run
from runs.tests.factories import PASSWORD, CarFactory, SetupFactory, UserFactory
from two_folders import write_logs

MOST_TABS = 120


class KeyboardTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="tester")
        car = CarFactory(name="Vireo")
        for name in ("7.1", "7.2"):
            SetupFactory(car=car, name=name)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.logs = write_logs(Path(folder.name), 1, 1)

    def tab_to(self, what: Locator) -> None:
        """Press Tab until something has the focus, which has to show."""
        what.wait_for()
        for _ in range(MOST_TABS):
            if what.evaluate("(each) => each === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{MOST_TABS} times Tab never reached {what}")

    def press(self, what: Locator) -> None:
        self.tab_to(what)
        self.page.keyboard.press("Enter")

    def pick(self, label: str, text: str) -> None:
        """An option of a list: type some of it, and take the first that is left."""
        box = self.page.get_by_role("combobox", name=label)
        self.tab_to(box)
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.type(text)
        self.page.locator(".ant-select-item-option-active", has_text=text).wait_for()
        self.page.keyboard.press("Enter")

    def log_in_by_keys(self) -> None:
        page = self.page
        page.goto("/")
        self.tab_to(page.get_by_label("Name"))
        page.keyboard.type("tester")
        self.tab_to(page.get_by_label("Password", exact=True))
        page.keyboard.type(PASSWORD)
        page.keyboard.press("Enter")

    def import_by_keys(self, group: str, setup: str) -> None:
        page = self.page
        page.keyboard.press("r")
        self.press(page.get_by_role("button", name="Import logs"))
        drop = page.get_by_role("button", name="logs or folders here")
        with page.expect_file_chooser() as coming:
            self.press(drop)
        coming.value.set_files(self.logs[group])
        page.get_by_role("table", name="What was found").get_by_text("5 standing starts").wait_for()
        self.pick("Setup", setup)
        self.press(page.get_by_role("button", name="Import 1 log"))
        page.get_by_text("All of it is stored.").wait_for(timeout=60_000)

    def test_logs_become_a_saved_verdict_and_a_run_is_voided(self):
        page = self.page
        self.log_in_by_keys()
        page.get_by_role("link", name="Coombe, home").wait_for()
        self.import_by_keys("before", "7.1")
        self.import_by_keys("after", "7.2")
        page.keyboard.press("m")
        self.press(page.get_by_role("button", name="Compare groups"))
        self.pick("By change", "7.2")
        expect(page.get_by_test_id("verdict")).to_have_text("faster")
        self.tab_to(page.get_by_label("Title"))
        page.keyboard.type("By keys")
        self.press(page.get_by_role("button", name="Save comparison"))
        expect(page.get_by_role("heading", name="By keys")).to_be_visible()
        self.assertEqual(Comparison.objects.get().title, "By keys")
        self.press(page.locator("td a").first)
        expect(page.get_by_role("heading", name="Splits")).to_be_visible()
        page.keyboard.press("v")
        reasons = page.get_by_role("dialog").get_by_role("radio")
        self.tab_to(reasons.first)
        page.keyboard.press("Space")
        while not page.get_by_role("radio", name="traffic").is_checked():
            page.keyboard.press("ArrowDown")
        self.press(page.get_by_role("button", name="Void run"))
        expect(page.get_by_text("Void: traffic")).to_be_visible()
        self.assertEqual(Run.objects.filter(validity="void").count(), 1)
