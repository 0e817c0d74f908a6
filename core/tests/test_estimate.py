"""Propagation of uncertainty against the package `uncertainties` (GUM, JCGM 100)."""

from unittest import TestCase

import numpy as np
import uncertainties
from scipy import stats

from coombe_core.uncertainty import COVERAGE_95, Estimate, Value

COVARIANCE = np.array([[0.04, 0.018], [0.018, 0.09]])
X = Estimate(5.0, np.array([1.0, 0.0]), COVARIANCE)
Y = Estimate(3.0, np.array([0.0, 1.0]), COVARIANCE)
U, V = uncertainties.correlated_values([5.0, 3.0], COVARIANCE)


class EstimateTest(TestCase):
    def assert_same(self, ours: Estimate, theirs: uncertainties.UFloat):
        value = ours.value
        self.assertAlmostEqual(value.value, theirs.nominal_value, 12)
        self.assertAlmostEqual(value.u95, COVERAGE_95 * theirs.std_dev, 12)

    def test_differences_of_correlated_instants(self):
        self.assert_same(X - Y, U - V)

    def test_products_inverses_and_squares(self):
        self.assert_same(X.product(Y), U * V)
        self.assert_same(X.inverse(), 1 / U)
        self.assert_same(Y.square(), V**2)
        self.assert_same(X.times(-2.5), -2.5 * U)

    def test_a_quantity_less_itself_is_certain(self):
        self.assertEqual((X - X).value, Value(0.0, 0.0))

    def test_a_quantity_at_an_uncertain_instant_moves_with_it(self):
        self.assert_same(X.moved(4.0, Y), U + 4.0 * (V - 3.0))

    def test_coverage_factor_is_the_normal_one(self):
        self.assertAlmostEqual(COVERAGE_95, stats.norm.ppf(0.975), 6)

    def test_a_factor_scales_value_and_interval(self):
        self.assertEqual(Value(2.0, 0.5).scaled(-2), Value(-4.0, 1.0))
