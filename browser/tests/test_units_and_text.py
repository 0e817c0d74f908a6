"""Both unit families on the sheet, and text that stays text."""

from __future__ import annotations

from playwright.sync_api import expect

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from runs.models import Run
from runs.services import import_log
from runs.tests.factories import PASSWORD, SetUpFactory, UserFactory

# SI as stored, and what stands on the sheet: factors of NIST SP 811.
WRITTEN = {
    "pack_temp_before_c": (45.0, "113 °F", "45 °C"),
    "outside_temp_c": (-10.0, "14 °F", "−10 °C"),
    "wind_mps": (4.4704, "10.0 mph", "16.1 km/h"),
    "load_kg": (100.0, "220 lb", "100 kg"),
    "odometer_km": (1609.344, "1000 mi", "1609 km"),
    "charge_before_percent": (95.0, "95 %", "95 %"),
}
LABELS = {
    "pack_temp_before_c": "Pack before",
    "outside_temp_c": "Outside",
    "wind_mps": "Wind",
    "load_kg": "Load",
    "odometer_km": "Odometer",
    "charge_before_percent": "Charge before",
}


class SheetTest(BrowserTest):
    def setUp(self):
        super().setUp()
        person = UserFactory(username="tester")
        data = write_log(simulate(SCENARIOS["clean-run"], 51).trace, "nmea")
        log = import_log("day.nmea", data, SetUpFactory(tire_pressure_kpa=290), person, {}).log
        self.driven, self.stop = log.runs.get(kind="standing"), log.runs.get(kind="stop")
        self.log_in(self.page, "tester", PASSWORD)

    def condition(self, label: str):
        term = self.page.get_by_label("Conditions", exact=True).locator(
            "div", has=self.page.locator(f"dt >> text='{label}'")
        )
        return term.locator("dd").last

    def test_conditions_are_shown_in_the_chosen_family(self):
        Run.objects.filter(pk=self.driven.pk).update(**{name: value[0] for name, value in WRITTEN.items()})
        self.page.goto(f"/runs/{self.driven.pk}")
        for family in (1, 2):
            for name, shown in WRITTEN.items():
                expect(self.condition(LABELS[name])).to_have_text(shown[family])
            self.page.keyboard.press("u")

    def test_opening_and_saving_a_form_unchanged_changes_nothing(self):
        Run.objects.filter(pk=self.driven.pk).update(**{name: value[0] for name, value in WRITTEN.items()})
        self.page.goto(f"/runs/{self.driven.pk}")
        self.page.get_by_role("button", name="Write down").click()
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_role("button", name="Write down")).to_be_visible()
        self.driven.refresh_from_db()
        self.assertEqual(self.driven.revision, 1)
        for name, value in WRITTEN.items():
            self.assertEqual(getattr(self.driven, name), value[0], name)

    def test_a_stop_is_shown_in_feet_and_in_metres(self):
        sixty = self.stop.measured.get(name="60-0 mph")
        hundred = self.stop.measured.get(name="100-0 km/h")
        self.page.goto(f"/runs/{self.stop.pk}")
        result = self.page.get_by_label("Result", exact=True)
        expect(result).to_contain_text(f"{sixty.distance_m / 0.3048:.1f} ft")
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
        self.page.get_by_role("button", name="Void the run").click()
        expect(self.page.get_by_text("Void: jumped")).to_be_visible()
        self.page.keyboard.press("k")
        expect(self.page.get_by_text("Counts", exact=True)).to_be_visible()
        self.driven.refresh_from_db()
        self.assertEqual((self.driven.validity, self.driven.revision), ("valid", 3))
