"""How two groups are laid out and weighed against each other, worked out by hand."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy import stats

from coombe_core.comparing.comparison import Group, Known
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.contrast import Part, contrast
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.statistics.permutation import EXACT_UP_TO, permutation
from coombe_core.comparing.statistics.scatter import ASSUMED_DRIFT_SHARE, Assumed, Scatter
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure
from coombe_core.uncertainty import Value
from coombe_core.wording.comparison import reasons_of

OWN = Scatter(0.03, 0.02, "history", False, False, 12.0, 6.0)
UNEVEN = Scatter(0.12, 0.02, "history", False, False, 12.0, 6.0)
RUN = (4 * 0.02 + 6 * 0.12**2) / 10  # what is left of OwnDaysTest.VALUES, on 4, weighed with that history


def laid(days: str, directions: str = "", after: str = "") -> tuple:
    """One letter a run; a dash is not noted. `a` is after."""
    noted = [["" if letter == "-" else letter for letter in text] for text in (days, directions or "-" * len(days))]
    return layout_of(*noted, [letter == "a" for letter in after or "b" * (len(days) // 2) + "a" * (len(days) // 2)])


class LayoutTest(TestCase):
    def test_the_kind_follows_the_days(self):
        for days, kind in (
            ("----", "days"),
            ("MMMM", "plain"),
            ("MTMT", "within"),
            ("MMTT", "days"),
            ("MMMT", "days"),
        ):
            self.assertEqual(laid(days).kind, kind, days)

    def test_a_run_without_its_day_has_a_day_of_its_group_s_own(self):
        self.assertEqual(laid("MMM-").days.tolist(), [0, 0, 0, 1])
        self.assertEqual(laid("-M-M").days.tolist(), [0, 1, 2, 1])

    def test_places_are_those_on_the_day_by_the_hour(self):
        found = layout_of(["M"] * 4, [""] * 4, [False, False, True, True], [9.0, 9.3, 9.1, 9.2])
        self.assertEqual((found.place.tolist(), found.in_order), ([0, 3, 1, 2], True))
        found = layout_of(["M", "T", "M", "T"], [""] * 4, [False, False, True, True], [9.0, 9.3, 9.1, 9.2])
        self.assertEqual(found.place.tolist(), [0, 1, 1, 0])

    def test_an_hour_that_is_missing_leaves_the_order_unknown_and_groups_after_one_another(self):
        found = layout_of(["M"] * 4, [""] * 4, [False, False, True, True], [9.0, 9.3, None, 9.2])
        self.assertEqual((found.place.tolist(), found.in_order), ([0, 1, 2, 3], False))

    def test_no_run_has_no_day(self):
        self.assertEqual(layout_of([], [], []).day_count, 0)

    def test_directions_are_fitted_where_both_groups_have_both(self):
        for directions, columns in (("obob", 1), ("oooo", 0), ("obo-", 0), ("ooob", 0), ("oobb", 0), ("oboo", 0)):
            self.assertEqual(laid("MMMM", directions).covariates.shape, (4, columns), directions)

    def test_cells_are_days_and_directions(self):
        self.assertEqual(laid("MMTTMMTT", "obobobob").cells.tolist(), [0, 1, 2, 3, 0, 1, 2, 3])
        self.assertEqual(laid("MTMT", "oooo").cells.tolist(), [0, 1, 0, 1])

    def test_the_basis_spans_days_of_their_own_too(self):
        self.assertEqual(laid("MMTTWWFF").basis.shape, (8, 4))
        self.assertEqual(laid("MTMT").basis.shape, (4, 3))
        basis = laid("MMTTWWFF").basis
        np.testing.assert_allclose(basis.T @ basis, np.eye(4), atol=1e-12)

    def test_its_weights_are_the_difference_of_means(self):
        np.testing.assert_allclose(laid("-----", after="bbbaa").weights, [-1 / 3, -1 / 3, -1 / 3, 1 / 2, 1 / 2])


class PlainTest(TestCase):
    def test_both_groups_tell_how_a_run_scatters(self):
        values = np.array([1.0, 2.0, 3.0, 5.0, 9.0])
        found = contrast(values, laid("MMMMM", after="bbbaa"))
        np.testing.assert_allclose(found.weights, [-1 / 3, -1 / 3, -1 / 3, 1 / 2, 1 / 2])
        run, day, drift, _ = found.parts
        self.assertAlmostEqual(run.variance, 10 / 3 * (1 / 3 + 1 / 2), 12)  # squares of 2 and 8 on three
        self.assertEqual((run.dof, day.variance, drift.variance), (3, 0.0, 0.0))
        self.assertAlmostEqual(found.of(values), 5.0, 12)
        self.assertIsNone(found.day_sd)

    def test_what_was_fitted_before_costs_degrees_of_freedom(self):
        self.assertEqual(contrast(np.arange(8.0), laid("M" * 8), fitted=2).parts[0].dof, 4)
        self.assertIsNone(contrast(np.arange(4.0), laid("MMMM"), fitted=2))

    def test_an_empty_group_says_nothing(self):
        for after in ("bbb", "aaa"):
            self.assertIsNone(contrast(np.arange(3.0), laid("---", after=after), OWN))

    def test_a_single_run_carries_the_car_s_own_scatter(self):
        for after in ("bbba", "aaab"):
            found = contrast(np.arange(4.0), laid("MMMM", after=after), OWN)
            self.assertEqual(found.parts[0].dof, 12.0)
            self.assertAlmostEqual(found.parts[0].variance, 0.03**2 * (1 + 1 / 3), 12)

    def test_a_single_run_without_a_scatter_of_its_own_says_nothing(self):
        assumed = Scatter(0.03, 0.02, "assumed", True, True)
        for scatter in (None, assumed):
            self.assertIsNone(contrast(np.arange(4.0), laid("----", after="bbba"), scatter))


class WithinTest(TestCase):
    """Two days, each with one run of each group: within them only the group's change over the days is left."""

    VALUES = np.array([1.0, 5.0, 2.0, 8.0])  # M before, T before, M after, T after: +1 and +3

    def test_days_cancel(self):
        found = contrast(self.VALUES, laid("MTMT"))
        self.assertAlmostEqual(found.of(self.VALUES), 2.0, 12)
        part = found.parts[0]
        self.assertEqual(part.dof, 1)
        self.assertAlmostEqual(part.variance, 1.0, 12)  # residuals of 1/2, each weighing a half

    def test_without_a_degree_of_freedom_the_car_s_own_scatter_is_taken(self):
        found = contrast(self.VALUES, laid("MTMT"), OWN, fitted=1)
        part = found.parts[0]
        self.assertEqual(part.dof, 12.0)
        self.assertAlmostEqual(part.variance, 0.03**2, 12)
        self.assertIsNone(contrast(self.VALUES, laid("MTMT"), None, fitted=1))


