"""How far a 95 % interval reaches, and the p beside it: Student's t against its tables and a reference library."""

from __future__ import annotations

import math
from unittest import TestCase

from scipy import stats

from coombe_core.comparing.statistics.interval import two_sided_p
from coombe_core.uncertainty import COVERAGE_95, coverage_95

# Handbook table of t, two-sided 5 % (NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.2), from memory.
TABLE = {1: 12.706, 2: 4.303, 5: 2.571, 10: 2.228, 30: 2.042, 100: 1.984}


class StudentTest(TestCase):
    def test_factors_are_those_of_the_table(self):
        for dof, factor in TABLE.items():
            self.assertAlmostEqual(coverage_95(dof), factor, places=3)

    def test_without_end_of_degrees_it_is_the_normal_s(self):
        self.assertAlmostEqual(coverage_95(math.inf), COVERAGE_95, places=5)

    def test_factors_and_p_are_those_of_a_reference_library(self):
        for dof in (0.7, 1.0, 3.7, 19.0, 250.0, math.inf):
            self.assertAlmostEqual(coverage_95(dof) / stats.t.ppf(0.975, dof), 1.0, places=10)
            for ratio in (-12.0, -2.3, 0.0, 0.4, 6.0):
                expected = 2 * stats.t.sf(abs(ratio), dof)
                self.assertAlmostEqual(two_sided_p(ratio, dof) / expected, 1.0, places=9)

    def test_p_and_interval_agree_at_the_edge(self):
        for dof in (2.0, 8.0, 60.0):
            self.assertAlmostEqual(two_sided_p(coverage_95(dof), dof), 0.05, places=12)
