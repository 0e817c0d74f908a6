"""Steps on the demo's season: its three stories: real, not real, and only looks real because of charge."""

from __future__ import annotations

import io
import json

from playwright.sync_api import expect
from pypdf import PdfReader

from comparisons.models import Comparison
from driving import BrowserTest


class Stories(BrowserTest):
    """What a test asks of the three saved comparisons."""

    def open(self, title: str) -> None:
        self.page.goto("/compare")
        self.page.get_by_role("link", name=title).click()
        expect(self.page.get_by_test_id("verdict")).to_be_visible(timeout=20_000)

    def the_stories_end_rightly_and_can_be_asked_further(self) -> None:
        self.each_story_ends_in_the_right_verdict()
        self.at_like_charge_and_heat_the_covers_show_nothing()
        self.what_would_settle_it_becomes_a_plan_in_one_click()
        self.times_from_elsewhere_stand_as_a_third_group_with_their_source()
        self.a_filter_puts_runs_into_a_group()
        self.a_comparison_is_exported_and_its_charts_are_saved()

    def each_story_ends_in_the_right_verdict(self) -> None:
        page = self.page
        self.open("Did update 7.2 change 0-60?")
        expect(page.get_by_test_id("verdict")).to_have_text("faster")
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text("power")
        expect(page.get_by_label("Reasons")).to_contain_text("different days (2 and 2)")
        self.open("Did 7.2.1 change anything?")
        expect(page.get_by_test_id("verdict")).to_have_text("no clear difference")
        expect(page.get_by_label("Next runs and cost")).to_contain_text("would probably show a difference")
        self.open("Do the smooth covers help?")
        expect(page.get_by_test_id("verdict")).to_have_text("not comparable")
        expect(page.get_by_label("Differences in conditions")).to_contain_text("differs")

    def at_like_charge_and_heat_the_covers_show_nothing(self) -> None:
        page = self.page
        self.open("Do the smooth covers help?")
        page.get_by_role("button", name="Edit groups").click()
        for factor in ("charge", "battery temperature"):
            page.get_by_role("switch", name=f"Adjust for {factor}").click()
            expect(page.get_by_role("row", name=factor).first).to_contain_text("removed")
        expect(page.get_by_test_id("verdict")).to_have_text("no clear difference")
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text("unadjusted")
        page.get_by_role("switch", name="Matched by charge").click()
        expect(page.get_by_test_id("verdict")).to_have_text("too few runs")
        page.get_by_role("switch", name="Matched by charge").click()
        expect(page.get_by_test_id("verdict")).to_have_text("no clear difference")
        page.get_by_label("Title").fill("Do the covers help at like charge?")
        page.get_by_role("button", name="Save comparison").click()
        expect(page.get_by_role("heading", name="Do the covers help at like charge?")).to_be_visible()
        self.assertEqual(sorted(Comparison.objects.latest("id").adjust), ["battery temperature", "charge"])

    def what_would_settle_it_becomes_a_plan_in_one_click(self) -> None:
        page = self.page
        self.open("Did 7.2.1 change anything?")
        report = page.get_by_label("Next runs and cost").inner_text()
        page.get_by_role("button", name="Plan these runs").click()
        runs = page.get_by_label("Runs per group")
        expect(runs).to_be_visible()
        self.assertIn(f"{runs.input_value()} runs per group", report)

    def times_from_elsewhere_stand_as_a_third_group_with_their_source(self) -> None:
        page = self.page
        self.open("Did update 7.2 change 0-60?")
        page.get_by_role("button", name="Edit groups").click()
        page.get_by_role("button", name="Enter times from elsewhere").click()
        page.get_by_label("Name of the group").fill("club night")
        page.get_by_label("Times in seconds").fill("3.71 3.74, 3.69")
        page.get_by_label("Source").fill("a friend's notebook")
        page.get_by_role("button", name="Add group").click()
        table = page.get_by_label("All groups")
        expect(table.get_by_role("row", name="club night")).to_contain_text("slower")
        table.get_by_role("button", name="club night").click()
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text("entered from: a friend's notebook")

    def a_filter_puts_runs_into_a_group(self) -> None:
        page = self.page
        page.goto("/compare/new")
        self.choose(page, "Only setup", "Lumen: Delivered")
        self.choose(page, "Only day", "2026-05-09")
        page.get_by_role("button", name="Add 10 to before").click()
        page.get_by_label("Charge from").fill("90")
        expect(page.get_by_role("button", name="Add 2 to after")).to_be_visible()

    def a_comparison_is_exported_and_its_charts_are_saved(self) -> None:
        page = self.page
        self.open("Did update 7.2 change 0-60?")
        page.get_by_label("Projections").wait_for()
        page.get_by_text("All curves, one cursor").click()
        expect(page.get_by_label("of every group")).to_have_count(8)
        self.assertEqual(len(PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True))).pages), 1)
        with page.expect_download() as coming:
            page.get_by_role("link", name="JSON").click()
        report = json.loads(coming.value.path().read_text())
        self.assertEqual(report["pairs"][0]["verdict"], "faster")
        with page.expect_download() as coming:
            page.get_by_role("button", name="Save where-the-time-went as SVG").click()
        self.assertIn("<svg", coming.value.path().read_text())
        with page.expect_download() as coming:
            page.get_by_role("button", name="Save where-the-time-went as PNG").click()
        self.assertEqual(coming.value.path().read_bytes()[:8], b"\x89PNG\r\n\x1a\n")
