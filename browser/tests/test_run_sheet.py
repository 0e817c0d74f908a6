"""The run sheet: choosing measures, naming an interval, correcting, pointing through all charts, files."""

from __future__ import annotations

from playwright.sync_api import expect

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from runs.services import import_log
from runs.tests.factories import SetupFactory, UserFactory


class RunSheetTest(BrowserTest):
    def setUp(self):
        super().setUp()
        person = UserFactory(username="tester")
        data = write_log(simulate(SCENARIOS["clean-run"], 44).trace, "nmea")
        log = import_log("day.nmea", data, SetupFactory(), person, {"outside_temp_c": 28, "pressure_hpa": 990}).log
        self.come_in(self.page, "tester")
        self.page.goto(f"/runs/{log.runs.get(kind='standing').pk}")
        self.sheet = self.page.get_by_role("region", name="Measures")
        expect(self.sheet.get_by_role("cell", name="1/4 mile")).to_be_visible()

    def test_measures_are_chosen_and_an_interval_is_named(self):
        self.sheet.get_by_role("button", name="Choose").click()
        self.page.get_by_label("1/8 mile").uncheck()
        self.page.get_by_label("Another measure").fill("50-80 mph")
        self.page.get_by_label("Another measure").press("Enter")
        expect(self.sheet.get_by_role("cell", name="50-80 mph")).to_be_visible()
        expect(self.sheet.get_by_role("cell", name="1/8 mile")).to_have_count(0)
        self.page.reload()
        expect(self.sheet.get_by_role("cell", name="50-80 mph")).to_be_visible()

    def test_a_corrected_time_stands_beside_the_raw_one_and_says_what_for(self):
        expect(self.sheet.get_by_role("columnheader", name="corrected, s")).to_be_visible()
        self.sheet.get_by_label("air density").check()
        expect(self.sheet.get_by_text("on a level course, air of 1.225 kg/m³")).to_be_visible()
        self.sheet.get_by_label("slope").uncheck()
        self.sheet.get_by_label("air density").uncheck()
        expect(self.sheet.get_by_role("columnheader", name="corrected, s")).to_have_count(0)

    def test_pointing_at_one_chart_marks_the_instant_in_the_others(self):
        track = self.page.get_by_role("img", name="Track of the run")
        power = self.page.get_by_role("img", name="Power against speed")
        for each in (power, track):  # drawn when they come near the window
            each.scroll_into_view_if_needed()
            expect(each.locator("svg")).to_be_visible()
        marked = 'path[fill="#6c2e63"]'
        expect(power.locator(marked)).to_have_count(0)
        chart = self.page.get_by_role("img", name="Speed against time")
        chart.scroll_into_view_if_needed()
        box = chart.bounding_box()
        self.page.mouse.move(box["x"] + box["width"] * 0.55, box["y"] + box["height"] * 0.5)
        expect(power.locator(marked)).to_have_count(1)
        expect(track.locator(marked)).to_have_count(1)

    def test_the_table_is_a_file_too(self):
        self.sheet.get_by_role("button", name="Files").click()
        with self.page.expect_download() as started:
            self.page.get_by_role("link", name="Measures, CSV").click()
        text = started.value.path().read_text()
        self.assertIn("1/4 mile,rollout,", text)
