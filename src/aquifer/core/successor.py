"""Whether a new heater takes the place of the old one: what is bigger, stronger, or asks for something else.

Source: trade practice; what decides is the plate, the place and the local code.
"""

from dataclasses import dataclass

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.units import Quantity, figure

SAME_MM = 25.0
"""By which a body may differ and pipes still meet. Assumption."""
SAME_SHARE = 0.1
"""By which capacity and input may differ and count as like. Assumption."""


@dataclass(frozen=True)
class Body:
    """What decides whether one fits where another stood; ``None`` where nobody has read it."""

    kind: HeaterKind
    capacity_l: float | None = None
    input_kw: float | None = None
    supply_v: float | None = None
    height_mm: float | None = None
    diameter_mm: float | None = None
    vent: str = ""


def differences(old: Body, new: Body, valve_kw: float | None = None) -> list[str]:
    """What is to be looked at because the new one is not like the old one; figures in a company's units.

    Parameters: valve_kw, what the relief valve in place passes.
    """
    said = []
    if KINDS[old.kind].fuel is not KINDS[new.kind].fuel:
        said.append("Another fuel: gas, wiring and vent are another trade's work.")
    elif old.kind is not new.kind:
        said.append("Another kind: its vent, drain and supply are not those of the old one.")
    for name, before, now, why in (
        ("Taller", old.height_mm, new.height_mm, "pipes, vent and head room for the rod"),
        ("Wider", old.diameter_mm, new.diameter_mm, "pan, stand and the way in"),
    ):
        if before and now and now > before + SAME_MM:
            said.append(f"{name} by {figure(Quantity.LENGTH, now - before)}: {why}.")
    more = (new.capacity_l or 0.0) - (old.capacity_l or 0.0)
    if old.capacity_l and new.capacity_l and abs(more) > SAME_SHARE * old.capacity_l:
        words = figure(Quantity.VOLUME, abs(more))
        asks = "more: size the expansion tank anew" if more > 0 else "less: say so to who lives there"
        said.append(f"Holds {words} {asks}.")
    if old.input_kw and new.input_kw and new.input_kw > old.input_kw * (1 + SAME_SHARE):
        said.append(f"{figure(Quantity.POWER, new.input_kw - old.input_kw)} more input: pipe, vent, breaker and air.")
    if valve_kw and new.input_kw and valve_kw < new.input_kw:
        said.append(f"The relief valve passes {figure(Quantity.POWER, valve_kw)}: fit one that passes its input.")
    if old.supply_v and new.supply_v and old.supply_v != new.supply_v:
        said.append(f"{new.supply_v:.0f} V where {old.supply_v:.0f} V stood: never on the old circuit.")
    if old.vent and new.vent and old.vent != new.vent:
        said.append(f"Another vent: {new.vent} where {old.vent} was.")
    return said
