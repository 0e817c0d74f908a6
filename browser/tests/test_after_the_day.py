"""After the day, in the real interface: a photograph on a run, and what is missing pasted from a spreadsheet."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from playwright.sync_api import expect

from driving import BrowserTest
from runs.models import Attachment, Run
from runs.services import import_log
from runs.tests.factories import RunFactory, SetupFactory, UserFactory
from runs.tests.test_attachments import photograph
from runs.tests.test_import import log_bytes

FIRST = datetime(2026, 5, 9, 9, 0, tzinfo=UTC)


class AfterTheDayTest(BrowserTest):
    def setUp(self):
        super().setUp()
        self.person = UserFactory(username="tester")
        self.come_in(self.page, "tester")

    def test_pasted_rows_show_what_is_doubtful_and_are_written_down(self):
        for place in range(3):
            RunFactory(start_utc=FIRST + timedelta(minutes=6 * place))
        page = self.page
        page.goto("/runs")
        page.get_by_role("link", name="Add missing conditions").click()
        expect(page.get_by_text("3 runs lack charge or battery temperature")).to_be_visible()
        page.get_by_label("temperatures in °C").check()
        box = page.get_by_label("Spreadsheet rows")
        box.fill("95\t94\t111\t112\n94\t93\t45\t46\n93\t92\t46\t47")
        expect(page.get_by_text("Did you mean 44 °C (111 °F)?").first).to_be_visible()
        expect(page.get_by_role("button", name="Save 3 rows")).to_be_disabled()
        box.fill("95\t94\t44\t45\n94\t93\t45\t46\n93\t92\t46\t47")
        page.get_by_role("button", name="Save 3 rows").click()
        expect(page.get_by_role("heading", name="Nothing is missing")).to_be_visible()
        self.assertEqual(Run.objects.filter(charge_before_percent__gte=93).count(), 3)

    def test_a_photograph_is_attached_to_a_run_and_shows_without_its_place(self):
        log = import_log("day.nmea", log_bytes(), SetupFactory(), self.person, {}).log
        page = self.page
        page.goto(f"/runs/{log.runs.first().pk}")
        sheet = page.get_by_role("region", name="Attachments")
        page.get_by_label("Photograph or PDF").set_input_files(
            {"name": "dash.jpg", "mimeType": "image/jpeg", "buffer": photograph()}
        )
        expect(sheet.get_by_role("link", name="dash.jpg")).to_be_visible()
        self.assertEqual(Attachment.objects.get().media_type, "image/jpeg")
        page.get_by_label("Photograph or PDF").set_input_files(
            {"name": "notes.txt", "mimeType": "text/plain", "buffer": b"plain words"}
        )
        expect(sheet).to_contain_text("notes.txt is no JPEG, PNG, WebP or PDF")
        sheet.get_by_role("button", name="Delete dash.jpg").click()
        expect(sheet.get_by_role("link", name="dash.jpg")).to_be_hidden()
