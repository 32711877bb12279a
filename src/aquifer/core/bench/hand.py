"""What a hand can turn, fit, say and note at a heater in practice, right or wrong."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from aquifer.core.bench.heater import Heater

LOW_ENOUGH = 0.88
"""Share of its height to which a tank is lowered before its relief valve is unscrewed: the valve sits in the top 150 mm
(trade practice)."""


@dataclass(frozen=True)
class Act:
    """One thing that somebody did."""

    at_s: int
    """Whole seconds since the door."""
    handle: str
    to: str = ""


@dataclass(frozen=True)
class Handle:
    """Something to turn or fit."""

    to: tuple[str, ...]
    """What it can be turned to."""
    fuel: str = ""
    """gas or electric, where only one has it."""


HANDLES: dict[str, Handle] = {
    "cold": Handle(("open", "shut")),
    "main": Handle(("open", "shut")),
    "tap": Handle(("open", "shut")),
    "drain": Handle(("open", "cracked", "shut")),
    "hose": Handle(("on", "off")),
    "hose_in": Handle(("floor drain", "bucket")),
    "bucket": Handle(("emptied",)),
    "gauge": Handle(("on", "off")),
    "cap": Handle(("on", "off")),
    "wire": Handle(("through the drain",)),
    "lever": Handle(("up", "down")),
    "relief_bucket": Handle(("under the pipe", "away")),
    "relief_valve": Handle(("new",)),
    "outlet": Handle(("uncapped",)),
    "dial": Handle(("on", "pilot", "off"), "gas"),
    "gas_cock": Handle(("open", "shut"), "gas"),
    "pilot": Handle(("lit",), "gas"),
    "breaker": Handle(("on", "off", "locked"), "electric"),
    "mark": Handle(("50", "55", "60", "65", "70")),
    "tell": Handle(("what goes off", "what was done")),
    "look": Handle(("relief pipe", "burner", "drain", "floor")),
}
"""Everything that can be done at a tank, by what is turned. ``mark``: the setting, degC."""


def refused(heater: Heater, act: Act) -> str:
    """Why a hand cannot do that now; empty if it can. Bad handles and positions are a ValueError of ``checked``."""
    taken = {"hose": heater.hose, "gauge": heater.gauge, "cap": heater.cap}
    if act.handle in taken and act.to == "on":
        other = next((name for name, so in taken.items() if so and name != act.handle), "")
        if other:
            return f"The {other} is on the drain's thread."
    if act.handle == "wire" and (heater.hose or heater.gauge or heater.cap or heater.drain < 0.5):
        return "A wire goes in by the open drain, with nothing on its thread."
    if act.handle == "bucket" and heater.hose and heater.hose_in == "bucket" and heater.outflow > 0.01:
        return "The hose still runs into it."
    if act.handle == "pilot" and not heater.gas_cock:
        return "No gas comes: its valve is shut."
    if act.handle == "pilot" and heater.dial == "off":
        return "No gas comes: the dial is off."
    return ""


def checked(fuel: str, act: Act) -> None:
    """Raises: ValueError for what cannot be turned, or not to there, naming what is allowed."""
    handle = HANDLES.get(act.handle)
    if handle is None or handle.fuel not in ("", fuel):
        allowed = ", ".join(name for name, one in HANDLES.items() if one.fuel in ("", fuel))
        raise ValueError(f"there is no {act.handle} to turn; allowed: {allowed}")
    if act.to not in handle.to:
        raise ValueError(f"{act.handle} = {act.to!r}; allowed: {', '.join(handle.to)}")


def turn(heater: Heater, act: Act) -> None:
    """Do it. What cannot be done now changes nothing: see ``refused``."""
    if not refused(heater, act) and act.handle in _TURNS:
        _TURNS[act.handle](heater, act.to)


def _drain(heater: Heater, to: str) -> None:
    heater.drain = {"open": 1.0, "cracked": 0.2, "shut": 0.0}[to]
    heater.drain_leaks = heater.build.drain_drips


def _lever(heater: Heater, to: str) -> None:
    heater.lever = to == "up"
    if to == "down" and heater.build.relief_weeps and not heater.build.relief_stuck:
        heater.relief_leaks = True


def _new_valve(heater: Heater, to: str) -> None:
    if heater.share > LOW_ENOUGH:
        # What stands above the port comes out of it.
        heater.floor_l += (heater.share - LOW_ENOUGH) * heater.build.litres + (50.0 if heater.kpa > 20 else 0.0)
    heater.build = replace(heater.build, relief_stuck=False, relief_weeps=False)
    heater.relief_leaks = heater.lever = False


def _dial(heater: Heater, to: str) -> None:
    heater.dial = to
    heater.pilot = heater.pilot and to != "off"


def _gas_cock(heater: Heater, to: str) -> None:
    heater.gas_cock = to == "open"
    heater.pilot = heater.pilot and heater.gas_cock


def _breaker(heater: Heater, to: str) -> None:
    heater.breaker, heater.locked = to == "on", to == "locked"


def _wire(heater: Heater, to: str) -> None:
    # The hand shuts the drain on what comes.
    heater.flake, heater.drain = False, 0.0


def _bucket(heater: Heater, to: str) -> None:
    heater.bucket_l = heater.bucket_g = heater.relief_bucket_l = 0.0


def _sets(field: str, word: str) -> Callable[[Heater, str], None]:
    return lambda heater, to: setattr(heater, field, to == word)


def _opens(field: str) -> Callable[[Heater, str], None]:
    return lambda heater, to: setattr(heater, field, 1.0 if to == "open" else 0.0)


_TURNS: Mapping[str, Callable[[Heater, str], None]] = {
    "cold": _opens("cold"),
    "main": _opens("main"),
    "tap": _sets("tap", "open"),
    "drain": _drain,
    "hose": _sets("hose", "on"),
    "hose_in": lambda heater, to: setattr(heater, "hose_in", to),
    "bucket": _bucket,
    "gauge": _sets("gauge", "on"),
    "cap": _sets("cap", "on"),
    "wire": _wire,
    "lever": _lever,
    "relief_bucket": _sets("relief_bucket", "under the pipe"),
    "relief_valve": _new_valve,
    "outlet": lambda heater, to: setattr(heater, "build", replace(heater.build, outlet="open")),
    "dial": _dial,
    "gas_cock": _gas_cock,
    "pilot": lambda heater, to: setattr(heater, "pilot", True),
    "breaker": _breaker,
    "mark": lambda heater, to: setattr(heater, "set_c", float(to)),
}
