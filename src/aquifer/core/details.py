"""What else can be told of a heater, of its parts and of what stands around it: one table of details.

A detail that asks something of a visit says so in a sentence. What is asked and what is unusual is trade practice
(assumption: notes on equipment, parts and places), below local codes.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from aquifer.core.kinds import Fuel, HeaterKind, burning, having
from aquifer.core.place.feature import FeatureKind
from aquifer.core.units import Quantity, figure

Value = str | float
_MOST_LETTERS = 120


@dataclass(frozen=True)
class Detail:
    """One thing that can be told: a figure in a unit, one of some words, or a line of one's own."""

    name: str
    ask: str
    unit: str = ""
    """Of a figure: a quantity of ``units``, or as it is written."""
    low: float = 0.0
    high: float = 0.0
    words: tuple[str, ...] = ()
    """Of a choice."""
    tells: Callable[[Value], str] | None = None
    """What whoever comes must know; empty where it asks nothing of them."""
    of: frozenset[HeaterKind] = frozenset(HeaterKind)
    """Heaters of which it is told."""

    def fault(self, value: Value) -> str:
        """What is wrong with a value, with what is allowed; empty if nothing is."""
        if self.unit:
            number = isinstance(value, int | float) and not isinstance(value, bool)
            within = number and self.low <= float(value) <= self.high
            return "" if within else f"{value!r} is no number between {self.low:g} and {self.high:g}"
        if not isinstance(value, str):
            return f"{value!r} is no word"
        if self.words and value not in self.words:
            return f"{value[:40]!r} is none of: {', '.join(self.words)}"
        return "" if len(value) <= _MOST_LETTERS else f"longer than {_MOST_LETTERS} letters"

    def says(self, value: Value) -> str:
        """It with its value, for a sentence whose figures are told in a company's units."""
        if self.unit:
            shown = (
                figure(Quantity(self.unit), float(value)) if self.unit in set(Quantity) else f"{value:g} {self.unit}"
            )
            return f"{self.ask.lower()} {shown}"
        return f"{self.ask.lower()}: {value}"


def _length(name: str, ask: str, high: float = 5000, tells: Callable[[Value], str] | None = None) -> Detail:
    return Detail(name, ask, Quantity.LENGTH, 0, high, tells=tells)


def _if(word: str, says: str) -> Callable[[Value], str]:
    return lambda value: says if value == word else ""


_TANKS = having("is_tank")
_GAS = burning(Fuel.GAS)
END_MM = 300.0
"""Above the floor; about 150 mm (6 in) is usual for a discharge pipe's end. Trade practice; the double: assumption."""

