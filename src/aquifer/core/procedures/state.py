"""What is open, lit, full and hot at a heater while it is worked on."""

from aquifer.core.procedures.condition import Words
from aquifer.core.vocabulary import HeaterKind

FIELDS: dict[str, tuple[str, ...]] = {
    "shut_off": ("unknown", "found"),
    "told": ("no", "yes"),
    "cold": ("open", "shut"),
    "energy": ("on", "pilot", "off", "locked"),
    "gas": ("open", "shut", "none"),
    "hose": ("none", "plain", "rated"),
    "drain": ("shut", "open"),
    "air": ("shut", "open"),
    "tap": ("shut", "open"),
    "discharge": ("unknown", "safe"),
    "relief": ("shut", "open"),
    "pressure": ("on", "off"),
    "level": ("full", "airy", "low", "empty"),
    "water": ("scalding", "cooled"),
    "ports": ("closed", "high", "bottom", "element"),
    "union": ("tight", "loose"),
    "joints": ("tested", "untested", "open"),
    "covers": ("on", "off"),
    "fluid": ("water", "acid"),
}
"""Every field with its words.

``told``: the people in the house know not to draw water. ``locked``: switched off and proven dead. ``air``: a way for
air into the tank besides tap and relief valve. ``level``: full to the taps, full but with air in it, below the upper
ports, empty. ``ports``: what is unscrewed: one in the upper part, one at the floor, an element. ``joints``: of the gas
line. ``covers``: of terminals or of the burner's chamber.
"""

SCALDS_FROM_C = 49.0
"""120 degF: from here on a burn takes minutes, then less. Trade practice."""
_FUELS = {
    HeaterKind.ELECTRIC_TANK: "electric",
    HeaterKind.HEAT_PUMP_TANK: "electric",
    HeaterKind.ELECTRIC_TANKLESS: "electric",
    HeaterKind.INDIRECT_TANK: "boiler",
}
State = dict[str, str]


def fuel_of(kind: HeaterKind) -> str:
    """gas, electric or boiler."""
    return _FUELS.get(kind, "gas")


def facts_of(kind: HeaterKind, licences: frozenset[str] = frozenset()) -> State:
    """What does not change during a visit, in words. Parameters: licences of who does the work."""
    return {
        "kind": kind.value,
        "fuel": fuel_of(kind),
        "store": "tank" if kind.is_tank else "tankless",
        **{f"licence_{one}": "yes" if one in licences else "no" for one in ("gas", "electrical", "plumbing")},
    }


def as_found(kind: HeaterKind, setpoint_c: float) -> State:
    """The state in which a working heater is found. Parameters: setpoint, degC."""
    return {
        "shut_off": "unknown",
        "told": "no",
        "cold": "open",
        "energy": "on",
        "gas": "open" if fuel_of(kind) == "gas" else "none",
        "hose": "none",
        "drain": "shut",
        "air": "shut",
        "tap": "shut",
        "discharge": "unknown",
        "relief": "shut",
        "pressure": "on",
        "level": "full",
        "water": "scalding" if setpoint_c >= SCALDS_FROM_C else "cooled",
        "ports": "closed",
        "union": "tight",
        "joints": "tested",
        "covers": "on",
        "fluid": "water",
    }


def after(state: Words, sets: Words) -> State:
    """The state after a step. Pressure follows the valves: the supply keeps it up, any opening lets it off. What is
    drained to below a port stays empty if it was."""
    new = {**state, **sets}
    if state["level"] == "empty" and new["level"] == "low":
        new["level"] = "empty"
    if new["cold"] == "open":
        new["pressure"] = "on"
    elif "open" in (new["drain"], new["tap"], new["relief"], new["air"]):
        new["pressure"] = "off"
    return new


RESTORED: dict[str, tuple[str, ...]] = {
    "cold": ("open",),
    "energy": ("on",),
    "gas": ("open", "none"),
    "hose": ("none",),
    "drain": ("shut",),
    "air": ("shut",),
    "tap": ("shut",),
    "relief": ("shut",),
    "level": ("full",),
    "ports": ("closed",),
    "union": ("tight",),
    "joints": ("tested",),
    "covers": ("on",),
    "fluid": ("water",),
}
"""How a heater is left that is fit to run."""


def unrestored(state: Words) -> list[str]:
    """Fields that are not as a heater is left, in the order in which they are looked at."""
    return [field for field, words in RESTORED.items() if state[field] not in words]
