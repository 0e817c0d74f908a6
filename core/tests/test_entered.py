"""Questions about what was entered: asked where they should be, silent where nothing is wrong.

What is usual is common practice: tires of cars 2 to 3 bar, electric cars of 1000 to 3500 kg, batteries launched warm.
"""

from __future__ import annotations

from datetime import date
from unittest import TestCase

from coombe_core.flags.entered import Asked, Known, questions
from coombe_core.units import PSI_KPA, celsius

NOTHING = Known()


class QuestionsTest(TestCase):
    def one(self, known: Known = NOTHING, **values) -> Asked:
        (asked,) = questions(values, known)
        return asked

    def none(self, known: Known = NOTHING, **values) -> None:
        self.assertEqual(questions(values, known), [])

    def test_a_charge_that_rises(self):
        asked = self.one(charge_before_percent=90.0, charge_after_percent=94.0)
        self.assertEqual((asked.field, asked.code, asked.suggestion), ("charge_after_percent", "charge rises", None))
        self.none(charge_before_percent=90.0, charge_after_percent=90.5)  # a dashboard shows whole points
        self.none(charge_after_percent=94.0)

    def test_forty_typed_while_the_page_is_in_fahrenheit(self):
        """40 °F is 4.4 °C; 40 °C was meant, as CAN data, the run before and the season show."""
        typed = celsius(40.0)
        for known, code in (
            (Known(can_battery_c=41.0), "unlike can"),
            (Known(neighbor_battery_c=38.0, neighbor_min=5.0), "unlike neighbor"),
            (Known(), "other scale"),
            (Known(outside_temp_c=20.0), "other scale"),
        ):
            asked = self.one(known, battery_temp_before_c=typed)
            self.assertEqual(asked.code, code)
            self.assertAlmostEqual(asked.suggestion, 40.0)

    def test_a_hundred_and_four_typed_while_the_page_is_in_celsius(self):
        self.assertAlmostEqual(self.one(battery_temp_after_c=104.0).suggestion, 40.0)
        known = Known(neighbor_battery_c=27.0, neighbor_min=3.0)
        self.assertAlmostEqual(self.one(known, battery_temp_after_c=80.0).suggestion, celsius(80.0))

    def test_a_battery_that_is_as_cold_as_the_air_is_believed(self):
        self.none(battery_temp_before_c=4.0, outside_temp_c=2.0)
        self.none(Known(outside_temp_c=1.0), battery_temp_before_c=4.0)

    def test_a_battery_warms_between_runs(self):
        self.none(Known(neighbor_battery_c=38.0, neighbor_min=5.0), battery_temp_before_c=45.0)
        asked = self.one(Known(neighbor_battery_c=38.0, neighbor_min=5.0), battery_temp_before_c=55.0)
        self.assertIsNone(asked.suggestion)  # no scale makes sense of it

    def test_outside_far_from_the_weather(self):
        known = Known(outside_temp_c=15.0)
        self.assertAlmostEqual(self.one(known, outside_temp_c=59.0).suggestion, 15.0)
        self.none(known, outside_temp_c=20.0)
        self.none(outside_temp_c=45.0)  # with nothing to compare it with

    def test_pressures_typed_in_bar_or_in_the_other_unit(self):
        for typed_kpa, meant_kpa in (
            (2.9, 290.0),  # bar, on a page in kPa
            (42.0, 42.0 * PSI_KPA),  # psi, on a page in kPa
            (2.9 * PSI_KPA, 290.0),  # bar, on a page in psi
            (290.0 * PSI_KPA, 290.0),  # kPa, on a page in psi
        ):
            self.assertAlmostEqual(self.one(tire_pressure_kpa=typed_kpa).suggestion, meant_kpa)
        self.none(tire_pressure_kpa=290.0, tire_pressure_hot_kpa=320.0)

    def test_masses_in_pounds_and_kilograms(self):
        self.assertAlmostEqual(self.one(test_mass_kg=4586.0).suggestion, 4586 * 0.45359237)
        self.assertAlmostEqual(self.one(test_mass_kg=2080 * 0.45359237).suggestion, 2080.0)
        self.none(test_mass_kg=2080.0)

    def test_a_date_in_the_future(self):
        known = Known(today=date(2026, 5, 9))
        self.assertEqual(self.one(known, since=date(2027, 5, 9)).numbers, {"days": 365.0})
        self.none(known, since=date(2026, 5, 9))