OF_HEATER = (
    Detail("lining", "Lining", words=("glass", "stainless", "copper", "plastic"), of=_TANKS),
    Detail("insulation_mm", "Insulation", Quantity.LENGTH, 0, 200, of=_TANKS),
    Detail("head_room_mm", "Head room above it", Quantity.LENGTH, 0, 5000, of=_TANKS),
    Detail("rod_port", "The rod's port", words=("its own", "in the hot outlet", "combined with the cold"), of=_TANKS),
    Detail("drain_place", "Where the tank's drain is", of=_TANKS),
    Detail(
        "instructions",
        "Lighting instructions on it",
        words=("there", "missing"),
        tells=_if("missing", "Its lighting instructions are missing: bring its maker's sheet."),
        of=_GAS,
    ),
    Detail("dial_scale", "Scale of its dial", of=_GAS | _TANKS),
    Detail("altitude_m", "Height above the sea", Quantity.HEIGHT, 0, 5000, of=_GAS),
    Detail("nearest_tap", "Nearest hot faucet"),
    Detail("flushed_by", "Who flushed it before us"),
    Detail("repairs", "Repairs before us", tells=lambda value: f"Repaired before us: {value}."),
)
OF_SITE = (
    Detail("owner", "Owner"),
    Detail("tenant", "Tenant or operator"),
    Detail("pays", "Who pays", words=("owner", "tenant", "operator", "insurance")),
    Detail(
        "approves",
        "Who approves more work, and their phone",
        tells=lambda value: f"More work is approved by {value}.",
    ),
)
_SWITCHED = (
    Detail("reset", "Red reset button", words=("there", "none")),
    Detail("limit_c", "Its limit opens at", Quantity.TEMPERATURE, 30, 150),
)
_ELEMENT = (
    Detail("watts", "Power", "W", 100, 20_000),
    Detail("thread", "How it is held", words=("screwed", "bolted", "square flange")),
)
_MIXED = (Detail("set_c", "Set to", Quantity.TEMPERATURE, 20, 80),)
OF_PART: Mapping[str, tuple[Detail, ...]] = {
    "relief_valve": (
        Detail("port", "Where it sits", words=("side", "top")),
        Detail(
            "tag",
            "Its tag",
            words=("there", "missing"),
            tells=_if("missing", "The relief valve has no tag: nobody knows its rating. Bring one that fits."),
        ),
    ),
    "expansion_tank": (
        Detail("air_valve", "Its air valve points", words=("up", "down", "aside")),
        Detail(
            "support",
            "Held by",
            words=("a strap", "a hanger", "the pipe alone"),
            tells=_if("the pipe alone", "The expansion tank hangs on its pipe alone: bring a strap."),
        ),
    ),
    "drain_valve": (
        Detail("turn", "How it turns", words=("quarter turn", "many turns")),
        Detail(
            "grip",
            "What turns it",
            words=("handle", "slot"),
            tells=_if("slot", "The drain is turned by its slot: bring a flat screwdriver."),
        ),
        Detail("bore_mm", "Bore", Quantity.LENGTH, 3, 60),
        Detail("place", "Where it sits", words=("side", "bottom")),
        Detail(
            "cap", "Cap on its thread", words=("fitted", "none"), tells=_if("none", "The drain has no cap: bring one.")
        ),
    ),
    "gas_control": (
        Detail("scale", "Scale of its dial"),
        Detail("status_light", "Its status light"),
        Detail("lights_by", "The pilot is lit by", words=("button", "match")),
    ),
    "thermocouple": (
        Detail("form", "What it is", words=("thermocouple", "thermopile")),
        Detail("extra_limit", "Extra limit in its lead", words=("yes", "no")),
    ),
    "burner": (
        Detail("jet", "Stamp on its jet"),
        Detail("shutter", "Air shutter"),
        Detail(
            "arrestor",
            "Flame arrestor",
            words=("clean", "dusty", "damaged"),
            tells=_if("damaged", "Its flame arrestor is damaged: it stays off until that is renewed."),
        ),
    ),
    "igniter": (Detail("form", "What it is", words=("hot surface", "spark", "pilot lighter")),),
    "circulation_pump": (
        Detail(
            "control",
            "What controls it",
            words=("timer", "sensor", "button", "nothing"),
            tells=_if("nothing", "The circulating pump runs without control: it wears mixing valve and exchanger."),
        ),
    ),
    "upper_element": _ELEMENT,
    "lower_element": _ELEMENT,
    "upper_thermostat": _SWITCHED,
    "lower_thermostat": _SWITCHED,
    "tempering_valve": _MIXED,
    "mixing_valve": _MIXED,
    "spark_unit": (Detail("shroud", "Its shroud", words=("whole", "cracked", "missing")),),
    "trap": (Detail("filter", "Media in the neutralizer", words=("enough", "used up", "none")),),
}
OF_FEATURE: Mapping[FeatureKind, tuple[Detail, ...]] = {
    FeatureKind.HOUSE_SHUT_OFF: (
        Detail(
            "occupant",
            "Those who live there",
            words=("find it", "do not find it"),
            tells=_if("do not find it", "Show them the house's shut-off: they do not know where it is."),
        ),
    ),
    FeatureKind.CONNECTORS: (
        Detail(
            "marks",
            "Hot and cold",
            words=("marked", "not marked"),
            tells=_if("not marked", "Hot and cold are not marked: feel both pipes."),
        ),
    ),
    FeatureKind.DISCHARGE_PIPE: (
        Detail("comes_off", "It comes off", words=("by its thread", "by a union", "cut only")),
        _length(
            "end_mm",
            "Its end above the floor",
            tells=lambda value: (
                f"The discharge pipe ends {figure(Quantity.LENGTH, float(value))} above the floor; "
                f"{figure(Quantity.LENGTH, END_MM / 2)} is usual."
                if float(value) > END_MM
                else ""
            ),
        ),
        Detail("elbow", "Its last elbow points", words=("down", "aside", "there is none")),
    ),
    FeatureKind.DRAIN_ROUTE: (
        Detail(
            "length_m",
            "Hose that it takes",
            Quantity.HEIGHT,
            0,
            200,
            tells=lambda value: f"Bring {figure(Quantity.HEIGHT, float(value))} of hose.",
        ),
        Detail(
            "watched_by",
            "Who watches the hose's end",
            words=("whoever drains", "the customer", "a second person"),
            tells=_if("a second person", "A second person is needed at the hose's end."),
        ),
    ),
    FeatureKind.VENT: (
        Detail(
            "baffle",
            "Baffle in the flue",
            words=("there", "missing", "not seen"),
            tells=_if("missing", "The flue's baffle is missing: it wastes gas and may spill."),
        ),
    ),
    FeatureKind.WIRING: (Detail("splice_box", "Splice box", words=("closed", "open", "none")),),
    FeatureKind.STRAPS: (Detail("blocking", "Between heater and wall", words=("blocked", "loose")),),
    FeatureKind.ACCESS: (
        Detail(
            "hindrance",
            "What else is in the way",
            words=("insects", "hidden screws", "broken screws", "on the roof", "outside"),
            tells=lambda value: f"At the heater: {value}.",
        ),
    ),
}


def refused(details: tuple[Detail, ...], values: Mapping[str, Value]) -> dict[str, str]:
    """What cannot be so, by the name of each detail, with what is allowed."""
    known = {detail.name: detail for detail in details}
    return {
        name: known[name].fault(value) if name in known else f"no such detail; allowed: {', '.join(known) or 'none'}"
        for name, value in values.items()
        if name not in known or known[name].fault(value)
    }


def worded(details: tuple[Detail, ...], values: Mapping[str, Value]) -> list[str]:
    """Each that is told, in words and in the order of the table."""
    return [detail.says(values[detail.name]) for detail in details if detail.name in values]


def to_know(details: tuple[Detail, ...], values: Mapping[str, Value]) -> list[str]:
    """What they ask of whoever comes, in sentences."""
    told = [detail.tells(values[detail.name]) for detail in details if detail.tells and detail.name in values]
    return [sentence for sentence in told if sentence]


def of_heater(kind: HeaterKind) -> tuple[Detail, ...]:
    """What can be told of a heater of this kind."""
    return tuple(detail for detail in OF_HEATER if kind in detail.of)


def of_part(kind: str) -> tuple[Detail, ...]:
    """What can be told of a part of this kind."""
    return OF_PART.get(kind, ())


def of_feature(kind: FeatureKind) -> tuple[Detail, ...]:
    """What can be told of a feature of this kind."""
    return OF_FEATURE.get(kind, ())
