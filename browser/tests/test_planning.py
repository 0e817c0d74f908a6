"""The evening before, in the real interface: from an empty notebook to a printed sheet, and a refused strip."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from days.models import TestDay
from driving import BrowserTest
from plans.models import Plan
from runs.tests.factories import CarFactory, CourseFactory, SetupFactory, UserFactory


class PlanningTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="tester")
        self.come_in(self.page, "tester")

    def add_car(self) -> None:
        page = self.page
        page.get_by_role("link", name="Cars").click()
        page.get_by_role("button", name="Add a car").click()
        page.get_by_label("Name").fill("Vireo")
        page.get_by_label("Mass as tested").fill("4400")
        page.get_by_label("Power, kW").fill("250")
        page.get_by_label("Battery, kWh").fill("80")
        page.get_by_role("button", name="Add car").click()
        page.get_by_role("link", name="Vireo").click()
        page.get_by_role("button", name="Add a setup").click()
        page.get_by_label("Name").fill("Software 7.1")
        page.get_by_role("button", name="Add setup").click()
        expect(page.get_by_role("cell", name="Software 7.1", exact=True)).to_be_visible()

    def add_course(self) -> None:
        page = self.page
        page.get_by_role("link", name="Courses").click()
        page.get_by_role("button", name="Add a course").click()
        page.get_by_label("Name").fill("Brackmoor")
        page.get_by_label("Heading, degrees").fill("68")
        page.get_by_label("Length").fill("3000")
        page.get_by_label("Runout").fill("500")
        page.get_by_role("button", name="Add course").click()
        expect(page.get_by_label("Strip check")).to_contain_text("The strip is long enough")

    def ask(self) -> None:
        page = self.page
        page.get_by_role("link", name="Plan", exact=True).click()
        page.get_by_role("button", name="New plan").click()
        page.get_by_label("Question", exact=True).fill("Did 7.2 change 0-60?")
        self.choose(page, "Setup of group 1", "Software 7.1")
        page.get_by_role("switch", name="Can you switch between the groups").click()
        expect(page.get_by_label("How many runs")).to_contain_text("partly inseparable")
        page.get_by_label("Difference that matters").fill("0.15")
        expect(page.get_by_test_id("runs-needed")).to_contain_text("runs per group")
        page.get_by_role("button", name="Save plan").click()
        expect(page.get_by_role("heading", name="Did 7.2 change 0-60?")).to_be_visible()

    def lay_out(self) -> None:
        page = self.page
        page.get_by_role("button", name="Plan day 1 of 4").click()
        page.get_by_label("Charge at that time").fill("62")
        page.get_by_label("Battery at that time").fill("64")
        page.get_by_role("button", name="Plan the day").click()
        expect(page.get_by_role("region", name="Runs")).to_contain_text("0 driven, 2 open")

    def test_a_before_and_after_day_from_an_empty_notebook_to_a_printed_sheet(self):
        page = self.page
        self.add_car()
        self.add_course()
        self.ask()
        page.get_by_role("button", name="Edit plan").click()
        page.get_by_label("Runs per group", exact=True).fill("4")
        expect(page.get_by_label("How many runs")).to_contain_text("The 4 planned runs detect")
        page.get_by_role("button", name="Save plan").click()
        self.lay_out()
        runs = page.get_by_role("region", name="Runs")
        page.get_by_role("button", name="Driven: run 1").click()
        expect(runs).to_contain_text("1 driven, 1 open")
        page.get_by_role("button", name="Repeat run 1").click()
        expect(runs).to_contain_text("1 driven, 2 open")
        page.get_by_role("button", name="Skip run 3").click()
        expect(runs).to_contain_text("1 driven, 1 open")
        checks = page.get_by_role("region", name="Checklist")
        for number in range(checks.get_by_role("checkbox").count()):
            checks.get_by_role("checkbox").nth(number).click()
            expect(checks.get_by_role("checkbox").nth(number)).to_be_checked()
        expect(checks).to_contain_text("Go: everything is signed off")
        page.get_by_role("link", name="Day sheet").click()
        expect(page.get_by_role("heading", name="Runs, 0-60 mph")).to_be_visible()
        expect(page.get_by_role("columnheader", name="Keep or void")).to_be_visible()
        sheet = page.pdf(format="A4")
        self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", sheet)), 1)
        self.assertEqual(TestDay.objects.get().scheduled_runs.count(), 3)

    def test_a_change_without_a_baseline_is_warned_of_on_the_cars_page(self):
        page = self.page
        self.add_car()
        self.add_course()
        self.ask()
        page.get_by_role("link", name="Cars").click()
        page.get_by_role("link", name="Vireo").click()
        expect(page.get_by_text("0 valid runs of 0-60 mph on before")).to_be_visible()

    def test_a_strip_that_is_too_short_is_refused_and_says_by_how_much(self):
        page = self.page
        SetupFactory(car=CarFactory(name="Vireo", power_kw=250))
        CourseFactory(name="Lane", length_m=300, runout_m=50)
        page.goto("/plans/new")
        page.get_by_label("Question", exact=True).fill("How fast is it?")
        strip = page.get_by_role("region", name="Strip length")
        expect(strip).to_contain_text("long enough")
        measure = page.get_by_role("combobox", name="Measure")
        measure.fill("1/4 mile")
        measure.press("Escape")
        expect(strip).to_contain_text(re.compile(r"The strip is \d+ m \(\d+ ft\) too short"))
        expect(strip).to_contain_text(re.compile(r"highest speed that fits is \d+ mph"))
        expect(page.get_by_role("button", name="Save plan")).to_be_disabled()
        self.assertEqual(Plan.objects.count(), 0)


class BatteryReadingsTest(BrowserTest):
    def test_pasted_readings_teach_the_battery_and_a_bad_row_is_named(self):
        UserFactory(username="tester")
        setup = SetupFactory(car=CarFactory(name="Vireo", battery_kwh=80))
        page = self.page
        self.come_in(page, "tester")
        page.goto(f"/cars/{setup.car_id}")
        battery = page.get_by_role("region", name="Battery")
        expect(battery).to_contain_text("assumed; log the battery while the car rests")
        battery.get_by_role("button", name="Add readings").click()
        began = battery.get_by_label("From")
        began.fill("2026-04-01 20:00")
        began.press("Enter")
        rows = battery.get_by_label("Rows of minutes")
        rows.fill("0, 45, 8\n20, forty, 8\n40, 40, 8")
        battery.get_by_role("button", name="Save readings").click()
        expect(battery).to_contain_text("Line 2: four numbers")
        rows.fill("0, 45, 8\n20, 42.5, 8\n40, 40, 8\n60, 38, 8")
        battery.get_by_role("button", name="Save readings").click()
        expect(battery).to_contain_text("learned from 1 rest interval")
