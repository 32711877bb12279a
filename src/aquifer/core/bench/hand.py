"""What a hand can turn, fit, say and note at a heater in practice, right or wrong."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from aquifer.core.bench.heater import Heater
from aquifer.core.bench.rod import Rod

LOW_ENOUGH = 0.88
"""Share of its height to which a tank is lowered before its relief valve is unscrewed: the valve sits in the top 150 mm
(trade practice)."""
HELD_L, SPILLS_L = 1.0, 6.0
"""What comes while a drain valve is changed on a tank that holds itself back, and on one that does not. Assumption: a
hand is eight seconds at it."""


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
    fuels: tuple[str, ...] = ("gas", "electric", "boiler")
    """Of the heaters that have it."""


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
    "relief_valve": Handle(("out", "new", "as the old")),
    "drain_valve": Handle(("new",)),
    "rod": Handle(("cracked", "forced", "out", "new", "back")),
    "hot_pipe": Handle(("off", "on")),
    "at_drain": Handle(("left", "right"), ("boiler",)),
    "outlet": Handle(("uncapped",)),
    "dial": Handle(("on", "pilot", "off"), ("gas",)),
    "gas_cock": Handle(("open", "shut"), ("gas",)),
    "pilot": Handle(("lit",), ("gas",)),
    "breaker": Handle(("on", "off", "locked"), ("electric", "boiler")),
    "mark": Handle(("50", "55", "60", "65", "70")),
    "tell": Handle(("what goes off", "what was done")),
    "look": Handle(("relief pipe", "relief valve", "burner", "drain", "rod", "floor")),
}
"""Everything that can be done at a tank, by what is turned. ``mark``: the setting, degC. ``relief_valve``: a new one
whose probe reaches the water, or of the length of the old. ``rod``: cracked loose with a bar while somebody holds the
tank; forced with a pipe on the bar; taken out; a new one or the same put in. ``breaker``: a boiler's switches as well.
"""


def refused(heater: Heater, act: Act) -> str:
    """Why a hand cannot do that now; empty if it can. Bad handles and positions are a ValueError of ``checked``."""
    taken = {"hose": heater.hose, "gauge": heater.gauge, "cap": heater.cap}
    on_thread = next((name for name, so in taken.items() if so and name != act.handle), "")
    if act.handle in taken and act.to == "on" and on_thread:
        return f"The {on_thread} is on the drain's thread."
    if act.handle == "wire" and (on_thread or heater.drain < 0.5):
        return "A wire goes in by the open drain, with nothing on its thread."
    if act.handle == "drain_valve" and (on_thread or heater.at_boiler):
        return f"The {on_thread} is on the drain's thread." if on_thread else "That is the boiler's drain."
    if act.handle == "lever" and heater.relief_out:
        return "The relief valve is out."
    if act.handle == "at_drain" and act.to != heater.at_drain and (on_thread or heater.drain > 0):
        return "Shut this drain and take off what is on it first."
    if act.handle == "rod":
        return _rod_refuses(heater, act.to)
    if act.handle == "bucket" and heater.hose and heater.hose_in == "bucket" and heater.outflow > 0.01:
        return "The hose still runs into it."
    if act.handle == "pilot" and not heater.gas_cock:
        return "No gas comes: its valve is shut."
    if act.handle == "pilot" and heater.dial == "off":
        return "No gas comes: the dial is off."
    return ""


def _rod_refuses(heater: Heater, to: str) -> str:
    rod = heater.rod
    if to in ("new", "back"):
        return "" if rod.seat == "out" else "The rod is in its port."
    if rod.seat == "out":
        return "The rod is out."
    if heater.build.rod_combined and heater.hot_pipe:
        return "There is no head to turn: the rod hangs on the hot outlet, under its pipe."
    if to == "out" and rod.seat != "loose":
        return "It sits tight in its thread."
    if to == "cracked" and rod.stuck:
        return "It does not come loose, with all that one can lean on the bar."
    return ""


def checked(fuel: str, act: Act) -> None:
    """Raises: ValueError for what cannot be turned, or not to there, naming what is allowed."""
    handle = HANDLES.get(act.handle)
    if handle is None or fuel not in handle.fuels:
        allowed = ", ".join(name for name, one in HANDLES.items() if fuel in one.fuels)
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


def _valve(heater: Heater, to: str) -> None:
    if heater.share > LOW_ENOUGH and not heater.relief_out:
        # What stands above the port comes out of it.
        heater.floor_l += (heater.share - LOW_ENOUGH) * heater.build.litres + (50.0 if heater.kpa > 20 else 0.0)
    heater.relief_out = to == "out"
    if heater.relief_out:
        heater.relief_leaks = heater.relief_open = heater.lever = False
        return
    short = heater.build.probe_short and to == "as the old"
    heater.build = replace(heater.build, relief_stuck=False, relief_weeps=False, probe_short=short)
    heater.relief_leaks = heater.lever = False


def _new_drain(heater: Heater, to: str) -> None:
    # Where nothing lets air in above, it holds itself back for as long as a hand needs.
    held = not heater.tap and not heater.lever and not heater.is_open_above and heater.supplied == 0
    most_l = HELD_L if held else SPILLS_L
    litres = 0.0 if heater.is_buried else heater.spill(most_l)
    heater.floor_l += litres
    heater.build = replace(heater.build, drain_drips=False)
    heater.drain_leaks = heater.flake = False
    heater.drain = 0.0


def _rod(heater: Heater, to: str) -> None:
    rod = heater.rod
    if to in ("cracked", "forced"):
        # A bar that is forced, or an empty tank, turns the tank and not the rod.
        heater.twisted = heater.twisted or (to == "forced" and (rod.stuck or heater.share < LOW_ENOUGH))
        rod.seat = "tight" if rod.stuck else "loose"
    elif to == "out":
        rod.seat = "out"
    else:
        heater.rod = Rod(1.0, False, is_new=True) if to == "new" else replace(rod, seat="tight")


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
    "relief_valve": _valve,
    "drain_valve": _new_drain,
    "rod": _rod,
    "hot_pipe": _sets("hot_pipe", "on"),
    "at_drain": lambda heater, to: setattr(heater, "at_drain", to),
    "outlet": lambda heater, to: setattr(heater, "build", replace(heater.build, outlet="open")),
    "dial": _dial,
    "gas_cock": _gas_cock,
    "pilot": lambda heater, to: setattr(heater, "pilot", True),
    "breaker": _breaker,
    "mark": lambda heater, to: setattr(heater, "set_c", float(to)),
}