class OwnDaysTest(TestCase):
    VALUES = np.array([4.0, 4.2, 4.4, 4.6, 3.9, 4.1, 4.3, 4.5])
    LAYOUT = laid("MMTTWWFF")

    def test_days_of_the_groups_themselves_are_weighed_with_the_default(self):
        """Run variance 0.02 on 4; day means 0.4 apart: 0.08 less 0.02 / 2, on 2; the default 0.6 % of 4.25, on 4."""
        found = contrast(self.VALUES, self.LAYOUT)
        run, day, *_ = found.parts
        self.assertAlmostEqual(run.variance, 0.02 * 8 / 16, 12)
        self.assertEqual(run.dof, 4)
        expected = (4 * (0.006 * 4.25) ** 2 + 2 * 0.07) / 6
        self.assertAlmostEqual(found.day_sd, math.sqrt(expected), 12)
        self.assertAlmostEqual(day.variance, expected * 4 / 4, 12)  # each day weighs a half, four times
        self.assertEqual((day.dof, found.day_assumed), (6, True))
        np.testing.assert_allclose(found.weights, [-0.25] * 4 + [0.25] * 4)

    def test_the_days_of_both_groups_count(self):
        """Day means 0.4 and 0.2 apart: 0.08 and 0.02, in the mean 0.05 less 0.02 / 2, on 2."""
        found = contrast(np.array([4.0, 4.2, 4.4, 4.6, 4.0, 4.2, 4.2, 4.4]), self.LAYOUT)
        self.assertAlmostEqual(found.day_sd**2, (4 * (0.006 * 4.25) ** 2 + 2 * 0.04) / 6, 12)

    def test_a_history_takes_their_place(self):
        found = contrast(self.VALUES, self.LAYOUT, UNEVEN)
        self.assertAlmostEqual(found.day_sd**2, (0.5 * (0.006 * 4.25) ** 2 + 6 * 0.02**2) / 6.5, 12)
        self.assertEqual((found.parts[1].dof, found.day_assumed), (6.5, False))
        apart = contrast(self.VALUES, self.LAYOUT, replace(UNEVEN, day_sd=0.06))
        self.assertAlmostEqual(apart.day_sd, 0.06, 12)  # the default makes no car steadier than its own days
        noted = contrast(self.VALUES, self.LAYOUT, beforehand=Assumed(0.004))
        self.assertAlmostEqual(noted.day_sd**2, (4 * (0.004 * 4.25) ** 2 + 2 * 0.07) / 6, 12)
        only_runs = Scatter(0.12, 0.02, "history", False, True, 12.0, 4.0)
        expected = (4 * (0.006 * 4.25) ** 2 + 2 * (0.08 - RUN / 2)) / 6
        self.assertAlmostEqual(contrast(self.VALUES, self.LAYOUT, only_runs).day_sd ** 2, expected, 12)

    def test_an_uneven_day_weighs_between_its_runs_and_one(self):
        """Three runs on one day and one on another: the weights of a random day effect, by the textbook."""
        layout = laid("MMMTWWFF")
        values = np.array([4.0, 4.2, 4.1, 4.5, 3.9, 4.1, 4.3, 4.5])
        found = contrast(values, layout, UNEVEN)
        run = (4 * 0.015 + 6 * 0.12**2) / 10  # three days' sums of squares on 8 runs less 4 days, and the history's
        ratio = found.day_sd**2 / run
        by_day = np.array([3 / (1 + 3 * ratio), 1 / (1 + ratio)])
        by_day /= by_day.sum()
        np.testing.assert_allclose(found.weights[:4], [-by_day[0] / 3] * 3 + [-by_day[1]], atol=1e-9)

    def test_runs_that_agree_to_the_last_digit_leave_the_days_to_decide(self):
        values = np.repeat([4.0, 4.2, 4.1, 4.3], 2)
        found = contrast(values, self.LAYOUT)
        self.assertAlmostEqual(found.parts[0].variance, 0.0, 20)
        self.assertAlmostEqual(found.of(values), 0.1, 12)

    def test_values_are_no_surer_than_the_step_in_which_they_were_written(self):
        """A uniform error of a tenth: 0.1**2 / 12 of a value, and as much of each mean, which more runs don't mend."""
        found = contrast(np.array([3.9, 3.9, 3.9, 4.0, 4.0, 4.0]), laid("M" * 6), step=0.1)
        run, _, _, rounded = found.parts
        self.assertAlmostEqual(run.variance, 0.1**2 / 12 * 2 / 3, 12)
        self.assertAlmostEqual(rounded.variance, 0.1**2 / 6, 12)

    def test_weights_that_are_given_are_kept(self):
        given = np.array([-1.0, 0, 0, 0, 1.0, 0, 0, 0])
        found = contrast(self.VALUES, self.LAYOUT, UNEVEN, weights=given)
        self.assertEqual(found.weights.tolist(), given.tolist())
        self.assertAlmostEqual(found.parts[0].variance, 2 * RUN, 12)
        self.assertAlmostEqual(found.parts[1].variance, 2 * found.day_sd**2, 12)


