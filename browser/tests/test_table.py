"""The table of runs: sorting, filters, columns that are remembered, and picking groups from it."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from runs.models import Measured, Run
from runs.services import import_log
from runs.tests.factories import SetupFactory, UserFactory


class TableTest(BrowserTest):
    def setUp(self):
        super().setUp()
        person = UserFactory(username="tester")
        for name, seed in (("five-runs", 31), ("after-update", 32)):
            setup = SetupFactory(name=name)
            import_log(f"{name}.nmea", write_log(simulate(SCENARIOS[name], seed).trace, "nmea"), setup, person, {})
        self.come_in(self.page, "tester")

    def times(self, page: Page) -> list[float]:
        headings = page.locator("thead th").all_inner_texts()
        at = next(place for place, text in enumerate(headings, 1) if text.startswith("0-60 mph"))
        cells = page.locator(f"tbody tr td:nth-child({at})").all_inner_texts()
        return [float(text.split(" ")[0]) for text in cells]

    def test_sorting_by_a_measure_orders_every_row(self):
        page = self.page
        page.get_by_role("columnheader", name="0-60 mph rollout").click()
        fastest = Measured.objects.filter(name="0-60 mph", clock="rollout").order_by("time_s").first()
        expect(page.locator("tbody tr").first).to_contain_text(f"{fastest.time_s:.2f}")
        times = self.times(page)
        self.assertEqual(len(times), 10)
        self.assertEqual(times, sorted(times))

    def test_a_link_with_filters_shows_the_same_runs(self):
        page = self.page
        setup = Run.objects.order_by("pk").first().setup_id
        page.goto(f"/runs?setup={setup}")
        expect(page.get_by_text("5 in this list")).to_be_visible()

    def test_hidden_columns_stay_hidden(self):
        page = self.page
        expect(page.get_by_role("columnheader", name="Battery")).to_be_visible()
        page.get_by_role("button", name="Columns").click()
        page.get_by_role("checkbox", name="Battery").uncheck()
        expect(page.get_by_role("columnheader", name="Battery")).to_have_count(0)
        page.reload()
        expect(page.get_by_role("columnheader", name="Charge")).to_be_visible()
        expect(page.get_by_role("columnheader", name="Battery")).to_have_count(0)

    def test_picked_runs_become_groups_and_a_verdict(self):
        page = self.page
        for group, name in (("before", "five-runs"), ("after", "after-update")):
            rows = page.locator("tbody tr", has_text=name)
            for index in range(3):
                rows.nth(index).get_by_role("checkbox").check()
            page.get_by_role("button", name=f"Add to {group.capitalize()}").click()
        tray = page.get_by_role("region", name="Groups")
        expect(tray).to_contain_text("before: 3")
        tray.get_by_role("button", name="Compare", exact=True).click()
        expect(page.get_by_test_id("verdict")).to_have_text("faster")
        expect(page.get_by_label("Verdict", exact=True)).to_contain_text("after")
        self.assertIn("ask=", page.url)

    def test_a_temperature_typed_in_fahrenheit_is_kept_in_celsius(self):
        page = self.page
        run = Run.objects.last()
        page.goto(f"/runs/{run.pk}")
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Battery before").fill("113")
        page.get_by_label("Wind", exact=True).fill("10")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("History (2)")).to_be_visible()
        run.refresh_from_db()
        self.assertAlmostEqual(run.battery_temp_before_c, 45.0)
        self.assertAlmostEqual(run.wind_mps, 4.4704)

    def test_a_slip_of_unit_is_told_at_its_field_and_nothing_is_lost(self):
        page = self.page
        page.keyboard.press("u")
        page.goto(f"/runs/{Run.objects.last().pk}")
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Driver").fill("A. Person")
        page.get_by_label("Battery before").fill("126")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("126 °F would be 52 °C: is the unit right?")).to_be_visible()
        expect(page.get_by_label("Driver")).to_have_value("A. Person")

    def test_someone_else_s_change_is_not_overwritten(self):
        page = self.page
        run = Run.objects.last()
        page.goto(f"/runs/{run.pk}")
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Driver").fill("A. Person")
        Run.objects.filter(pk=run.pk).update(revision=2, driver="B. Person")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("Someone else changed this in the meantime")).to_be_visible()
        expect(page.get_by_label("Driver")).to_have_value("A. Person")
        both = page.get_by_role("alert").filter(has_text="Changed in the meantime")
        expect(both).to_contain_text("A. Person")
        expect(both).to_contain_text("B. Person")
        run.refresh_from_db()
        self.assertEqual(run.driver, "B. Person")
        page.get_by_role("button", name="Save what is chosen").click()
        expect(page.get_by_text("History (2)")).to_be_visible()
        run.refresh_from_db()
        self.assertEqual(run.driver, "A. Person")

    def test_a_run_deleted_meanwhile_says_that_it_is_gone(self):
        page = self.page
        page.goto("/runs/999999")
        expect(page.get_by_role("heading", name="Not found")).to_be_visible()
