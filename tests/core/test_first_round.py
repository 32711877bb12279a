"""A base that was taken over: nothing is overdue with us before it was ours, and the worst come first."""

import dataclasses

import numpy as np
import pytest

from aquifer.core import first_round
from aquifer.core.forecast import ComponentForecast
from aquifer.core.vocabulary import Component, DecidedBy, code

HEATERS = 400


def told(component, due, latest, risk):
    blank = {f.name: np.zeros(HEATERS) for f in dataclasses.fields(ComponentForecast)}
    own = {"component": component, "row": np.arange(HEATERS), "state": {}, "factors": (), "unit": "", "limit_name": ""}
    decided = np.full(HEATERS, code(DecidedBy.CAP))
    figures = {"due_years": due, "latest_years": latest, "probability_today": risk, "decided_by": decided}
    return ComponentForecast(**{**blank, **own, **figures})


def spread(component, care=0.0, looked=False, due=-9.0, latest=-8.0, risk=0.02):
    every = np.ones(HEATERS)
    place = (np.arange(HEATERS) * 0.6180339887) % 1.0
    before = told(component, due * every, latest * every, np.broadcast_to(risk, HEATERS).astype(float))
    return first_round.spread(before, care * every, np.full(HEATERS, looked), place, 8 / 52)


@pytest.mark.parametrize(
    ("component", "weeks"),
    [(Component.RELIEF_VALVE, 8), (Component.EXPANSION_TANK, 8), (Component.SEDIMENT, 52), (Component.ANODE, 52)],
)
def test_what_nobody_proved_is_due_within_its_round_and_never_before_it_was_ours(component, weeks):
    found = spread(component)
    assert (found.due_years >= 0).all() and (found.due_years <= weeks / 52).all()
    assert found.latest_years == pytest.approx(weeks / 52, abs=1e-3)
    assert (found.decided_by == code(DecidedBy.FIRST_LOOK)).all()
    # Spread evenly: no tenth of the round has more than a quarter of it.
    counts, _ = np.histogram(found.due_years, bins=10)
    assert counts.max() <= HEATERS / 4


def test_the_worst_come_first():
    risk = np.where(np.arange(HEATERS) % 2 == 0, 0.9, 0.05)
    found = spread(Component.SEDIMENT, risk=risk)
    assert found.due_years[risk > 0.5].mean() < found.due_years[risk < 0.5].mean() - 0.3


def test_a_proof_of_ours_counts_as_ever_and_so_does_a_round_that_was_missed():
    assert (spread(Component.RELIEF_VALVE, looked=True).due_years == -9).all()
    assert (spread(Component.RELIEF_VALVE, care=np.nan).latest_years == -8).all()
    late = spread(Component.RELIEF_VALVE, care=1.0)
    assert (late.due_years < 0).all() and late.latest_years == pytest.approx(8 / 52 - 1.0, abs=1e-3)


def test_what_is_due_later_by_itself_stays_where_it_is_and_a_tank_is_replaced_by_its_risk():
    found = spread(Component.SEDIMENT, due=2.5, latest=3.0)
    assert (found.due_years == 2.5).all() and (found.decided_by == code(DecidedBy.CAP)).all()
    assert (spread(Component.TANK).due_years == -9).all()
