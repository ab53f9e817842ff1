"""Values between known ones, and the distributions. Reference: scipy (RegularGridInterpolator, PchipInterpolator, stdtrit, ndtr)."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator, RegularGridInterpolator
from scipy.special import ndtr, stdtrit

from frost_tally.core.grid import Curve, Grid
from frost_tally.core.probability import normal_below, t_quantile


class Between(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(2, 9), st.integers(2, 9), st.integers(0, 2**32 - 1))
    def test_as_the_library_has_it_at_edges_and_places_too(self, rows: int, columns: int, seed: int) -> None:
        draw = np.random.default_rng(seed)
        axes = (np.cumsum(draw.uniform(0.1, 9, rows)) - 40.0, np.cumsum(draw.uniform(0.01, 1, columns)))
        values = draw.normal(size=(rows, columns, 3))
        corners = [(row, column) for row in axes[0] for column in axes[1]]
        at = np.vstack([draw.uniform([axes[0][0], axes[1][0]], [axes[0][-1], axes[1][-1]], (50, 2)), corners])
        theirs = RegularGridInterpolator(axes, values)(at)
        np.testing.assert_allclose(Grid(*axes, values).at(at[:, 0], at[:, 1]), theirs, atol=1e-12)

    @settings(max_examples=80, deadline=None)
    @given(st.integers(3, 12), st.integers(0, 2**32 - 1), st.booleans())
    def test_a_smooth_line_is_the_librarys(self, points: int, seed: int, falling: bool) -> None:
        draw = np.random.default_rng(seed)
        x, y = np.cumsum(draw.uniform(0.01, 5, points)), draw.normal(size=points)
        y = -np.cumsum(np.abs(y)) if falling else y
        at = np.concatenate([draw.uniform(x[0], x[-1], 60), x])
        np.testing.assert_allclose(Curve(x, y)(at), np.asarray(PchipInterpolator(x, y)(at), dtype=float), atol=1e-12)

    def test_quantiles_and_shares_are_the_librarys(self) -> None:
        for degrees in (0.5, 1.0, 1.3, 2.0, 3.0, 4.5, 9.0, 29.0, 300.0, 5000.0, np.inf):
            for share in (0.6, 0.8, 0.9, 0.95, 0.99, 0.999):
                self.assertAlmostEqual(
                    t_quantile(degrees, share) / float(stdtrit(degrees, share)), 1.0, places=8, msg=f"{degrees} {share}"
                )
        z = np.linspace(-8, 8, 321)
        np.testing.assert_allclose(normal_below(z), ndtr(z), rtol=1e-12)
