"""Findings in the words of the trade."""

from collections.abc import Mapping

from aquifer.company.models import Company
from aquifer.core import details
from aquifer.core.procedures import calculators
from aquifer.core.procedures.library import library
from aquifer.core.procedures.visit import step_named
from aquifer.core.units import HardnessUnit, Quantity, System, Unit, table, worded
from aquifer.core.vocabulary import Component, Task
from aquifer.heaters.models import Part
from aquifer.visits.models import Finding
from aquifer.visits.schemas import FigureOut

_METHOD = {
    "pressure_blowout": "Pressure flush",
    "drain_and_pulse": "Pulsed drain",
    "jetting": "Jetted",
    "acid_soak": "Acid soak",
}
_REMOVED = {
    "none": "nothing",
    "trace": "a trace",
    "moderate": "moderate",
    "heavy": "heavy",
    "blocked": "drain blocked",
}
_FLOW = {"slow": "drain slow", "trickle": "drain trickled", "none": "drain did not run"}
_GRADE = {"like_new": "like new", "worn": "worn", "half": "half gone", "mostly_gone": "mostly gone", "gone": "gone"}
_OUTCOME = {
    "flows_and_reseats": "Relief valve ran and reseated",
    "flows_and_weeps": "Relief valve ran, then wept",
    "no_flow": "Relief valve passed no water",
    "not_tested": "Relief valve not tested",
}
_PIN = {
    "air": "Expansion tank held air",
    "water": "Expansion tank full of water",
    "nothing": "Expansion tank without air",
}
_NOISE = {
    "quiet": "quiet",
    "hiss": "hisses",
    "bubbling": "bubbles when it fires",
    "popping": "pops when it fires",
    "kettling": "kettles when it fires",
}
_CORROSION = {"fittings": "rust at the fittings", "seams": "rust at a seam"}


WORK = {
    Component.SEDIMENT: "flushing",
    Component.SCALE: "descaling",
    Component.ANODE: "the anode rod",
    Component.RELIEF_VALVE: "the relief valve",
    Component.EXPANSION_TANK: "the expansion tank",
    Component.TANK: "looking it over",
}
"""What somebody is signed off for, as work."""


def units_shown() -> dict[Quantity, Unit]:
    """The company's units."""
    company = Company.current()
    return table(System(company.units), HardnessUnit(company.hardness_unit))


def step_words(name: str, units: Mapping[Quantity, Unit] | None = None) -> str:
    """What a step says to do, in short; its name if the procedures have it no longer. Parameters: units, the company's
    where they are known already."""
    step = step_named(library(), name)
    if step is None:
        return name
    return worded(step.do, units or units_shown())


def finding_words(finding: Finding, units: Mapping[Quantity, Unit]) -> str:
    """One line of the log. Parameters: units, in which its figures are told."""
    return worded(_said(finding), units)


