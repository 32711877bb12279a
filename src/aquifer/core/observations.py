"""What is looked at beside the findings that the forecast learns from: how it can look, how bad that is, what to do.

One table. A device takes its questions from here, the log and the exports their words; what is not as it should be
becomes an open issue, which the next look that finds it right closes. Severities and advice are trade practice
(assumption: notes on findings and defects), below local codes.
"""

from dataclasses import dataclass

from aquifer.core.kinds import Fuel, HeaterKind, burning, having
from aquifer.core.place.feature import Condition, Severity

_NOTE, _DEFECT, _DANGER = Severity.NOTE, Severity.DEFECT, Severity.DANGER
_GAS = burning(Fuel.GAS)
_TANKS = having("is_tank")
_TANKLESS = frozenset(HeaterKind) - _TANKS
_POWERED = having("has_mains_power")


@dataclass(frozen=True)
class Observation:
    """One thing that is looked at, and how it can look; the first is as it should be."""

    field: str
    """Under which a visit answers it."""
    ask: str
    says: str
    """What it is, as a log names it."""
    looks: tuple[Condition, ...]
    of: frozenset[HeaterKind] = frozenset(HeaterKind)

    def look(self, value: str) -> Condition | None:
        """The look of that name; None where there is none, as from a device of another version."""
        return next((condition for condition in self.looks if condition.value == value), None)


def _right(value: str, words: str) -> Condition:
    return Condition(value, words)


OUTLET = "relief.outlet"
RUNS = frozenset({"drips", "puddle", "streams", "roared"})
"""Looks of the relief valve's outlet by which the valve did not hold. A weep is not one of them: assumption."""

