"""Complaints to be looked into, each with a cause that is hidden from whoever looks."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from aquifer.core.bench.trouble.electric import ElectricRig
from aquifer.core.bench.trouble.fan import FanRig
from aquifer.core.bench.trouble.pilot import PilotRig
from aquifer.core.bench.trouble.rig import Rig
from aquifer.core.bench.trouble.tankless import TanklessRig
from aquifer.core.bench.trouble.vehicle import VehicleRig
from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.procedures.ladder import complaints

RIGS: Mapping[tuple[HeaterKind, Ignition], type[Rig]] = {
    (HeaterKind.ELECTRIC_TANK, Ignition.NONE): ElectricRig,
    (HeaterKind.GAS_TANK, Ignition.PILOT): PilotRig,
    (HeaterKind.GAS_TANK, Ignition.HOT_SURFACE): FanRig,
    (HeaterKind.CONDENSING_TANKLESS, Ignition.SPARK): TanklessRig,
    (HeaterKind.MOBILE_TANK, Ignition.SPARK): VehicleRig,
}
"""By kind and by how it is lit."""


@dataclass(frozen=True)
class Trouble:
    """One complaint at one heater."""

    name: str
    title: str
    says: str
    """What the customer said."""
    kind: HeaterKind
    ignition: Ignition
    vent: Vent
    complaint: str
    """As the ladder of complaints names it."""
    fault: str
    within_min: float

    def rig(self, seed: int) -> Rig:
        """The heater of a seed: the same seed, the same heater."""
        return RIGS[self.kind, self.ignition](self.fault, seed)


@cache
def troubles() -> Mapping[str, Trouble]:
    """All that ship, in their order. Raises: ValueError naming the trouble and what is wrong in it."""
    text = files("aquifer.core.bench.data").joinpath("troubles.toml").read_text(encoding="utf-8")
    return read(tomllib.loads(text))


def read(told: Mapping[str, Mapping[str, object]]) -> Mapping[str, Trouble]:
    """Troubles from plain values. Raises: ValueError naming the trouble, the field and what is allowed."""
    return {name: _trouble(name, one) for name, one in told.items()}


_WORDS = ("title", "says", "kind", "ignition", "vent", "complaint", "fault")
_KNOWN = {*_WORDS, "within_min"}


def _trouble(name: str, told: Mapping[str, object]) -> Trouble:
    def fail(field: str, what: str) -> ValueError:
        return ValueError(f"trouble {name}: {field} {what}")

    for field in sorted({*told} - _KNOWN):
        raise fail(field, f"is not known; allowed: {', '.join(sorted(_KNOWN))}")
    for field in _WORDS:
        if not isinstance(told.get(field), str):
            raise fail(field, "is missing")
    built = {(kind.value, ignition.value): rig for (kind, ignition), rig in RIGS.items()}
    rig = built.get((str(told["kind"]), str(told["ignition"])))
    if rig is None:
        raise fail("kind", f"= {told['kind']}, lit by {told['ignition']}; allowed: {', '.join(map(' '.join, built))}")
    if told["vent"] not in list(Vent):
        raise fail("vent", f"allowed: {', '.join(Vent)}")
    if told["complaint"] not in complaints().complaints:
        raise fail("complaint", f"allowed: {', '.join(complaints().complaints)}")
    if told["fault"] not in rig.faults:
        raise fail("fault", f"allowed: {', '.join(rig.faults)}")
    within = told.get("within_min", 90)
    if not isinstance(within, int | float) or not 10 <= within <= 240:
        raise fail("within_min", "allowed: 10 to 240")
    return Trouble(
        name, str(told["title"]), str(told["says"]), HeaterKind(str(told["kind"])), Ignition(str(told["ignition"])),
        Vent(str(told["vent"])), str(told["complaint"]), str(told["fault"]), float(within),
    )  # fmt: skip
