"""What a truck always has along, and what a place asks for besides. Source: trade practice."""

from collections.abc import Iterable

from aquifer.core.place import FeatureKind
from aquifer.core.units import Quantity, figure

KIT: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "Water",
        (
            f"hot-water hose, rated for {figure(Quantity.TEMPERATURE, 90)}, and a short one for soaking",
            "hose cap with washer",
            "two buckets, one low enough for the relief pipe",
            "white cloth or stocking for solids, towels, rags",
            "wet vacuum, drain pump, stiff wire or solder rod",
        ),
    ),
    (
        "Hands",
        (
            "flat and Phillips screwdrivers, small sockets",
            "two wrenches and slip-joint pliers: one holds, one turns",
            "1 1/16 in socket, breaker bar",
            "knife, torch, step ladder",
        ),
    ),
    (
        "Instruments",
        (
            "pressure gauge with hose thread",
            "digital thermometer",
            "multimeter with millivolts and beeper, a spare, fresh batteries",
            "CO monitor",
            "tire gauge and pump for expansion tanks",
        ),
    ),
    (
        "Gas and joints",
        ("leak spray", "thread tape, thread paste", "can of air for jets, short gas nipple as a lever"),
    ),
    ("Contacts", ("abrasive paper for contacts, plain paper for the flame rod", "insulating tape")),
    (
        "Drain",
        (f"3/4 in brass nipple, {figure(Quantity.LENGTH, 100)} long, and a full-bore valve", "drain valve 3/4 in"),
    ),
    ("Protection", ("goggles, gloves, face shield", "lock and tag")),
)
"""By what it is for; figures in the company's units, nominal threads as the trade calls them."""

_NEEDS: dict[tuple[FeatureKind, str], str] = {
    (FeatureKind.ACCESS, "ladder"): "ladder, and a second person for anything heavy",
    (FeatureKind.ACCESS, "cramped"): "anode in links",
    (FeatureKind.ACCESS, "hatch"): "prop for the hatch",
    (FeatureKind.DRAIN_ROUTE, "rises"): "drain pump",
    (FeatureKind.DRAIN_ROUTE, "long"): "second length of hose",
    (FeatureKind.DRAIN_ROUTE, "none"): "container for the water",
    (FeatureKind.STRAPS, "one"): "straps",
    (FeatureKind.STRAPS, "none"): "straps",
    (FeatureKind.CONNECTORS, "corroded"): "connectors, a pair",
    (FeatureKind.CONNECTORS, "leaking"): "connectors, a pair",
    (FeatureKind.CONNECTORS, "brittle"): "connectors, a pair",
    (FeatureKind.TEMPERING_VALVE, "failed"): "tempering valve",
    (FeatureKind.DIELECTRIC_UNIONS, "corroded"): "dielectric unions, a pair",
    (FeatureKind.DIELECTRIC_UNIONS, "missing"): "dielectric unions, a pair",
    (FeatureKind.CO_ALARM, "old"): "CO alarm",
    (FeatureKind.CO_ALARM, "dead"): "CO alarm",
    (FeatureKind.CO_ALARM, "missing"): "CO alarm",
    (FeatureKind.TANK_DRAIN, "drips"): "hose cap with washer",
    (FeatureKind.TANK_DRAIN, "blocked"): "full-bore drain valve",
    (FeatureKind.TANK_DRAIN, "brittle"): "full-bore drain valve",
    (FeatureKind.REGULATOR, "creeps"): "pressure regulator",
    (FeatureKind.INLET_FILTER, "clogged"): "filter cartridge",
}


def brought(seen: Iterable[tuple[FeatureKind, str]]) -> list[str]:
    """What visits to a place take along besides, each once, in the order of the table.

    Parameters: features with the condition in which each was seen.
    """
    there = set(seen)
    return list(dict.fromkeys(what for needed, what in _NEEDS.items() if needed in there))
