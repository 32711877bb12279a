"""Quantiles: what can be read off a time that is told by them, and those of one of several."""

import numpy as np
from scipy.special import ndtr

from aquifer.core.arrays import FloatArray

_FAR_YEARS = 1000.0
"""Stands for a quantile that lies beyond what is looked at. Assumption: longer than anything here lasts."""


def reached_by(
    years: FloatArray, quantile_years: FloatArray, probabilities: FloatArray, today: FloatArray
) -> FloatArray:
    """Probability that each time has come by some others, (n, t).

    Parameters: years (t,); quantile_years (n, q) from today, NaN for beyond what is looked at; probabilities (q,),
    rising; today, the probability that it has come already, (n,). Source: the distribution function, linear between its
    quantiles and from today on.
    """
    known = np.nan_to_num(quantile_years, nan=_FAR_YEARS, posinf=_FAR_YEARS)
    at = np.concatenate([np.zeros((today.size, 1)), np.maximum.accumulate(np.maximum(known, 1e-6), axis=1)], axis=1)
    p = np.maximum.accumulate(
        np.concatenate([today[:, None], np.maximum(probabilities[None, :], today[:, None])], axis=1), axis=1
    )
    reached = np.repeat(today[:, None], years.size, axis=1)
    for k in range(at.shape[1] - 1):
        width = np.maximum(at[:, k + 1] - at[:, k], 1e-9)[:, None]
        reached += (p[:, k + 1] - p[:, k])[:, None] * np.clip((years[None, :] - at[:, k : k + 1]) / width, 0.0, 1.0)
    return reached


def of_mixture(means: FloatArray, sds: FloatArray, probabilities: FloatArray) -> FloatArray:
    """Quantiles of a figure of one of several, each as likely and each told by a normal distribution, (p,).

    Parameters: means, sds (n,), n > 0; 0 is a figure that is known; probabilities (p,), between 0 and 1. Source: the
    root of the mean of their distribution functions, by bisection.
    """
    sds = np.maximum(sds, _KNOWN)
    reach = 9 * float(sds.max())
    low = np.full(probabilities.size, float(means.min()) - reach)
    high = np.full(probabilities.size, float(means.max()) + reach)
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        is_below = ndtr((middle[:, None] - means) / sds).mean(axis=1) < probabilities
        low, high = np.where(is_below, middle, low), np.where(is_below, high, middle)
    return np.asarray((low + high) / 2)


_HALVINGS, _KNOWN = 50, 1e-9
"""Numerical: two to this power, and this spread, are finer than any figure is told."""
