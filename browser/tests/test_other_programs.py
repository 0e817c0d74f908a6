"""What other programs are given by people: a calendar's address, and an address that is notified."""

from __future__ import annotations

import urllib.error
import urllib.request

from icalendar import Calendar
from playwright.sync_api import expect

from accounts.models import Role
from driving import BrowserTest, violations
from recording.finishing import in_trouble
from recording.models import Recording
from runs.tests.factories import UserFactory
from webhooks.models import Delivery


class OtherProgramsTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="boss", role=Role.ADMINISTRATOR)
        self.come_in(self.page, "boss")

    def open(self, part: str) -> None:
        self.page.get_by_role("button", name="Account of boss").click()
        self.page.get_by_role("menuitem", name=part).click()

    def test_a_calendar_subscribes_by_the_address_that_is_shown_once(self):
        page = self.page
        self.open("Access tokens")
        page.get_by_label("Purpose").fill("phone")
        page.get_by_label("Opens").click()
        page.get_by_title("Calendar of test days").click()
        page.get_by_role("button", name="Create token").click()
        address = page.locator(".ant-alert .ant-typography").inner_text().strip()
        with urllib.request.urlopen(address) as answer:
            self.assertEqual(Calendar.from_ical(answer.read()).name, "VCALENDAR")
        self.assertEqual(violations(page), [])
        page.get_by_role("button", name="Revoke phone").click()
        page.get_by_role("button", name="Revoke", exact=True).last.click()
        expect(page.get_by_text("No access tokens yet.")).to_be_visible()
        with self.assertRaisesRegex(urllib.error.HTTPError, "404"):
            urllib.request.urlopen(address)

    def test_an_address_that_does_not_answer_is_seen_and_sent_to_again(self):
        page = self.page
        self.open("Webhooks")
        page.get_by_label("Address").fill("http://example.org/hook")
        page.get_by_role("button", name="Add address").click()
        expect(page.get_by_text("Only https, or http to this machine")).to_be_visible()
        page.get_by_label("Address").fill("http://127.0.0.1:9/hook")
        page.get_by_label("run stored").uncheck()
        page.get_by_role("button", name="Add address").click()
        expect(page.get_by_text("It is not shown again.")).to_be_visible()
        expect(page.get_by_text("comparison saved, recording in trouble")).to_be_visible()
        in_trouble.send(sender=Recording, name="Car one", trouble="The disk is full.")
        Delivery.objects.update(tries=7, given_up=True, answer="does not answer: refused")
        page.keyboard.press("Escape")
        self.open("Webhooks")
        expect(page.get_by_text("given up after 7 tries: does not answer: refused")).to_be_visible()
        self.assertEqual(violations(page), [])
        page.get_by_role("button", name="Send again").click()
        expect(page.get_by_text("after 1 try: does not answer")).to_be_visible()
        page.get_by_role("button", name="Remove http://127.0.0.1:9/hook").click()
        page.get_by_role("button", name="Remove", exact=True).last.click()
        expect(page.get_by_text("No addresses yet.")).to_be_visible()
