"""A store of which no volts are known warms by nothing, and says so without a warning."""

import warnings

import numpy as np

from idlebench.core.simulate.stores import _mean


def test_the_mean_of_what_is_known():
    volts = np.array([[1.0, 3.0], [np.nan, 4.0], [np.nan, np.nan]])
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        assert _mean(volts).tolist() == [2.0, 4.0, 0.0]
