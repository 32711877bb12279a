"""Which procedures make a visit, in which order; and where a visit stands after what was done so far."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field, replace

from aquifer.core.procedures.condition import Words, holds
from aquifer.core.procedures.interlock import Step, held, passed
from aquifer.core.procedures.library import Library
from aquifer.core.procedures.state import State, fuel_of
from aquifer.core.vocabulary import Component, FlushMethod, HeaterKind, Method, UpkeepItem

_UPKEEP = {
    HeaterKind.GAS_TANK: ("burner",),
    HeaterKind.MOBILE_TANK: ("vehicle_gas", "air_cushion"),
    HeaterKind.HEAT_PUMP_TANK: ("heat_pump",),
    HeaterKind.GAS_TANKLESS: ("upkeep_look",),
    HeaterKind.CONDENSING_TANKLESS: ("upkeep_look",),
    HeaterKind.SMALL_GAS_TANKLESS: ("small_tankless",),
}
CLOSING = ("hand_over",)
_LIGHT_OUT = {"gas_full_off", "relief_replacement", "vehicle_gas", "air_cushion"}
"""Procedures after which not even a pilot burns."""


def flush_of(kind: HeaterKind, method: FlushMethod) -> tuple[str, ...]:
    """The procedures of a flush. An electric tank is blown out with the supply on, so that no element meets air, or
    drained in cycles with the power off; both are schools of the trade."""
    electric = fuel_of(kind) == "electric"
    if method is FlushMethod.PRESSURE_BLOWOUT:
        return ("trial", "blow_out" if electric else "flush_pressurised")
    drained = ("trial", "cycled_drain" if electric else "full_drain")
    if method is FlushMethod.ACID_SOAK:
        # Not even a pilot burns under a tank with acid in it.
        return (*drained, "gas_full_off", "soak")
    return drained


def procedures_for(
    kind: HeaterKind,
    components: Iterable[Component],
    flush: FlushMethod,
    pressure_test: bool = False,
    upkeep: Collection[UpkeepItem] = (),
    replace_valve: bool = False,
) -> tuple[str, ...]:
    """The procedures of a visit in their order.

    Parameters: components that are due; flush, the method; what else is wanted; upkeep, what is cleaned or looked at.
    Returns: names. What is done under pressure and hot comes first, then what needs the tank drained; the relief valve
    is exercised on the full tank before it is heated, so that what it throws out is cooler.
    """
    due = set(components)
    found = ["arrival"]
    if kind is HeaterKind.INDIRECT_TANK:
        found.append("indirect_bleed")
    if pressure_test:
        found.append("pressure_test")
    serviced = set(upkeep) - {UpkeepItem.POWERED_ANODE}
    if UpkeepItem.POWERED_ANODE in upkeep and kind.is_tank:
        found.append("powered_anode")
    if serviced and kind is HeaterKind.GAS_TANK:
        found.append("burner")
    if not kind.is_tank:
        found += _tankless(kind, due, serviced)
        return (*found, "verify", *CLOSING)
    wet = due & {Component.SEDIMENT, Component.ANODE, Component.EXPANSION_TANK} or replace_valve
    if wet or Component.RELIEF_VALVE in due:
        found.append("isolate_energy")
    if wet:
        found += _wet(kind, due, flush, replace_valve)
    if Component.RELIEF_VALVE in due and not replace_valve:
        found.append("relief_exercise")
    if serviced and kind is not HeaterKind.GAS_TANK:
        found += _UPKEEP.get(kind, ())
    if fuel_of(kind) == "gas" and not _LIGHT_OUT.isdisjoint(found):
        found.append("light_pilot")
    return (*found, "energise", "verify", *CLOSING)


def _wet(kind: HeaterKind, due: set[Component], flush: FlushMethod, replace_valve: bool) -> list[str]:
    found = ["isolate_water"]
    if Component.EXPANSION_TANK in due:
        found.append("expansion_tank")
    jets = Component.SEDIMENT in due and flush is FlushMethod.JETTING
    if Component.SEDIMENT in due:
        found += flush_of(kind, flush)
    drained = Component.SEDIMENT in due and flush is not FlushMethod.PRESSURE_BLOWOUT
    if Component.ANODE in due or jets:
        if not drained:
            found.append("lower_level")
        # The lance goes in where the rod came out.
        found += ["anode_out", "jet", "anode_in"] if jets else ["anode_out", "anode_in"]
    if replace_valve:
        found.append("relief_replacement")
    return [*found, "refill"]


def _tankless(kind: HeaterKind, due: set[Component], upkeep: set[UpkeepItem]) -> list[str]:
    # A descale rinses the inlet screen anyway.
    cleans = upkeep - {UpkeepItem.INLET_SCREEN} or (upkeep if kind is HeaterKind.SMALL_GAS_TANKLESS else set())
    found = [*_UPKEEP.get(kind, ())] if cleans else []
    if Component.SCALE in due:
        found.append("descale")
    elif UpkeepItem.INLET_SCREEN in upkeep:
        found.append("inlet_screen")
    return [*found, "tankless_purge"] if found else []


METHODS = {
    Method.PRESSURE_BLOWOUT: FlushMethod.PRESSURE_BLOWOUT,
    Method.DRAIN_AND_PULSE: FlushMethod.DRAIN_AND_PULSE,
    Method.JETTING: FlushMethod.JETTING,
    Method.ACID_SOAK: FlushMethod.ACID_SOAK,
}


@dataclass(frozen=True)
class At:
    """A step within its procedure."""

    id: str
    """procedure.step"""
    procedure: str = field(compare=False)
    step: Step = field(compare=False)


def steps_of(library: Library, names: Iterable[str], facts: Words) -> tuple[At, ...]:
    """The steps of procedures that are for this heater, in order. Raises: KeyError for a procedure that there is none
    of."""
    found: list[At] = []
    for name in names:
        procedure = library.procedures[name]
        if holds(procedure.when, facts):
            for step in procedure.steps:
                if holds(step.when, facts):
                    found.append(At(f"{name}.{step.id}", name, for_heater(step, facts)))
    return tuple(found)


def for_heater(step: Step, facts: Words) -> Step:
    """A step with the other ways that are for this heater."""
    if not any(one.when for one in step.otherwise):
        return step
    return replace(step, otherwise=tuple(one for one in step.otherwise if holds(one.when, facts)))


@dataclass(frozen=True)
class Stand:
    """Where a visit stands."""

    left: tuple[At, ...]
    """Steps to come, the present one first."""
    state: State

    @property
    def now(self) -> At | None:
        return self.left[0] if self.left else None


@dataclass(frozen=True)
class Event:
    """What somebody did at a step: ``done``, ``skipped``, ``otherwise``, or ``despite`` an interlock."""

    kind: str
    step: str
    choice: int = 0
    """Which of the step's other ways."""
    turn: int = 0
    """How often the step had come up before, as far as who did it knew: 0 for its first time."""


