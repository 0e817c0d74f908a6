"""A CAN log that goes with a receiver log: dropped with it, aligned, seen on the run's sheet."""

from __future__ import annotations

from playwright.sync_api import expect

from driving import BrowserTest
from runs.services import import_log
from runs.tests.factories import SetupFactory, UserFactory
from runs.tests.test_can_logs import drive


class CanDataTest(BrowserTest):
    def test_battery_power_and_the_clocks_offset_reach_the_sheet(self):
        UserFactory(username="tester")
        SetupFactory(name="As delivered")
        log, can_log = drive()
        page = self.page
        self.come_in(page, "tester")
        page.goto("/import")
        wrong = {"name": "wrong.log", "mimeType": "text/plain", "buffer": b"nothing of a CAN log"}
        page.get_by_label("Log files").set_input_files(
            [
                wrong,
                {"name": "drive.nmea", "mimeType": "text/plain", "buffer": log},
                {"name": "drive.log", "mimeType": "text/plain", "buffer": can_log},
            ]
        )
        found = page.get_by_role("table", name="What was found")
        expect(found.get_by_role("row", name="wrong.log")).to_contain_text("wrong.log: no known format")
        expect(found.get_by_role("row", name="drive.log")).to_contain_text("drive.nmea")  # by its time
        self.choose(page, "Setup", "As delivered")
        page.get_by_role("button", name="Import 1 log").click()
        expect(page.get_by_text("CAN log drive.log aligned")).to_be_visible(timeout=20_000)
        page.get_by_role("link", name="run 1").click()
        expect(page.get_by_text("the dashboard over-reads by 3.0")).to_be_visible()
        expect(page.get_by_text("kW battery at")).to_be_visible()
        expect(page.get_by_text("83 %").first).to_be_visible()


class WeatherReportTest(BrowserTest):
    def test_a_weather_report_fills_the_air_in_and_nothing_is_stored_before_saving(self):
        UserFactory(username="tester")
        run = import_log("drive.nmea", drive()[0], SetupFactory(), UserFactory(), {}).log.runs.get(kind="standing")
        page = self.page
        self.come_in(page, "tester")
        page.goto(f"/runs/{run.pk}")
        page.get_by_role("button", name="Edit conditions").click()
        report = page.get_by_label("Weather report (METAR)")
        report.fill("a fine day")
        page.get_by_role("button", name="Fill in the weather").click()
        expect(page.get_by_text("METAR line without temperature")).to_be_visible()
        report.fill("METAR XXXX 091250Z 24010KT 9999 FEW030 18/12 Q1013")
        report.press("Enter")
        expect(page.get_by_label("Humidity")).to_have_value("67.9")
        run.refresh_from_db()
        self.assertIsNone(run.pressure_hpa)
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("History (2)")).to_be_visible()
        run.refresh_from_db()
        self.assertAlmostEqual(run.pressure_hpa, 998.7, delta=1.0)
        self.assertEqual(run.wind_from_deg, 240)
