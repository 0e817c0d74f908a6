"""Air, road load, wheel power and corrections against standards, other packages and common practice."""

from unittest import TestCase

import numpy as np
from ambiance import Atmosphere
from drives import one_run, true_measures
from metpy.calc import density, mixing_ratio_from_relative_humidity
from metpy.units import units
from plotnine.data import mtcars

from coombe_core.analysis import Request, time_runs
from coombe_core.formats.weather import read_metar
from coombe_core.physics.air import (
    Air,
    air_density_kg_m3,
    density_altitude_m,
    humidity_percent,
    saturation_pressure_hpa,
    station_pressure_hpa,
)
from coombe_core.physics.course import SurveyedCourse
from coombe_core.physics.road_load import RoadLoad
from coombe_core.physics.wheel_power import wheel_power
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import Scenario, clean_run, simulate
from coombe_core.timing.corrections import Correction
from coombe_core.uncertainty import Value
from coombe_core.units import MECHANICAL_HORSEPOWER_W, METRIC_HORSEPOWER_W, POUND_KG
from coombe_core.wording.corrections import reference

LEVEL = SurveyedCourse(Value(0.0, 0.02))


class AirTest(TestCase):
    def test_density_is_that_of_the_standard_atmosphere(self):
        # ISO 2533, against the package ambiance.
        for elevation_m in (0.0, 500.0, 1500.0, 3000.0):
            standard = Atmosphere(elevation_m)
            ours = air_density_kg_m3(standard.pressure[0] / 100, standard.temperature[0] - 273.15)
            self.assertAlmostEqual(ours, standard.density[0], 4)
            self.assertAlmostEqual(density_altitude_m(standard.density[0]), elevation_m, delta=5)
            self.assertAlmostEqual(station_pressure_hpa(1013.25, elevation_m), standard.pressure[0] / 100, delta=0.5)

    def test_moist_air_is_as_dense_as_metpy_says(self):
        for temp_c, humidity in ((5.0, 40.0), (20.0, 60.0), (35.0, 90.0)):
            pressure, temp = units.Quantity(1005.0, "hPa"), units.Quantity(temp_c, "degC")
            ratio = mixing_ratio_from_relative_humidity(pressure, temp, units.Quantity(humidity, "percent"))
            theirs = density(pressure, temp, ratio).to("kg/m^3").magnitude
            self.assertAlmostEqual(air_density_kg_m3(1005.0, temp_c, humidity), theirs, delta=0.0015)

    def test_moist_air_is_lighter_than_dry(self):
        self.assertLess(air_density_kg_m3(1013.0, 30.0, 80.0), air_density_kg_m3(1013.0, 30.0))

    def test_saturation_pressure_at_the_boiling_and_freezing_points(self):
        # From memory: 6.11 hPa at 0 degrees C, 1013 hPa at 100 degrees C.
        self.assertAlmostEqual(saturation_pressure_hpa(0.0), 6.11, 2)
        self.assertAlmostEqual(saturation_pressure_hpa(100.0), 1013.25, delta=8)

    def test_a_metar_line_gives_the_air(self):
        report = read_metar("METAR XXXX 091250Z 24010KT 9999 FEW030 18/12 Q1009")
        self.assertAlmostEqual(report.wind_mps, 5.144, 3)
        self.assertEqual((report.temp_c, report.sea_level_hpa, report.wind_from_deg), (18.0, 1009.0, 240.0))
        self.assertAlmostEqual(humidity_percent(report), 68, delta=1)
        self.assertAlmostEqual(Air.of_report(report, 120.0).density_kg_m3, 1.183, delta=0.004)

    def test_a_report_without_pressure_keeps_its_wind(self):
        report = read_metar("METAR XXXX 091250Z 24010KT 9999 FEW030 18/12")
        self.assertFalse(report.has_density)
        self.assertAlmostEqual(Air.of_report(report).wind_mps, 10 * 1852 / 3600, 3)
        self.assertEqual(Air.of_report(report).wind_from_deg, 240)
        self.assertEqual(Air.of_report(report).density_kg_m3, Air().density_kg_m3)

    def test_what_is_no_metar_line_is_refused(self):
        for text in ("", "hello world", "METAR XXXX", "<b>"):
            with self.assertRaisesRegex(ValueError, "METAR"):
                read_metar(text)

    def test_head_wind_is_the_part_along_the_course(self):
        air = Air(wind_mps=4.0, wind_from_deg=90.0)
        self.assertAlmostEqual(air.head_wind_mps(90.0), 4.0)
        self.assertAlmostEqual(air.head_wind_mps(270.0), -4.0)
        self.assertAlmostEqual(air.head_wind_mps(0.0), 0.0)


