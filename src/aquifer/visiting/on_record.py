"""What is on record of the piece that a step is about, told at the step: valve, rod, drain, setting, plate."""

from collections.abc import Iterable, Mapping

from aquifer.core import details
from aquifer.core.equipment import assumed
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FEATURES, FeatureKind, Severity, fault
from aquifer.core.units import Quantity, Unit, figure, worded
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.places.models import Feature
from aquifer.visits import readings
from aquifer.visits.words import part_words

_OF_FEATURE = {
    "cold_valve": FeatureKind.HEATER_SHUT_OFF,
    "drain_port": FeatureKind.TANK_DRAIN,
    "relief_pipe": FeatureKind.DISCHARGE_PIPE,
    "breaker": FeatureKind.BREAKER,
    "draft_hood": FeatureKind.VENT,
    "trap": FeatureKind.CONDENSATE_LINE,
}
_OF_PART = {
    "anode": PartKind.ANODE, "relief_valve": PartKind.RELIEF_VALVE, "expansion_tank": PartKind.EXPANSION_TANK,
    "lower_element": PartKind.LOWER_ELEMENT, "upper_element": PartKind.UPPER_ELEMENT, "burner": PartKind.BURNER,
    "exchanger": PartKind.EXCHANGER,
}  # fmt: skip
_MORE_OF_PART = {
    "gas_control": PartKind.GAS_CONTROL, "pilot": PartKind.THERMOCOUPLE, "drain_port": PartKind.DRAIN_VALVE,
    "trap": PartKind.TRAP, "flame_rod": PartKind.ELECTRODE,
}  # fmt: skip
_KNOWN = {feature.kind: feature for feature in FEATURES}


def of_pieces(
    heater: Heater, parts: Mapping[PartKind, Part], features: Iterable[Feature], units: Mapping[Quantity, Unit]
) -> dict[str, str]:
    """In words, by the piece that a section can light; only those of which something is known.

    Parameters: parts in place; features of the heater and its site.
    """
    own = {FeatureKind(feature.kind): feature for feature in features if feature.heater_id in (None, heater.pk)}
    found: dict[str, list[str]] = {
        "gas_control": [heater.control_setting, str(heater.details.get("dial_scale", "")), *settings_measured(heater)],
        "hot_tap": [str(heater.details.get("nearest_tap", ""))],
        "tank": [heater.maker, heater.model, f"serial {heater.serial}" if heater.serial else ""],
        "dip_tube": [heater.dip_tube],
    }
    for piece, kind in _OF_PART.items():
        found[piece] = part_words(parts.get(kind))
    found["anode"] += [heater.anode_port, str(heater.details.get("rod_port", ""))]
    for piece, part_kind in _MORE_OF_PART.items():
        found.setdefault(piece, []).extend(part_words(parts.get(part_kind)))
    plate = [
        figure(Quantity.POWER, heater.input_kw) if heater.input_kw else "",
        f"{heater.supply_volts} V" if heater.supply_volts else "",
    ]
    for piece in ("lower_element", "upper_element"):
        found[piece] += plate
    for piece, feature_kind in _OF_FEATURE.items():
        if feature_kind in own:
            found.setdefault(piece, []).extend(_seen(own[feature_kind]))
    found.setdefault("drain_port", []).append(str(heater.details.get("drain_place", "")))
    told = {piece: ", ".join(filter(None, words)) for piece, words in found.items()}
    return {piece: worded(words, units) for piece, words in told.items() if words}


def _seen(feature: Feature) -> list[str]:
    condition = _KNOWN[FeatureKind(feature.kind)].condition(feature.condition)
    touch = f"don't touch it, use {feature.use_instead or 'the next valve up'}" if feature.do_not_operate else ""
    more = details.worded(details.of_feature(FeatureKind(feature.kind)), feature.details)
    return [feature.form, feature.where, condition.words, touch or condition.advice, *more]


def to_know(
    heater: Heater, parts: Mapping[PartKind, Part], features: Iterable[Feature], units: Mapping[Quantity, Unit]
) -> list[str]:
    """What whoever comes must know besides what is dangerous: the way in, what to bring or do, what was noted."""
    site = heater.site
    own = [feature for feature in features if feature.heater_id in (None, heater.pk)]
    # What is merely so asks nothing of the visit.
    asks = [feature for feature in own if _KNOWN[FeatureKind(feature.kind)].condition(feature.condition).advice]
    told = [said for feature in asks if (said := fault(feature.seen())) is not None]
    notes = [words for severity, words in told if severity is Severity.NOTE]
    asked = [
        line
        for feature in own
        for line in details.to_know(details.of_feature(FeatureKind(feature.kind)), feature.details)
    ]
    asked += details.to_know(details.OF_SITE, site.details)
    asked += details.to_know(details.of_heater(HeaterKind(heater.kind)), heater.details)
    asked += [line for kind, part in parts.items() for line in details.to_know(details.of_part(kind), part.details)]
    asked += _head_room(heater, parts.get(PartKind.ANODE))
    more = [worded(line, units) for line in asked]
    return [*([site.access] if site.access else []), *notes, *more, *([heater.note] if heater.note else [])]


def _head_room(heater: Heater, rod: Part | None) -> list[str]:
    """A rod that is longer than the room above it comes out bent or in pieces, and the new one goes in in links."""
    room = heater.details.get("head_room_mm")
    length = (rod and rod.length_mm) or assumed(HeaterKind(heater.kind), heater.capacity_l).get("rod_length_mm")
    if not isinstance(room, int | float) or length is None or room >= length:
        return []
    return [f"Head room {figure(Quantity.LENGTH, room)}, rod {figure(Quantity.LENGTH, length)}: bring one in links."]


def settings_measured(heater: Heater) -> list[str]:
    """What came out of the faucet at each setting that it was left or found at: its dial, read by a thermometer."""
    found: dict[str, list[float]] = {}
    for visit in heater.visits.prefetch_related("amendments").order_by("on", "pk"):
        taken = readings.standing(visit)
        said = readings.in_words(visit)
        for at, tap in (("settings.found", "arrival.tap_c"), ("settings.left", "verify.tap_c")):
            if said.get(at) and tap in taken:
                found.setdefault(str(said[at]), []).append(taken[tap])
    return [
        f"{setting}: {figure(Quantity.TEMPERATURE, sum(values) / len(values))} at the faucet"
        for setting, values in found.items()
    ]
