"""How people come in: an invitation, a second factor, another provider, and help for whoever is locked out."""

from __future__ import annotations

from django.test import override_settings
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice
from playwright.sync_api import Page, expect

from accounts.models import Role, User
from driving import BrowserTest, violations
from runs.tests.factories import PASSWORD, UserFactory
from trials.provider import Provider, running

CHOSEN = "another-long-one"


class PeopleTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="boss", role=Role.ADMINISTRATOR)

    def open_people(self) -> Page:
        self.come_in(self.page, "boss")
        self.page.get_by_role("button", name="Account of boss").click()
        self.page.get_by_role("menuitem", name="People").click()
        self.page.get_by_role("heading", name="People", exact=True).wait_for()
        return self.page

    def link(self) -> str:
        return self.page.locator(".ant-alert .ant-typography").inner_text().strip()

    def test_somebody_is_invited_and_comes_in(self):
        page = self.open_people()
        page.get_by_role("button", name="Invite somebody").click()
        page.get_by_role("button", name="Make the link").click()
        address = self.link()
        self.assertEqual(violations(page), [])
        guest = self.open_page()
        guest.goto(address)
        expect(guest.get_by_text("You are invited as tester.")).to_be_visible()
        self.assertEqual(violations(guest), [])
        guest.get_by_label("Name").fill("ada")
        guest.get_by_label("Password, at least 10 characters").fill("short")
        guest.get_by_role("button", name="Make the account").click()
        expect(guest.get_by_text("This password is too short")).to_be_visible()
        guest.get_by_label("Password, at least 10 characters").fill(CHOSEN)
        guest.get_by_role("button", name="Make the account").click()
        guest.get_by_role("link", name="Log in").click()
        self.log_in(guest, "ada", CHOSEN)
        self.assertEqual(User.objects.get(username="ada").role, Role.TESTER)
        guest.goto(address)
        expect(guest.get_by_text("Ask an administrator for another one.")).to_be_visible()

    def test_an_administrator_helps_somebody_who_forgot_the_password(self):
        UserFactory(username="ada")
        page = self.open_people()
        page.get_by_role("button", name="Change ada").click()
        page.get_by_role("menuitem", name="Link for a new password").click()
        address = self.link()
        guest = self.open_page()
        guest.goto(address)
        guest.get_by_label("Password, at least 10 characters").fill(CHOSEN)
        guest.get_by_role("button", name="Set the password").click()
        expect(guest.get_by_text("Your password is set.")).to_be_visible()
        self.log_in(guest, "ada", CHOSEN)

    def test_a_role_is_changed_and_an_account_closed_and_opened(self):
        UserFactory(username="ada")
        page = self.open_people()
        self.choose(page, "Role of ada", "reader")
        expect(page.get_by_role("table", name="People").get_by_title("reader")).to_be_visible()
        page.get_by_role("button", name="Change ada").click()
        page.get_by_role("menuitem", name="Close the account").click()
        expect(page.get_by_role("cell", name="closed")).to_be_visible()
        ada = User.objects.get(username="ada")
        self.assertEqual((ada.role, ada.is_active), (Role.READER, False))
        page.get_by_role("button", name="Change ada").click()
        page.get_by_role("menuitem", name="Open the account again").click()
        expect(page.get_by_role("cell", name="closed")).to_be_hidden()


class SecondFactorTest(BrowserTest):
    def test_it_is_turned_on_asked_for_and_turned_off(self):
        UserFactory(username="ada")
        page = self.page
        self.come_in(page, "ada")
        self.open(page)
        page.get_by_role("button", name="Turn on").click()
        expect(page.get_by_alt_text("QR code for the authenticator app")).to_be_visible()
        self.assertEqual(violations(page), [])
        device = TOTPDevice.objects.get(user__username="ada")
        page.get_by_label("Code").fill(f"{totp(device.bin_key):06}")
        page.get_by_role("button", name="Confirm").click()
        recovery = page.locator(".recovery code").first.inner_text()
        self.assertEqual(violations(page), [])
        self.log_in_with(recovery).get_by_role("heading", name="Runs", exact=True).wait_for()
        refused = self.log_in_with(recovery)
        expect(refused.get_by_text("This code is wrong or was used before.")).to_be_visible()
        page.keyboard.press("Escape")
        self.open(page)
        expect(page.get_by_text("9 recovery codes are left")).to_be_visible()
        page.get_by_label("Your password").fill(PASSWORD)
        page.get_by_role("button", name="Turn off").click()
        expect(page.get_by_role("button", name="Turn on")).to_be_visible()

    def log_in_with(self, code: str) -> Page:
        page = self.open_page()
        page.goto("/runs")
        page.get_by_label("Name").fill("ada")
        page.get_by_label("Password", exact=True).fill(PASSWORD)
        page.get_by_role("button", name="Log in").click()
        page.get_by_label("Code of your authenticator app").fill(code)
        page.get_by_role("button", name="Log in").click()
        return page

    def open(self, page: Page) -> None:
        page.get_by_role("button", name="Account of ada").click()
        page.get_by_role("menuitem", name="Second factor").click()

    def test_a_browser_that_was_left_open_is_logged_out_from_another(self):
        UserFactory(username="ada")
        self.come_in(self.page, "ada")
        other = self.open_page()
        self.log_in(other, "ada", PASSWORD)
        other.get_by_role("button", name="Account of ada").click()
        other.get_by_role("menuitem", name="Where you are logged in").click()
        expect(other.get_by_text("this one")).to_be_visible()
        self.assertEqual(violations(other), [])
        other.get_by_role("dialog").get_by_role("button", name="Log out").click()
        expect(other.get_by_role("dialog").get_by_role("button", name="Log out")).to_be_hidden()
        self.page.goto("/cars")
        expect(self.page.get_by_role("button", name="Log in")).to_be_visible()


class ProviderTest(BrowserTest):
    def test_somebody_signs_in_at_the_provider_and_a_stranger_reads_why_not(self):
        with running(Provider()) as provider:
            named = {"issuer": provider.issuer, "client_id": "coombe", "client_secret": "simulated", "name": "Example"}
            with override_settings(SIGN_IN=named):
                page = self.page
                page.goto("/")
                page.get_by_role("link", name="Sign in at Example").click()
                expect(page.get_by_text("Nobody here is known by ada@example.org.")).to_be_visible()
                self.assertEqual(violations(page), [])
                UserFactory(username="ada", email="ada@example.org")
                page.get_by_role("link", name="Sign in at Example").click()
                expect(page.get_by_role("button", name="Account of ada")).to_be_visible()
