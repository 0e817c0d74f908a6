"""The restricted likelihood of a penalized fit against its dense definition and a mixed model of statsmodels."""

from unittest import TestCase

import numpy as np
import statsmodels.api
from scipy.stats import multivariate_normal

from coombe_core.fitting.fixes import Fixes
from coombe_core.fitting.reml import (
    STRENGTHS,
    UNPENALIZED,
    USUAL_NOISE_FIXES,
    USUAL_NOISE_MPS,
    Penalty,
    Terms,
    likeliest,
)


def design(count: int = 40, groups: int = 8, seed: int = 1) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Three columns that cost nothing and one of each group that does; and values with noise of 0.5."""
    draw = np.random.default_rng(seed)
    group = np.arange(count) % groups
    free = np.column_stack([np.ones(count), np.linspace(-1, 1, count), np.linspace(-1, 1, count) ** 2])
    each = (group[:, None] == np.arange(groups)).astype(float)
    values = free @ [1.0, 2.0, -0.5] + each @ draw.normal(0, 0.8, groups) + draw.normal(0, 0.5, count)
    return np.hstack([free, each]), values, group


def terms_of(x: np.ndarray, y: np.ndarray) -> Terms:
    return Terms(x.T @ x, x.T @ y, float(y @ y), y.size, 0.0)


class LikeliestTest(TestCase):
    def setUp(self):
        self.x, self.y, self.group = design()
        self.penalty = Penalty.of(np.eye(8), 3, 0)

    def dense(self, strength: float) -> float:
        """Minus twice the restricted log likelihood by the covariance, the scale of the noise profiled out."""
        free, each = self.x[:, :3], self.x[:, 3:]
        covariance = np.eye(self.y.size) + each @ each.T / strength
        inverse = np.linalg.inv(covariance)
        best = np.linalg.solve(free.T @ inverse @ free, free.T @ inverse @ self.y)
        rest = self.y - free @ best
        degrees = self.y.size - UNPENALIZED + USUAL_NOISE_FIXES
        squares = float(rest @ inverse @ rest) + USUAL_NOISE_FIXES * USUAL_NOISE_MPS**2
        logs = np.linalg.slogdet(covariance)[1] + np.linalg.slogdet(free.T @ inverse @ free)[1]
        return degrees * np.log(squares / degrees) + logs

    def test_the_strength_is_that_of_the_dense_definition(self):
        strength = likeliest(terms_of(self.x, self.y), self.penalty).strength
        self.assertEqual(strength, STRENGTHS[np.argmin([self.dense(each) for each in STRENGTHS])])

    def test_differences_of_likelihood_are_those_of_the_dense_definition(self):
        # Two data sets, one design: what their likelihoods differ by does not hang on constants.
        ours, dense = [], []
        for seed in (1, 5):
            self.x, self.y, _ = design(seed=seed)
            found = likeliest(terms_of(self.x, self.y), self.penalty)
            score, strength = found.log_likelihood, found.strength
            ours.append(-2 * score)
            dense.append(self.dense(strength))
        self.assertAlmostEqual(ours[1] - ours[0], dense[1] - dense[0], 5)

    def test_noise_and_strength_are_near_those_of_a_mixed_model(self):
        model = statsmodels.api.MixedLM(self.y, self.x[:, :3], self.group).fit(reml=True)
        found = likeliest(terms_of(self.x, self.y), self.penalty)
        strength, variance = found.strength, found.variance
        self.assertAlmostEqual(variance / model.scale, 1.0, delta=0.15)
        ratio = model.scale / float(np.asarray(model.cov_re)[0, 0])
        self.assertLess(abs(np.log10(strength / ratio)), 0.75)  # the strengths that are tried are 0.75 apart

    def test_it_says_when_the_optimum_is_at_an_end_of_the_strengths(self):
        self.assertFalse(likeliest(terms_of(self.x, self.y), self.penalty).at_edge)
        without_groups = self.x[:, :3] @ [1.0, 2.0, -0.5] + 0.05 * np.cos(np.arange(self.y.size))
        found = likeliest(terms_of(self.x, without_groups), self.penalty)
        self.assertTrue(found.at_edge)
        self.assertEqual(found.strength, STRENGTHS[-1])

    def test_what_goes_beyond_an_expectation_is_the_same_fit_of_shifted_values(self):
        expected = np.random.default_rng(2).normal(size=self.x.shape[1])
        shifted = terms_of(self.x, self.y - self.x @ expected)
        beyond = terms_of(self.x, self.y).beyond(expected)
        np.testing.assert_allclose(beyond.moment, shifted.moment, atol=1e-9)
        self.assertAlmostEqual(beyond.total, shifted.total, 9)


class WhiteningTest(TestCase):
    def test_whitened_values_have_the_density_of_the_correlated_ones(self):
        at_s = np.array([0.0, 0.04, 0.08, 0.16, 0.2])  # one fix is missing
        fixes = Fixes(at_s, np.zeros(5), np.ones(5), 0.04)
        correlation = 0.3 ** (np.abs(at_s[:, None] - at_s) / 0.04)
        values = np.array([0.3, -0.2, 0.5, 0.1, -0.4])
        whitening = fixes.whitening(0.3)
        white = whitening(values[:, None])[:, 0]
        ours = multivariate_normal(np.zeros(5)).logpdf(white) + whitening.log_scale
        self.assertAlmostEqual(ours, multivariate_normal(np.zeros(5), correlation).logpdf(values), 9)

    def test_a_weight_counts_as_a_smaller_noise(self):
        fixes = Fixes(np.arange(3) / 25, np.zeros(3), np.array([1.0, 2.0, 1.0]), 0.04)
        np.testing.assert_allclose(fixes.whitening(0.0)(np.ones((3, 1)))[:, 0], [1.0, 2.0, 1.0])

    def test_fixes_before_which_nothing_has_rows_can_be_left_out(self):
        at_s = np.arange(6) / 25
        whitening = Fixes(at_s, np.zeros(6), np.array([1.0, 1.0, 2.0, 1.0, 0.5, 1.0]), 0.04).whitening(0.6)
        rows = np.maximum(at_s - 0.1, 0.0)[:, None] + [[0.0, 0.0]]
        np.testing.assert_allclose(whitening.since(2)(rows[2:]), whitening(rows)[2:], atol=1e-15)