class PowerTest(TestCase):
    def test_horsepower_is_named_by_its_school(self):
        # Common practice: 462 kW is 628 metric or 620 mechanical horsepower.
        self.assertAlmostEqual(462_000 / METRIC_HORSEPOWER_W, 628, delta=0.5)
        self.assertAlmostEqual(462_000 / MECHANICAL_HORSEPOWER_W, 620, delta=0.5)

    def test_wheel_power_of_a_run_is_the_simulated_car_s(self):
        car = SimulatedCar(power_w=240e3)
        run = time_runs(one_run(9, car).trace, Request(surveyed=LEVEL))[0]
        load = RoadLoad(car.mass_kg, car.cda_m2, car.rolling_coefficient, car.rotating_mass_factor)
        power = wheel_power(run.curve, load)
        at_80_kmh = float(np.interp(22.0, power.speed_mps, power.power_w))
        self.assertAlmostEqual(at_80_kmh / 240e3, 1.0, delta=0.02)
        self.assertAlmostEqual(power.peak_w / 240e3, 1.0, delta=0.03)
        self.assertAlmostEqual(power.tapers_from_mps, car.taper_from_mps + 0.05 / car.taper_per_mps, delta=3.0)
        self.assertEqual(power.assumed, ())

    def test_what_was_not_stated_is_named_as_assumed(self):
        self.assertEqual(RoadLoad.of(1900.0, 0.5).assumed, ("rolling_coefficient", "rotating_mass_factor"))

    def test_quarter_miles_of_32_road_tests_fit_the_power_rule(self):
        # mtcars (32 road-tested cars; ships with plotnine) against ET = 5.825 (lb/hp)^(1/3) (Hale, from memory).
        ratios = mtcars.qsec / (5.825 * (mtcars.wt * 1000 / mtcars.hp) ** (1 / 3))
        self.assertAlmostEqual(ratios.mean(), 1.07, delta=0.01)
        self.assertAlmostEqual(ratios.std(), 0.06, delta=0.01)
        self.assertTrue(((ratios > 0.9) & (ratios < 1.25)).all())

    def test_thirteen_point_nine_pounds_a_horsepower_run_thirteen_four(self):
        # Common practice: a 4,807 lb car of 346 hp carries 13.9 lb/hp and ran 13.4 s at 103.5 mph.
        self.assertAlmostEqual(4807 / 346, 13.9, delta=0.05)
        at_the_wheels_w = 0.85 * 346 * MECHANICAL_HORSEPOWER_W
        car = SimulatedCar(mass_kg=4807 * POUND_KG, power_w=at_the_wheels_w, grip=0.75)
        row = time_runs(one_run(2, car).trace, Request())[0].measured("1/4 mile", "rollout")
        self.assertAlmostEqual(row.time_s.value, 13.4, delta=0.6)
        self.assertAlmostEqual(row.line_speed_mps.value / 0.44704, 103.5, delta=4)


class CorrectionTest(TestCase):
    CAR = SimulatedCar(power_w=180e3)

    def quarter(self, conditions: Conditions, correction: Correction) -> tuple[Value, Value]:
        made = simulate(Scenario("", clean_run(), self.CAR, conditions, Receiver()), 31)
        row = time_runs(made.trace, Request(surveyed=LEVEL, correction=correction))[0].measured("1/4 mile", "rollout")
        return row.time_s, row.corrected_time_s

    def load(self) -> RoadLoad:
        return RoadLoad(self.CAR.mass_kg, self.CAR.cda_m2, self.CAR.rolling_coefficient)

    def test_a_time_in_head_wind_corrected_to_calm_is_that_of_the_same_car_in_calm(self):
        calm = true_measures(one_run(31, self.CAR))[("1/4 mile", "rollout")]["time_s"]
        air = Air(wind_mps=6.0, wind_from_deg=0.0)
        raw, corrected = self.quarter(
            Conditions(head_wind_mps=6.0), Correction(wind=True, air=air, road_load=self.load())
        )
        self.assertGreater(raw.value, calm + 0.04)
        self.assertAlmostEqual(corrected.value, calm, delta=0.015)
        self.assertGreater(corrected.u95, raw.u95)

    def test_thin_air_is_corrected_the_other_way(self):
        thin = Correction(density=True, air=Air(density_kg_m3=1.0), road_load=self.load())
        raw, corrected = self.quarter(Conditions(), thin)
        self.assertGreater(corrected.value, raw.value + 0.02)

    def test_each_part_is_on_or_off_and_named(self):
        both = Correction(slope=True, density=True, road_load=self.load())
        self.assertEqual(both.parts, ("slope", "air density"))
        self.assertEqual(reference(both), "a level course, air of 1.225 kg/m³")
        self.assertEqual(Correction(wind=True).parts, ())
        _, corrected = self.quarter(Conditions(), Correction())
        self.assertIsNone(corrected)

    def test_slopes_of_common_practice_are_worth_what_it_says(self):
        # Common practice: -1.2 % turned 7.37 s into 7.67 s (0-100 km/h, corrected to level; accept 0.06 s).
        car = SimulatedCar(mass_kg=1800, power_w=101_000, grip=0.55)
        request = Request(surveyed=SurveyedCourse(Value(-1.2, 0.0)), correction=Correction(slope=True))
        row = time_runs(one_run(6, car, slope_percent=-1.2).trace, request)[0].measured("0-100 km/h", "first_movement")
        change = (row.corrected_time_s.value - row.time_s.value) * 7.37 / row.time_s.value
        self.assertAlmostEqual(change, 0.30, delta=0.06)

    def test_6_43_seconds_to_100_kmh_take_about_102_meters(self):
        # Common practice.
        car = SimulatedCar(mass_kg=1800, power_w=128_000, grip=0.52)
        row = time_runs(one_run(6, car).trace, Request())[0].measured("0-100 km/h", "first_movement")
        self.assertAlmostEqual(row.distance_m.value * 6.43 / row.time_s.value, 102, delta=4)
