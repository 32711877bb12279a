"""What can be read off a time that is told by its quantiles."""

import numpy as np

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
