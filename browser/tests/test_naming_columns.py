"""A table with headings that Coombe does not know: named in the import, then read."""

from __future__ import annotations

from playwright.sync_api import expect

from driving import BrowserTest
from runs.tests.factories import PASSWORD, SetUpFactory, UserFactory
from runs.tests.test_layouts import table


class NamingColumnsTest(BrowserTest):
    def test_columns_are_named_once_and_the_next_file_is_read_at_once(self):
        UserFactory(username="tester")
        SetUpFactory(name="As delivered")
        page = self.page
        self.log_in(page, "tester", PASSWORD)
        self.choose(page, "Set-up", "As delivered")
        files = page.get_by_label("Log files")
        files.set_input_files({"name": "drive.csv", "mimeType": "text/csv", "buffer": table(1)})
        columns = page.get_by_role("group", name="Columns of this file")
        expect(columns).to_be_visible()
        read = columns.get_by_role("button", name="Read it so")
        expect(read).to_be_disabled()
        self.choose(page, "Zeit [s]", "time since the start, s")
        self.choose(page, "v Fahrzeug", "speed, km/h")
        read.click()
        expect(page.get_by_text("2 runs found")).to_be_visible()
        files.set_input_files({"name": "drive-2.csv", "mimeType": "text/csv", "buffer": table(2)})
        expect(page.get_by_text("2 runs found")).to_have_count(2)
