"""A table with headings that Coombe does not know: named in the import, then read."""

from __future__ import annotations

from playwright.sync_api import expect

from driving import BrowserTest
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_layouts import table


class NamingColumnsTest(BrowserTest):
    def test_columns_are_named_once_and_the_next_file_is_read_at_once(self):
        UserFactory(username="tester")
        SetupFactory(name="As delivered")
        page = self.page
        self.come_in(page, "tester")
        page.goto("/import")
        self.choose(page, "Setup", "As delivered")
        files = page.get_by_label("Log files")
        files.set_input_files({"name": "drive.csv", "mimeType": "text/csv", "buffer": table(1)})
        columns = page.get_by_role("group", name="Columns of this file")
        expect(columns).to_be_visible()
        read = columns.get_by_role("button", name="Read with these columns")
        expect(read).to_be_disabled()
        self.choose(page, "Zeit [s]", "time since the start, s")
        self.choose(page, "v Fahrzeug", "speed, km/h")
        read.click()
        self.give_the_day()
        expect(page.get_by_text("2 runs found")).to_be_visible()
        files.set_input_files({"name": "drive-2.csv", "mimeType": "text/csv", "buffer": table(2)})
        self.give_the_day()
        expect(page.get_by_text("2 runs found")).to_have_count(2)

    def give_the_day(self) -> None:
        """These tables know no day: it is asked for before anything is stored."""
        page = self.page
        day = page.get_by_role("group", name="Day of this log")
        expect(page.get_by_text("1 log has no date.")).to_be_visible()
        expect(page.get_by_role("button", name="Import 1 log")).to_be_disabled()
        expect(day.get_by_role("button", name="Use this day")).to_be_disabled()
        day.get_by_label("Day it was driven").fill("2026-05-09")
        page.keyboard.press("Enter")
        day.get_by_role("button", name="Use this day").click()
        page.get_by_role("button", name="Import 1 log").click()