class KnownScatterTest(TestCase):
    """What is known of the scatter of a run is weighed with what is left (Smyth 2004, equation 5, by hand)."""

    def left(self, sd: float) -> Part:
        values = np.array([-1.0, 1.0, -1.0, 1.0]) * sd / math.sqrt(2)
        return contrast(values, laid("MMMM"), OWN).parts[0]

    def test_it_counts_by_its_degrees_of_freedom_six_at_most(self):
        found = self.left(0.04)
        self.assertAlmostEqual(found.variance, (2 * 0.04**2 + 6 * 0.03**2) / 8, 12)
        self.assertEqual(found.dof, 8)

    def test_runs_that_scatter_far_more_speak_for_themselves(self):
        self.assertEqual(self.left(0.06).dof, 2)
        self.assertEqual(self.left(0.05).dof, 8)


class DriftTest(TestCase):
    """Six runs of one day that get 0.1 longer each; of themselves they scatter by hardly anything."""

    DRIFTING = 4.0 + 0.1 * np.arange(6) + np.array([0.001, -0.001, 0.0, 0.0, -0.001, 0.001])
    BLOCKS, TURNS = "bbbaaa", "babaab"

    def found(self, after: str, hours=range(6), scatter=OWN):
        layout = layout_of(["M"] * 6, [""] * 6, [letter == "a" for letter in after], list(hours))
        return contrast(self.DRIFTING, layout, scatter)

    def test_it_is_told_from_the_change_where_groups_follow_one_another(self):
        self.assertAlmostEqual(self.found(self.BLOCKS).of(self.DRIFTING), 0.0, delta=0.02)

    def test_it_cancels_where_groups_take_turns_and_leaves_their_scatter_small(self):
        found = self.found(self.TURNS)
        self.assertAlmostEqual(found.of(self.DRIFTING), 0.0, delta=0.02)
        self.assertLess(found.parts[0].variance, 0.03**2)

    def test_without_the_order_it_is_carried_whole(self):
        """Groups after one another, three runs apart; 0.15 % a run of a mean of 4.25."""
        drift = self.found(self.BLOCKS, [None] * 6).parts[2]
        self.assertAlmostEqual(drift.variance, (3 * ASSUMED_DRIFT_SHARE * 4.25) ** 2, 9)

    def test_the_textbook_knows_none(self):
        self.assertAlmostEqual(self.found(self.BLOCKS, scatter=None).of(self.DRIFTING), 0.3, 2)


