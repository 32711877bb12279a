"""What a customer is asked to prepare before a visit, by what it is for."""

from collections.abc import Iterable

from aquifer.core.kinds import KINDS, Fuel, HeaterKind
from aquifer.core.vocabulary import Component

ALWAYS = (
    "Please clear a good step in front of the heater, the way to it and the end of its relief pipe; keep "
    "children and pets away.",
    "Somebody should be in who can open a hot faucet, and who may decide if we find something more.",
    "Find where the water to the house is shut off, if you can; leave a valve that is stiff or brittle alone.",
)
"""Source: trade practice; what technicians ask for before they come."""
_NO_WATER = (
    "Hot water will be off for {hours}; draw what you need before we come, and no washer, dishwasher or shower while "
    "we work."
)
_FIRST_WATER = "Afterwards faucets spit air for a moment and the first water is cold or cloudy. Let it run."
_FAULT = (
    "If it heats badly, leave it on until we come: what it does tells us most. Shut it off and call at once if it "
    "leaks, trips its breaker, smells, roars, or a carbon monoxide alarm sounds."
)
_COMBUSTION = (
    "Keep paint, solvents and washing away from the burner. If you smell gas: everybody out, touch no switch, call "
    "from outside."
)


def preparation(services: Iterable[tuple[HeaterKind, Component]], hours: float) -> list[str]:
    """Lines in plain words, the most needed first.

    Parameters: services, each heater's kind and what is done; hours that the whole visit takes.
    """
    told = list(services)
    kinds = {kind for kind, _ in told}
    parts = {component for _, component in told}
    lines = list(ALWAYS)
    if parts & {
        Component.SEDIMENT,
        Component.SCALE,
        Component.ANODE,
        Component.RELIEF_VALVE,
        Component.EXPANSION_TANK,
    }:
        lines.append(_NO_WATER.format(hours="about an hour" if hours < 1.5 else f"about {round(hours)} hours"))
        lines.append(_FIRST_WATER)
    if not told:
        lines.append(_FAULT)
    if any(KINDS[kind].fuel is Fuel.GAS for kind in kinds):
        lines.append(_COMBUSTION)
    return lines
