"""What an owner does once a year at this very heater, in drawn steps; what is better left to us is said so.

Source: trade practice, the three yearly tasks and the look at the pressure; the valve's lever is left alone where
practitioners leave it: when it is old, was not tried by us lately, drips, or its pipe does not end safely.
"""

import datetime
from collections.abc import Iterable, Mapping
from enum import StrEnum, auto
from typing import NamedTuple

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import RELIEF_VALVE
from aquifer.core.place import FeatureKind
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.places.models import Feature

_LEFT_DRAINS = frozenset({"blocked", "brittle", "drips"})


class Picture(StrEnum):
    """What a task is drawn as."""

    EXPANSION_TANK = auto()
    LEVER = auto()
    PIPE_END = auto()
    BUCKET = auto()
    DRAIN_SHUT = auto()
    GAUGE = auto()


class Task(NamedTuple):
    says: str
    picture: Picture | None = None
    """None for what is said of all of them."""


def tasks(
    heater: Heater,
    parts: Mapping[PartKind, Part],
    features: Iterable[Feature],
    tried: str,
    on: datetime.date,
    leave_tank: bool = False,
) -> list[Task]:
    """The owner's year, each task in a line of its own, after one of when and how.

    Parameters: parts in place; features of the heater and its site; tried, what the relief valve did when it was last
    tried, empty where it was not; on, the day of the visit; leave_tank, one that is better not stirred any more.
    """
    kind = HeaterKind(heater.kind)
    seen = {FeatureKind(feature.kind): feature for feature in features if feature.heater_id in (None, heater.pk)}
    said = [Task(f"Each {on:%B}, a quarter of an hour at the heater. Leave out what you are not sure of, and call us.")]
    if PartKind.EXPANSION_TANK in parts:
        said.append(
            Task(
                "Expansion tank: unscrew the cap of its air valve and press the pin for a second. Air: good. Water, or "
                "nothing: call us.",
                Picture.EXPANSION_TANK,
            )
        )
    said.append(_valve(heater, parts.get(PartKind.RELIEF_VALVE), seen.get(FeatureKind.DISCHARGE_PIPE), tried, on))
    drain = seen.get(FeatureKind.TANK_DRAIN)
    if kind.is_tank and not KINDS[kind].has_plug:
        if leave_tank or drain is not None and (drain.condition in _LEFT_DRAINS or drain.do_not_operate):
            shut = "Leave the tank's drain shut: it may not close again. What is to be done there, we do."
            said.append(Task(shut, Picture.DRAIN_SHUT))
        else:
            said.append(
                Task(
                    "Tank: a bucket under its drain, open it until the water runs clear, shut it, see that it is dry. "
                    "The water is hot: gloves, and no children near.",
                    Picture.BUCKET,
                )
            )
    gauge = "Pressure: a gauge on a hose faucet with everything shut. Much more than last year: call us."
    said.append(Task(gauge, Picture.GAUGE))
    return said


def _valve(heater: Heater, valve: Part | None, pipe: Feature | None, tried: str, on: datetime.date) -> Task:
    since = (valve and valve.fitted_on) or heater.installed_on
    old = since is None or (on - since).days > 365.25 * RELIEF_VALVE.warn_after_years
    unsafe = pipe is None or pipe.condition != "sound"
    if old or unsafe or tried != "flows_and_reseats":
        alone = "Leave the lever of the safety valve alone: we try it. Only see that the end of its pipe is dry."
        return Task(alone, Picture.PIPE_END)
    return Task(
        "Safety valve: nobody near the end of its pipe; lift the lever for five seconds, let it snap shut. Water runs, "
        "then stops: good. None, or a drip that stays: call us.",
        Picture.LEVER,
    )
