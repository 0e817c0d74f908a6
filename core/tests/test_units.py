"""Units against NIST SP 811 and scipy's constants."""

from unittest import TestCase

from scipy import constants

from coombe_core import units


class UnitsTest(TestCase):
    def test_factors_are_those_of_nist_sp_811(self):
        # NIST SP 811 (2008), Appendix B.9: exact, or to the digits printed there.
        self.assertEqual(units.FOOT_M, 3.048e-1)
        self.assertEqual(units.MPH_MPS, 4.4704e-1)
        self.assertAlmostEqual(units.KMH_MPS, 2.777778e-1, 7)
        self.assertAlmostEqual(units.KNOT_MPS, 5.144444e-1, 7)
        self.assertAlmostEqual(units.MECHANICAL_HORSEPOWER_W, 7.456999e2, 4)
        self.assertAlmostEqual(units.METRIC_HORSEPOWER_W, 7.354988e2, 4)
        self.assertAlmostEqual(units.PSI_KPA, 6.894757, 6)

    def test_factors_agree_with_a_reference_library(self):
        # scipy.constants
        self.assertAlmostEqual(units.MPH_MPS, constants.mph, 12)
        self.assertAlmostEqual(units.KMH_MPS, constants.kmh, 12)
        self.assertAlmostEqual(units.KNOT_MPS, constants.knot, 12)
        self.assertAlmostEqual(units.MECHANICAL_HORSEPOWER_W, constants.horsepower, 6)
        self.assertEqual(units.STANDARD_GRAVITY_MPS2, constants.g)

    def test_462_kilowatts_are_628_metric_and_620_mechanical_horsepower(self):
        # Common practice.
        self.assertEqual(round(462_000 / units.METRIC_HORSEPOWER_W), 628)
        self.assertEqual(round(462_000 / units.MECHANICAL_HORSEPOWER_W), 620)

    def test_temperature_converts_by_its_fixed_points(self):
        self.assertEqual(units.celsius(32), 0)
        self.assertAlmostEqual(units.celsius(-40), -40)

    def test_an_unknown_speed_unit_is_refused(self):
        with self.assertRaises(KeyError):
            units.speed_mps(60, "furlongs a fortnight")