OBSERVATIONS = (
    Observation(
        OUTLET,
        "The relief valve's outlet",
        "outlet of the relief valve",
        (
            _right("dry", "dry"),
            Condition("weeps", "weeps now and then", _NOTE, "usual while a vehicle's heats; else read the pressure"),
            Condition("drips", "drips steadily", _DEFECT, "read the pressure before it is renewed; never cap it"),
            Condition("puddle", "a puddle that grows", _DEFECT, "read the pressure before it is renewed; never cap it"),
            Condition("streams", "streams", _DANGER, "fuel off, the cold left on; it did not close again"),
            Condition("roared", "roared, steam", _DANGER, "fuel off, the cold left on; look at the control"),
        ),
    ),
    Observation(
        "relief.inside",
        "The old relief valve, inside",
        "relief valve, inside",
        (
            _right("clean", "clean"),
            Condition("rust_film", "iron-orange film", _NOTE, "iron in the water, or the rod is used up: look at it"),
            Condition("caked", "caked with lime", _NOTE, "renew it sooner in this water; descale what stands behind"),
        ),
    ),
    Observation(
        "relief.lever",
        "The relief valve's lever",
        "lever of the relief valve",
        (
            _right("moves", "moves, springs back"),
            Condition("stiff", "stiff", _DEFECT, "renew it: one that sticks protects nobody"),
            Condition("stuck", "does not move", _DANGER, "not forced; the heater has no relief until it is renewed"),
        ),
    ),
    Observation(
        "water.smell",
        "How the hot water smells",
        "smell of the hot water",
        (
            _right("none", "of nothing"),
            Condition("eggs", "of eggs", _DEFECT, "the water takes the rod: aluminum-zinc or powered, never none"),
            Condition("chlorine", "of chlorine", _NOTE, "rubber ages sooner: bladder, seals, hoses"),
            Condition("fuel", "of oil or solvent", _DANGER, "nobody drinks it; ask the supplier at once"),
        ),
    ),
    Observation(
        "water.first",
        "The first water out of the drain",
        "first water out of the drain",
        (
            _right("clear", "clear"),
            Condition("dark", "dark, then clear", _NOTE, "usual at first: it stood on the deposit"),
            Condition("murky", "murky for long", _NOTE, "mud or rust: look at the rod and at the well's filter"),
            Condition("whitish", "whitish, then clear", _NOTE, "lime dust, stirred: more lies below it"),
        ),
        _TANKS,
    ),
    Observation(
        "joints.state",
        "Joints, wiped top down with paper",
        "joints",
        (
            _right("dry", "dry to the hand"),
            Condition("damp", "damp", _DEFECT, "mark it, look again next time; remake it if it grows"),
            Condition("dripping", "dripping", _DEFECT, "hold one side, remake it; the tank may be sound"),
            Condition("from_above", "wet from above", _DEFECT, "follow the water up before the tank is judged"),
        ),
    ),
    Observation(
        "rust.where",
        "Rust or crust, elsewhere",
        "rust or crust",
        (
            _right("none", "none"),
            Condition("nipples", "crust where two metals meet", _DEFECT, "dielectric nipples or unions"),
            Condition("floor", "rust spots on the floor below", _NOTE, "find what dripped there"),
            Condition("hose_thread", "the drain's thread is rusted", _DEFECT, "a hose leaks there: renew the drain"),
            Condition("burner_tube", "rust on the burner", _DEFECT, "condensate or a leak above: find which"),
            Condition("terminals", "black, oxidized terminals", _DEFECT, "power off and proven; clean, tighten"),
        ),
    ),
    Observation(
        "flame.look",
        "The flame",
        "flame",
        (
            _right("steady", "steady, quiet, blue"),
            Condition("roars", "roars", _DEFECT, "too much air: close the shutter a little"),
            Condition("stutters", "stutters", _DEFECT, "clean burner and jet; look at the pressure"),
            Condition("yellow", "yellow tips", _DANGER, "soot, carbon monoxide: off until it is trimmed"),
            Condition("lifts", "lifts off the burner", _DANGER, "off: air and pressure by the plate"),
            Condition("quits", "lights, quits in seconds", _DEFECT, "flame rod, spreader or jet"),
        ),
        _GAS,
    ),
    Observation(
        "electrode.state",
        "Electrode and spreader",
        "electrode and spreader",
        (
            _right("sound", "sound, in the middle"),
            Condition("cracked", "crack in the ceramic", _DEFECT, "renew it: it sparks inside when damp"),
            Condition("off_center", "spreader off center", _DEFECT, "set it back: the flame misses the rod"),
            Condition("web", "web or dirt in it", _DEFECT, "brush it, blow the jet with air only"),
        ),
        _GAS,
    ),
    Observation(
        "electrode.spark",
        "The spark",
        "spark",
        (
            _right("jumps", "jumps at once, blue"),
            Condition("weak", "weak or late", _DEFECT, "gap, lead, shroud; then the driver"),
            Condition("none", "none", _DEFECT, "supply, lead, shroud; then the driver"),
        ),
        _GAS,
    ),
    Observation(
        "wiring.state",
        "Wiring behind the cover",
        "wiring",
        (
            _right("sound", "sound, dry"),
            Condition("loose", "a loose terminal", _DEFECT, "power off and proven; tighten or renew it"),
            Condition("wet", "wet", _DANGER, "power stays off until the leak is mended and it is dry"),
            Condition("taped", "taped over old damage", _DEFECT, "for a licensed electrician: under it, copper"),
            Condition("scorched", "scorched or melted", _DANGER, "leave it off; licensed electrical work"),
            Condition("one_reset", "one reset had tripped", _DEFECT, "find why before it is pressed again"),
            Condition("both_resets", "both resets had tripped", _DEFECT, "unusual: supply or thermostat, not heat"),
        ),
        _POWERED,
    ),
    Observation(
        "exchanger.inside",
        "Inside the heater",
        "inside",
        (
            _right("clean", "clean, dry"),
            Condition("dirt", "dirt in its pipes since new", _NOTE, "rinse; the screen again in a month"),
            Condition("little_water", "a little trapped water", _NOTE, "harmless: dry it"),
            Condition("wet_wool", "insulation wet or broken", _DEFECT, "renew it; find where the water came from"),
            Condition("lumps", "white lumps or rust streaks", _DANGER, "a crack opens when hot: renew the exchanger"),
        ),
        _TANKLESS,
    ),
    Observation(
        "flow_switch.turns",
        "The flow switch",
        "flow switch",
        (
            _right("spins", "spins freely"),
            Condition("sluggish", "sluggish", _DEFECT, "rinse it; the water scales: descale sooner"),
            Condition("seized", "seized", _DEFECT, "free or renew it; carry one next time"),
        ),
        _TANKLESS,
    ),
    Observation(
        "mixing.head",
        "The mixing valve's head, taken off",
        "mixing valve's head",
        (
            _right("clean", "clean white thread"),
            Condition("grease", "dark grease on the thread", _DEFECT, "its seal is gone: renew the valve"),
        ),
    ),
    Observation(
        "hot.pattern",
        "What is wrong with the hot water",
        "complaint",
        (
            _right("none", "nothing"),
            Condition("one_faucet", "at one faucet only", _NOTE, "the fixture, not the heater"),
            Condition("swings", "swings hot and cold", _DEFECT, "mixing valve, or a pump without control"),
            Condition("too_hot", "too hot everywhere", _DANGER, "turn it down now; thermostat or stacking"),
            Condition("lukewarm", "lukewarm everywhere", _DEFECT, "crossover, dip tube, a dead element, the setting"),
            Condition("weak", "weak hot flow only", _DEFECT, "grit: aerators, the mixing valve, the inlet screen"),
            Condition("dial_creeps", "dial raised again and again", _DEFECT, "deposit over its sensor: flush it"),
        ),
    ),
)
"""In the order in which they are told."""
BY_FIELD = {observation.field: observation for observation in OBSERVATIONS}


def looked_at(kind: HeaterKind) -> list[Observation]:
    """What is looked at on a heater of this kind, in order."""
    return [observation for observation in OBSERVATIONS if kind in observation.of]


def fault(field: str, value: str) -> tuple[Severity, str] | None:
    """How bad an answer is, with a sentence that says what to do; None if nothing is wrong or nobody knows the word."""
    observation = BY_FIELD.get(field)
    look = observation.look(value) if observation else None
    if observation is None or look is None or look.severity is None:
        return None
    return look.severity, f"{observation.says[:1].upper()}{observation.says[1:]}: {look.words}; {look.advice}."
