"""What was found at a visit, from what was answered at its steps: one rule, here."""

from collections.abc import Mapping

from pydantic import TypeAdapter, ValidationError

from aquifer.core.observations import OUTLET, RUNS
from aquifer.errors import Invalid
from aquifer.visits.schemas import FindingIn

_TASKS: dict[str, str] = {
    "look": "look_over", "flush": "flush", "descale": "descale", "rod": "anode_inspection",
    "expansion_tank": "expansion_tank_check", "pressure": "pressure_test", "valve": "relief_valve_exercise",
}  # fmt: skip
"""The finding of each group of answers."""
_REPLACED = {
    "rod": "anode_replacement",
    "expansion_tank": "expansion_tank_replacement",
    "valve": "relief_valve_replacement",
}
_OF_THE_NEW = {
    "alike", "new_build", "new_alloy", "new_diameter_mm", "new_length_mm", "new_count", "new_set_pressure_kpa",
    "new_rating_kw", "new_probe_length_mm", "new_volume_l", "new_precharge_kpa",
}  # fmt: skip
"""What is told of a part that was fitted, beside what was found at the old one."""
_READINGS = {"look": {"taps", "ohms", "co_ppm", "kind"}}
"""Answers of a group that are readings and no findings."""
_READ: TypeAdapter[list[FindingIn]] = TypeAdapter(list[FindingIn])


def findings_of(answers: Mapping[str, object], method: str) -> list[FindingIn]:
    """The findings of a visit; what was skipped or not looked at is left out.

    Parameters: answers by field; method, how a flush is done where nobody says. Raises: Invalid naming the answer that
    cannot be.
    """
    groups: dict[str, dict[str, object]] = {}
    for name, value in answers.items():
        group, _, field = name.partition(".")
        # A measured nothing is a reading, and equals False.
        if field and value is not None and value is not False:
            groups.setdefault(group, {})[field] = value
    if (outlet := answers.get(OUTLET)) is not None:
        # A dry outlet is a finding, too: it takes back that the valve dripped.
        groups.setdefault("look", {})["valve_drips"] = outlet in RUNS
    found: list[dict[str, object]] = []
    for group, task in _TASKS.items():
        told = groups.get(group, {})
        if told.pop("skipped", False):
            continue
        replaced = told.pop("replaced", False)
        if told.pop("household_changed", False):
            found.append({"task": "household_change"})
        new = {name.removeprefix("new_"): told.pop(name) for name in list(told) if name in _OF_THE_NEW}
        values = {name: value for name, value in told.items() if name not in _READINGS.get(group, ())}
        if values:
            usual = {"method": method} if group == "flush" else {}
            found.append({"task": task, **usual, **values})
        if replaced and group in _REPLACED:
            found.append({"task": _REPLACED[group], **new})
    upkeep = groups.get("upkeep", {})
    found += [{"task": "upkeep", "item": item, "fouling": fouling} for item, fouling in upkeep.items()]
    try:
        return _READ.validate_python(found)
    except ValidationError as error:
        wrong = {".".join(str(part) for part in one["loc"][2:]) or "answers": one["msg"] for one in error.errors()}
        said = "; ".join(f"{name}: {why}" for name, why in wrong.items())
        raise Invalid(f"Not recorded. {said}", "visit.invalid", wrong) from None