def _said(finding: Finding) -> str:
    """The same, its figures with their quantities."""
    match finding.task:
        case Task.FLUSH:
            parts = [
                _REMOVED.get(finding.removed, ""),
                finding.clarity and f"water {finding.clarity}",
                finding.texture,
                _FLOW.get(finding.drain_flow, ""),
            ]
            if finding.depth_before_mm is not None:
                parts.insert(0, f"{{length_mm:{finding.depth_before_mm}}} measured")
            if finding.depth_after_mm is not None:
                parts.append(f"{{length_mm:{finding.depth_after_mm}}} left")
            return _joined(_METHOD.get(finding.method, "Flushed"), parts)
        case Task.DESCALE:
            parts = [_REMOVED.get(finding.removed, "")]
            if finding.dissolved_g is not None:
                parts.append(f"{{mass_g:{finding.dissolved_g}}} dissolved")
            parts.append(_from_to("flow", "flow_l_min", finding.flow_before_l_min, finding.flow_after_l_min))
            parts.append(_from_to("rise", "temperature_k", finding.rise_before_k, finding.rise_after_k))
            return _joined("Descaled", parts)
        case Task.ANODE_INSPECTION if finding.could_not_open:
            return "Rod's port would not open"
        case Task.ANODE_INSPECTION:
            parts = [f"{{length_mm:{finding.bare_wire_mm}}} of wire bare"] if finding.bare_wire_mm else []
            if finding.diameter_mm:
                parts.append(f"{{length_mm:{finding.diameter_mm}}} thick")
            return _joined(f"Rod {_GRADE.get(finding.grade, 'looked at')}", parts)
        case Task.ANODE_REPLACEMENT:
            return _joined("New rod", part_words(finding.part))
        case Task.RELIEF_VALVE_EXERCISE:
            return _OUTCOME.get(finding.outcome, "Relief valve exercised")
        case Task.RELIEF_VALVE_REPLACEMENT:
            return _joined("New relief valve", part_words(finding.part))
        case Task.EXPANSION_TANK_CHECK:
            parts = [f"{{pressure_kpa:{finding.precharge_kpa}}}"] if finding.precharge_kpa is not None else []
            return _joined(_PIN.get(finding.at_valve, "Expansion tank checked"), parts)
        case Task.EXPANSION_TANK_REPLACEMENT:
            return _joined("New expansion tank", part_words(finding.part))
        case Task.PRESSURE_TEST:
            parts = [f"{{pressure_kpa:{finding.static_kpa}}} standing"] if finding.static_kpa is not None else []
            if finding.creep_kpa:
                parts.append(f"crept by {{pressure_kpa:{finding.creep_kpa}}}")
            if finding.falls:
                parts.append("fell with the cold shut")
            return _joined("Pressure", parts)
        case Task.LOOK_OVER:
            parts = [_NOISE.get(finding.noise, ""), _CORROSION.get(finding.corrosion, "")]
            parts.append("rusty hot water" if finding.rusty_hot_water else "")
            parts.append("relief valve drips" if finding.valve_drips else "")
            parts.append("element burnt out" if finding.element_failed else "")
            return _joined("Looked over", parts)
        case Task.UPKEEP:
            return _joined(finding.get_item_display().capitalize(), [finding.get_fouling_display()])
        case Task.HOUSEHOLD_CHANGE:
            return "Other people moved in"
        case _:
            return finding.get_task_display().capitalize()


def _from_to(what: str, quantity: str, before: float | None, after: float | None) -> str:
    """A figure before and after, as far as it was read."""
    if before is not None and after is not None:
        return f"{what} from {{{quantity}:{before}}} to {{{quantity}:{after}}}"
    told = [f"{{{quantity}:{one}}} {when}" for one, when in ((before, "before"), (after, "after")) if one is not None]
    return f"{what} {told[0]}" if told else ""


def part_words(part: Part | None) -> list[str]:
    """What is known of a part that was fitted."""
    if part is None:
        return []
    return [
        f"{part.count} of them" if part.count > 1 else "",
        part.alloy.replace("_", "-"),
        f"{{length_mm:{part.length_mm}}} long" if part.length_mm else "",
        f"{{length_mm:{part.diameter_mm}}} thick" if part.diameter_mm else "",
        f"opens at {{pressure_kpa:{part.set_pressure_kpa}}}" if part.set_pressure_kpa else "",
        f"passes {{power_kw:{part.rating_kw}}}" if part.rating_kw else "",
        f"probe {{length_mm:{part.probe_length_mm}}}" if part.probe_length_mm else "",
        f"{{small_volume_l:{part.volume_l}}}" if part.volume_l else "",
        f"charged to {{pressure_kpa:{part.precharge_kpa}}}" if part.precharge_kpa else "",
        part.build,
        *details.worded(details.of_part(part.kind), part.details),
    ]


def mark(finding: Finding) -> str:
    """The word that a track of the log draws for this finding."""
    return finding.removed or finding.grade or finding.outcome or finding.at_valve or "new"


def _joined(first: str, rest: list[str]) -> str:
    said = [part for part in rest if part]
    return f"{first}: {', '.join(said)}" if said else first


def figure_told(filled: calculators.Filled, units: Mapping[Quantity, Unit]) -> FigureOut:
    """A calculator as it is told, its formula as a tree that a browser computes."""
    calculator = filled.calculator
    return {
        "name": calculator.name, "title": calculator.title, "unit": calculator.unit, "tree": calculator.tree,
        "reads": worded(calculator.reads, units), "source": worded(calculator.source, units),
        "writes": calculator.writes,
        "inputs": [
            {
                "name": given.name, "label": given.label, "unit": given.unit, "low": given.low, "high": given.high,
                "value": round(value, 4), "field": given.field,
            }
            for given, value in zip(calculator.inputs, filled.values, strict=True)
        ],
    }  # fmt: skip