class ReceiversTest(TestCase):
    """The second group's receiver says 0.3 % more on passes that both saw."""

    def difference(self, receivers):
        groups = [
            Group([4.0 + shift, 4.02 + shift, 3.98 + shift], states=[State(day="M", receiver=name)] * 3)
            for name, shift in (("Oak", 0.0), ("Nail", 0.012))
        ]
        return compare(parse_measure("0-60 mph"), "rollout", *groups, known=Known(receivers=receivers))

    def test_what_was_learned_is_taken_out_with_its_interval(self):
        learned = self.difference({("Oak", "Nail"): Value(0.003, 0.001)})
        assumed = self.difference({})
        self.assertAlmostEqual(learned.difference.value, 0.012 - 0.003 * 4.006, 5)
        self.assertAlmostEqual(assumed.difference.value, 0.012, 9)
        self.assertLess(learned.difference.error, assumed.difference.error)
        self.assertTrue(any("Nail shows +0.012" in reason for reason in reasons_of(learned)))
        self.assertTrue(any("for different GPS receivers, assumed" in reason for reason in reasons_of(assumed)))

    def test_it_is_of_that_pair_alone(self):
        self.assertAlmostEqual(self.difference({("Oak", "Elm"): Value(0.003, 0.001)}).difference.value, 0.012, 9)


class RelabelingTest(TestCase):
    def p_of(self, values, layout):
        return permutation(np.array(values), layout)

    def test_every_way_to_call_two_of_four_after(self):
        found = self.p_of([1.0, 2.0, 4.0, 8.0], laid("MMMM"))
        self.assertEqual((found.p_value, found.lowest, found.exact), (2 / 6, 2 / 6, True))

    def test_uneven_groups_have_no_mirror(self):
        found = self.p_of([1.0, 2.0, 4.0, 8.0], laid("MMMM", after="bbba"))
        self.assertEqual((found.p_value, found.lowest), (1 / 4, 1 / 4))

    def test_labels_are_swapped_within_a_day_only(self):
        found = self.p_of([1.0, 5.0, 2.0, 8.0], laid("MTMT"))
        self.assertEqual((found.p_value, found.lowest), (2 / 4, 2 / 4))  # two days of two: 2 x 2 relabelings

    def test_what_is_as_far_counts_whatever_its_last_digit(self):
        self.assertEqual(self.p_of([0.1, 0.2, 0.3, 0.4], laid("MMMM")).p_value, 2 / 6)
        self.assertEqual(self.p_of([0.3, 0.3, 0.3, 0.3], laid("MMMM")).p_value, 1.0)

    def test_groups_on_days_of_their_own_are_not_relabeled(self):
        self.assertIsNone(self.p_of([1.0, 2.0, 4.0, 8.0], laid("MMTT")))

    def test_all_relabelings_up_to_twenty_thousand_and_draws_beyond(self):
        self.assertLess(math.comb(16, 8), EXACT_UP_TO)
        self.assertTrue(self.p_of(np.arange(16.0), laid("M" * 16)).exact)
        self.assertGreater(math.comb(18, 9), EXACT_UP_TO)
        drawn = self.p_of(np.arange(18.0), laid("M" * 18))
        self.assertFalse(drawn.exact)
        self.assertEqual((drawn.p_value, drawn.lowest), (1e-4, 1e-4))  # none of 9,999 is as far, and the observed one

    def test_what_is_drawn_agrees_with_every_one(self):
        """The exact p of scipy, within the error of 9,999 draws."""
        draw = np.random.default_rng(5)
        before, after = draw.normal(0, 1, 9), draw.normal(0.8, 1, 9)
        exact = stats.permutation_test(
            (before, after), lambda x, y, axis: np.abs(x.mean(axis) - y.mean(axis)), n_resamples=np.inf,
            alternative="greater", vectorized=True,
        ).pvalue  # fmt: skip
        ours = self.p_of(np.concatenate([before, after]), laid("M" * 18)).p_value
        self.assertAlmostEqual(ours, exact, delta=4 * math.sqrt(exact * (1 - exact) / 9_999))

    def test_a_cell_of_one_group_alone_adds_what_it_has(self):
        found = self.p_of([1.0, 3.0, 2.0, 4.0, 9.0], laid("MMMMM", "oobbb", "babab"))
        self.assertTrue(found.exact)
