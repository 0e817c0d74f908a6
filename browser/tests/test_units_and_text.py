"""Both unit families on the sheet, and text that stays text."""

from __future__ import annotations

from playwright.sync_api import expect

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from runs.models import Run
from runs.services import import_log
from runs.tests.factories import SetupFactory, UserFactory

# SI as stored, and what stands on the sheet, in its order: factors of NIST SP 811.
WRITTEN = {
    "charge_before_percent": ("Charge before", 95.0, "95 %", "95 %"),
    "battery_temp_before_c": ("Battery before", 45.0, "113 °F", "45 °C"),
    "load_kg": ("Load", 100.0, "220 lb", "100 kg"),
    "outside_temp_c": ("Outside", -10.0, "14 °F", "−10 °C"),
    "wind_mps": ("Wind", 4.4704, "10.0 mph", "16.1 km/h"),
    "odometer_km": ("Odometer", 1609.344, "1000 mi", "1609 km"),
}
VALUES = {name: value for name, (_, value, *_) in WRITTEN.items()}


class SheetTest(BrowserTest):
    def setUp(self):
        super().setUp()
        person = UserFactory(username="tester")
        data = write_log(simulate(SCENARIOS["clean-run"], 51).trace, "nmea")
        log = import_log("day.nmea", data, SetupFactory(tire_pressure_kpa=290), person, {}).log
        self.driven, self.stop = log.runs.get(kind="standing"), log.runs.get(kind="stop")
        self.come_in(self.page, "tester")

    def test_conditions_are_shown_in_the_chosen_family(self):
        Run.objects.filter(pk=self.driven.pk).update(**VALUES)
        self.page.goto(f"/runs/{self.driven.pk}")
        labels, _, american, metric = zip(*WRITTEN.values(), strict=True)
        conditions = self.page.get_by_label("Conditions", exact=True)
        expect(conditions.get_by_role("columnheader")).to_have_text(labels)
        expect(conditions.get_by_role("cell")).to_have_text(american)
        self.page.keyboard.press("u")
        expect(conditions.get_by_role("cell")).to_have_text(metric)

    def test_opening_and_saving_a_form_unchanged_changes_nothing(self):
        Run.objects.filter(pk=self.driven.pk).update(**VALUES)
        self.page.goto(f"/runs/{self.driven.pk}")
        self.page.get_by_role("button", name="Edit conditions").click()
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_role("button", name="Edit conditions")).to_be_visible()
        self.driven.refresh_from_db()
        self.assertEqual(self.driven.revision, 1)
        for name, value in VALUES.items():
            self.assertEqual(getattr(self.driven, name), value, name)

    def test_a_stop_is_shown_in_feet_and_in_meters(self):
        sixty = self.stop.measured.get(name="60-0 mph")
        hundred = self.stop.measured.get(name="100-0 km/h")
        self.page.goto(f"/runs/{self.stop.pk}")
        result = self.page.get_by_label("Result", exact=True)
        expect(result).to_contain_text(f"{sixty.distance_m / 0.3048:.1f} ft")
        expect(self.page.get_by_role("row", name="60-0 mph")).to_contain_text(f"± {sixty.time_u95_s:.2f}")
        self.page.keyboard.press("u")
        expect(result).to_contain_text(f"{hundred.distance_m:.1f} m")

    def test_splits_follow_the_unit(self):
        self.page.goto(f"/runs/{self.driven.pk}")
        table = self.page.locator("section", has=self.page.get_by_role("heading", name="Splits"))
        expect(table.locator("tbody tr").last.locator("td").first).to_have_text("110")
        self.page.keyboard.press("u")
        expect(table.locator("tbody tr").last.locator("td").first).to_have_text("180")

    def test_markup_in_notes_is_shown_and_never_run(self):
        notes = '<img src=x onerror="document.title=1"><b>bold</b>'
        Run.objects.filter(pk=self.driven.pk).update(notes=notes)
        self.page.goto(f"/runs/{self.driven.pk}")
        expect(self.page.get_by_text(notes)).to_be_visible()
        self.assertTrue(self.page.title().endswith("· Coombe"))

    def test_a_run_is_kept_and_voided_by_keys(self):
        self.page.goto(f"/runs/{self.driven.pk}")
        expect(self.page.get_by_role("heading", name="Splits")).to_be_visible()
        self.page.keyboard.press("v")
        self.page.get_by_role("button", name="Void run").click()
        expect(self.page.get_by_text("Void: jumped")).to_be_visible()
        self.page.keyboard.press("k")
        expect(self.page.get_by_text("Counts", exact=True)).to_be_visible()
        self.driven.refresh_from_db()
        self.assertEqual((self.driven.validity, self.driven.revision), ("valid", 3))