class OutOfTurn(ValueError):
    """An event of a step that is not the present one, or that is held."""


def advanced(library: Library, stand: Stand, event: Event, facts: Words) -> Stand:
    """Where a visit stands after an event.

    Raises: OutOfTurn if the step is not the present one, has no such other way, or is held and was not overridden.
    """
    now = stand.now
    if now is None or now.id != event.step:
        raise OutOfTurn(f"{event.step} is not the present step; that is {now.id if now else 'none: all is done'}")
    rest = stand.left[1:]
    if event.kind == "skipped":
        return replace(stand, left=rest)
    if event.kind == "otherwise":
        if not 0 <= event.choice < len(now.step.otherwise):
            raise OutOfTurn(f"{event.step} has {len(now.step.otherwise)} other ways, not number {event.choice}")
        other = now.step.otherwise[event.choice]
        if other.ends:
            return replace(stand, left=steps_of(library, restoring(facts), facts))
        return replace(stand, left=(*steps_of(library, other.then, facts), *stand.left))
    if event.kind == "done" and held(now.step, stand.state, facts, library.rules):
        raise OutOfTurn(f"{event.step} is held")
    return Stand(rest, passed(now.step, stand.state)[1])


def restoring(facts: Words) -> Sequence[str]:
    """What closes a visit that ends early: everything open is shut, and what cannot run is left off."""
    if facts["store"] == "tank":
        return ("restore", "refill", "energise", *CLOSING)
    return ("restore", "tankless_purge", *CLOSING)
