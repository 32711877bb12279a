"""Readings that slipped are asked for once more, true ones hardly ever, in districts whose laws share nothing with the
core."""

import numpy as np
import pytest

from aquifer.core import measuring
from aquifer.core.forecast import Context, calibrate, forecast
from aquifer.core.parameters import SEDIMENT
from aquifer.core.vocabulary import Component
from aquifer.study.foreign.base import complaining, month_passes, settled
from aquifer.study.foreign.laws import LAWS
from aquifer.study.foreign.told import Record

HEATERS, YEARS = 700, 5
SLIPS = {"inches": 1 / 25.4, "a tenth": 0.1, "ten times": 10.0, "as if in inches": 25.4}
SEEN_MM = 4.0
"""Of less a ruler and a slip say about the same."""


def district(law, seed: int):
    """A district served for some years: what is read in each tank today, and between what it was foretold to lie."""
    here = settled(law, HEATERS, seed)
    record, random = Record(here, seed, 0.05, law.dirty), np.random.default_rng([seed, 77])
    phase = random.integers(0, 36, HEATERS)
    for month in range(12 * YEARS):
        due = np.flatnonzero((phase + month) % here.interval_months == 0) if month else np.zeros(0, dtype=np.int64)
        rows = np.union1d(due, complaining(here, random))
        if rows.size:
            record.service(here, rows, lambda at, method, skill: law.clean(here, at, method, skill, random))
        record.households(here)
        month_passes(law, here, random)
    fleet = record.fleet(here)
    found = forecast(fleet, Context(calibration=calibrate(fleet))).of(Component.SEDIMENT)
    true = here.deposit_mm[found.row]
    read = np.maximum(np.round(true * random.lognormal(0, 0.13, true.size) + random.normal(0, 0.4, true.size)), 0)
    told = found.state["depth_mm"].tolist()
    span = [measuring.likely(one, SEDIMENT.depth_spread, 1000 * SEDIMENT.ruler_m) for one in told]
    return read, np.round(np.array(span), 1)


@pytest.fixture(scope="module")
def districts():
    return [district(law(), seed) for law in LAWS for seed in (2, 5)]


def asked(read, span) -> np.ndarray:
    return (np.round(read, 1) < span[:, 0]) | (np.round(read, 1) > span[:, 1])


def test_true_readings_are_hardly_ever_asked_for_again(districts):
    again = [asked(read, span).mean() for read, span in districts]
    assert np.mean(again) < 0.02 and max(again) < 0.05
    # And some are: whoever never asks finds nothing.
    assert np.mean(again) > 0.002


def test_nine_in_ten_that_slipped_are_asked_for_again(districts):
    caught = {
        name: np.mean([asked(read * by, span)[read >= SEEN_MM].mean() for read, span in districts])
        for name, by in SLIPS.items()
    }
    assert sum((read >= SEEN_MM).sum() for read, _ in districts) > 1000
    assert np.mean(list(caught.values())) > 0.87
    assert caught["ten times"] > 0.9 and caught["as if in inches"] > 0.97
    assert min(caught.values()) > 0.75
