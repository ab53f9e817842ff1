"""Values between the places of a grid. Reference: scipy's RegularGridInterpolator (linear)."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator

from frost_tally.core.grid import Grid


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
