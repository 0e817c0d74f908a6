"""Driving the real interface in headless Chromium."""

from __future__ import annotations

import os
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import Client
from playwright.sync_api import BrowserContext, Page, expect, sync_playwright

from accounts.models import User
from chromium import CHROMIUM

# Playwright's synchronous interface runs a loop in this thread, which Django takes for asynchronous code.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]
AXE = settings.ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
COLOR_RULES = ["color-contrast", "link-in-text-block"]  # what another theme can break
PATIENCE_MS = 40_000  # shared machines have slow minutes; nothing here is a test of speed
expect.set_options(timeout=PATIENCE_MS)
DESK = {"width": 1280, "height": 800}
HAND = {"width": 390, "height": 844}


class InBrowser:
    """A browser and a page on an address; whatever the page reports as an error fails the test."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.chromium = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        cls.addClassCleanup(cls.chromium.close)

    @property
    def address(self) -> str:
        return self.live_server_url

    def open_page(self) -> Page:
        return self.watched(self.open_context().new_page())

    def watched(self, page: Page) -> Page:
        """The page, whose own errors fail the test."""
        reported: list[str] = []
        page.on("pageerror", lambda error: reported.append(str(error)))
        self.addCleanup(lambda: self.assertEqual(reported, []))
        return page

    def open_context(self, **options: object) -> BrowserContext:
        given = {"viewport": DESK, "base_url": self.address, "service_workers": "block"}
        context = self.chromium.new_context(**{**given, **options})
        context.set_default_timeout(PATIENCE_MS)
        self.addCleanup(context.close)
        return context

    def log_in(self, page: Page, username: str, password: str) -> None:
        page.goto("/runs")
        page.get_by_label("Name").fill(username)
        page.get_by_label("Password", exact=True).fill(password)
        page.get_by_role("button", name="Log in").click()
        page.get_by_role("heading", name="Runs", exact=True).wait_for()

    def choose(self, page: Page, label: str, option: str) -> None:
        """Pick an option of a select by its label."""
        page.get_by_role("combobox", name=label).click()
        page.locator(".ant-select-item-option", has_text=option).last.click()


class BrowserTest(InBrowser, StaticLiveServerTestCase):
    """A test with a page on Django's own server. The tests of a class share what the browser has cached, no more."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.context = cls.chromium.new_context(viewport=DESK, base_url=cls.live_server_url, service_workers="block")
        cls.context.set_default_timeout(PATIENCE_MS)
        cls.addClassCleanup(cls.context.close)

    def setUp(self) -> None:
        super().setUp()
        self.page = self.watched(self.context.new_page())
        self.addCleanup(self.forget, self.page)

    def forget(self, page: Page) -> None:
        """Leave nothing to the next test but what is cached."""
        if page.url.startswith("http"):
            page.evaluate("() => { localStorage.clear(); sessionStorage.clear() }")
        page.close()
        self.context.clear_cookies()

    def come_in(self, page: Page, username: str) -> None:
        """Open the runs as somebody who has logged in before."""
        client = Client()
        client.force_login(User.objects.get(username=username), backend="django.contrib.auth.backends.ModelBackend")
        session = client.cookies[settings.SESSION_COOKIE_NAME].value
        page.context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.address}])
        page.goto("/runs")
        page.get_by_role("heading", name="Runs", exact=True).wait_for()


def violations(page: Page, colors_only: bool = False) -> list[str]:
    """The serious and critical findings of axe on the page as it is; of all its rules, or of those about colors."""
    page.evaluate(Path(AXE).read_text())
    options = {"runOnly": {"type": "rule", "values": COLOR_RULES}} if colors_only else {}
    found = page.evaluate("async (options) => (await axe.run(document, options)).violations", options)
    return [
        f"{each['id']}: {node['html'][:160]} {node['failureSummary'][:200]}"
        for each in found
        if each["impact"] in ("serious", "critical")
        for node in each["nodes"]
    ]
