"""Student's interval and test of a difference, against tables of t and of the normal."""

from math import inf, sqrt
from unittest import TestCase

from coombe_core.comparing.statistics.contrast import Part
from coombe_core.comparing.statistics.interval import Difference, difference, probability_positive, shared_part

# The 97.5 % points of t with 3, 4 and 5 degrees of freedom, as printed in any handbook; 1.959964 is the normal's.
T_3, T_4, T_5 = 3.182446, 2.776445, 2.570582


def between(low: float, high: float) -> Difference:
    return Difference((low + high) / 2, low, high, 0.5, 10.0, 0.1)


class DifferenceTest(TestCase):
    def test_two_variances_that_are_known_alike_are_known_no_better_together(self):
        """Cochran and Cox: Student's quantile of both is that of either, where Satterthwaite would take eight."""
        found = difference(1.0, [Part(0.5, 4.0), Part(0.5, 4.0)])
        self.assertAlmostEqual(found.error, 1.0, 12)
        self.assertAlmostEqual(found.dof, 4.0, 9)
        self.assertAlmostEqual(found.low95, 1.0 - T_4, 6)
        self.assertAlmostEqual(found.high95, 1.0 + T_4, 6)
        self.assertAlmostEqual(difference(2 * T_4, [Part(2.0, 4.0), Part(2.0, 4.0)]).p_value, 0.05, 6)
        self.assertAlmostEqual(difference(-2 * T_4, [Part(2.0, 4.0), Part(2.0, 4.0)]).p_value, 0.05, 6)

    def test_unequal_variances_lean_to_the_quantile_of_the_larger(self):
        """Cochran and Cox: (3 t_3 + 1 t_5) / 4, and 1.96 for what is known exactly."""
        found = difference(0.0, [Part(3.0, 3.0), Part(1.0, 5.0)])
        self.assertAlmostEqual(found.high95, 2 * (3 * T_3 + T_5) / 4, 5)
        self.assertAlmostEqual(difference(0.0, [Part(1.0, 3.0), Part(1.0, inf)]).high95, (T_3 + 1.959964) / sqrt(2), 5)

    def test_a_variance_that_is_known_exactly_gives_the_normal_s_interval(self):
        found = difference(0.0, [Part(4.0, inf)])
        self.assertEqual(found.dof, inf)
        self.assertAlmostEqual(found.high95, 2 * 1.959964, 5)

    def test_a_part_without_variance_counts_for_nothing(self):
        self.assertEqual(difference(1.0, [Part(2.0, 4.0), Part(0.0, 0.0)]), difference(1.0, [Part(2.0, 4.0)]))
        self.assertEqual(difference(1.0, [Part(2.0, 4.0), Part(-1.0, 4.0)]), difference(1.0, [Part(2.0, 4.0)]))

    def test_without_any_scatter_it_is_what_it_is(self):
        for value, p_value in ((0.0, 1.0), (0.3, 0.0), (-0.3, 0.0), (1.0, 0.0), (-1.0, 0.0)):
            found = difference(value, [Part(0.0, 3.0)])
            self.assertEqual((found.value, found.low95, found.high95), (value, value, value))
            self.assertEqual((found.p_value, found.dof, found.error), (p_value, inf, 0.0))


class ShownTest(TestCase):
    def test_it_shows_where_zero_is_outside_and_not_at_the_edge(self):
        self.assertTrue(between(0.1, 0.3).shown)
        self.assertTrue(between(-0.3, -0.1).shown)
        self.assertFalse(between(-0.1, 0.2).shown)
        self.assertFalse(between(0.0, 0.2).shown)
        self.assertFalse(between(-0.2, 0.0).shown)

    def test_either_end_is_moved_alone_and_the_rest_stays(self):
        moved = between(0.1, 0.3).shifted(-0.04, 0.5)
        self.assertAlmostEqual(moved.low95, 0.06, 12)
        self.assertAlmostEqual(moved.high95, 0.8, 12)
        self.assertEqual((moved.value, moved.p_value, moved.dof, moved.error), (0.2, 0.5, 10.0, 0.1))


class ProbabilityTest(TestCase):
    def test_it_is_the_t_distribution_s(self):
        self.assertAlmostEqual(probability_positive(T_4 / 2, 0.5, 4.0), 0.975, 6)
        self.assertAlmostEqual(probability_positive(-T_4 / 2, 0.5, 4.0), 0.025, 6)
        self.assertAlmostEqual(probability_positive(0.0, 1.0, 8.0), 0.5, 12)

    def test_without_error_it_is_sure_and_even_at_zero(self):
        self.assertEqual([probability_positive(value, 0.0, 5.0) for value in (-0.5, 0.0, 0.5)], [0.0, 0.5, 1.0])


class SharedTest(TestCase):
    def test_a_u95_is_1_96_standard_errors_known_exactly(self):
        part = shared_part(3.0)
        self.assertAlmostEqual(sqrt(part.variance), 3.0 / 1.959964, 4)
        self.assertEqual(part.dof, inf)
