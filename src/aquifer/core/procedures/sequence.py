"""Which procedures make a visit, in which order."""

from collections.abc import Collection, Iterable

from aquifer.core.kinds import KINDS, Fuel, HeaterKind
from aquifer.core.procedures.state import fuel_of
from aquifer.core.procedures.visit import CLOSE_UP
from aquifer.core.vocabulary import Component, FlushMethod, Method, UpkeepItem

METHODS = {
    Method.PRESSURE_BLOWOUT: FlushMethod.PRESSURE_BLOWOUT,
    Method.DRAIN_AND_PULSE: FlushMethod.DRAIN_AND_PULSE,
    Method.JETTING: FlushMethod.JETTING,
    Method.ACID_SOAK: FlushMethod.ACID_SOAK,
}


def flush_of(kind: HeaterKind, method: FlushMethod) -> tuple[str, ...]:
    """The procedures of a flush. An electric tank is blown out with the supply on, so that no element meets air, or
    drained in cycles with the power off; both are schools of the trade. A vehicle heater has a plug, and is drained."""
    if KINDS[kind].has_plug:
        return ("vehicle_drain",)
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
    partial: bool = False,
    kind_seen: bool = True,
) -> tuple[str, ...]:
    """The procedures of a visit in their order.

    Parameters: components that are due; flush, the method; what else is wanted; upkeep, what is cleaned or looked at;
    partial, that a few litres are drained and no more, from a tank that is better left alone; kind_seen, False where
    the kind is a guess: then it is looked at, and nothing is opened.
    Returns: names. What is done under pressure and hot comes first, then what needs the tank drained; the relief valve
    is exercised on the full tank before it is heated, so that what it throws out is cooler.
    """
    if not kind_seen:
        return ("kind_look",)
    due = set(components)
    found = ["arrival"]
    if KINDS[kind].fuel is Fuel.BOILER:
        found.append("indirect_drain")
    if pressure_test:
        found.append("pressure_test")
    serviced = set(upkeep) - {UpkeepItem.POWERED_ANODE}
    if UpkeepItem.POWERED_ANODE in upkeep and kind.is_tank:
        found.append("powered_anode")
    # A burner is looked at while it burns.
    if serviced and KINDS[kind].upkeep_procedures == ("burner",):
        found.append("burner")
    if kind.is_tank:
        found += _tank(kind, due, flush, serviced, replace_valve, partial)
    else:
        found += _tankless(kind, due, serviced, replace_valve)
    if Component.SCALE in due and not kind.is_tank:
        closes = list(CLOSE_UP)
        closes.insert(closes.index("verify"), "full_draw_after")
        return (*found, *closes)
    return (*found, *CLOSE_UP)


def _tank(
    kind: HeaterKind,
    due: set[Component],
    flush: FlushMethod,
    serviced: set[UpkeepItem],
    replace_valve: bool,
    partial: bool,
) -> list[str]:
    wet = due & {Component.SEDIMENT, Component.ANODE, Component.EXPANSION_TANK} or replace_valve or partial
    found = []
    # The house's pressure is read while there is any.
    if Component.EXPANSION_TANK in due:
        found.append("static_pressure")
    if wet or Component.RELIEF_VALVE in due:
        found.append("isolate_energy")
    if wet:
        found += _wet(kind, due, flush, replace_valve, partial)
    if Component.SCALE in due:
        found += ["isolate_energy", "isolate_water", "trial", "full_drain", "coil_soak"]
    if Component.RELIEF_VALVE in due and not replace_valve:
        found += ["ports_shut", "drain_shut", "relief_shut", "hose_away", "refill", "cold_back", "relief_exercise"]
    if KINDS[kind].has_plug and (wet or Component.RELIEF_VALVE in due or replace_valve):
        found += ["ports_shut", "drain_shut", "relief_shut", "refill", "cold_back", "air_cushion"]
    if serviced and KINDS[kind].upkeep_procedures != ("burner",):
        found += KINDS[kind].upkeep_procedures
    return found


def _wet(kind: HeaterKind, due: set[Component], flush: FlushMethod, replace_valve: bool, partial: bool) -> list[str]:
    found = ["isolate_water"]
    if Component.EXPANSION_TANK in due:
        found.append("expansion_tank")
    jets = Component.SEDIMENT in due and flush is FlushMethod.JETTING and not KINDS[kind].has_plug
    if partial:
        found += ["trial", "partial_drain"]
    elif Component.SEDIMENT in due:
        found += flush_of(kind, flush)
    if Component.ANODE in due or jets:
        found += ["let_off", "lower_level"]
        # The lance goes in where the rod came out.
        found += ["anode_out", "jet", "anode_in"] if jets else ["anode_out", "anode_in"]
    if replace_valve:
        found += [*RELIEF_SWAP, "relief_exercise"]
    return found


RELIEF_SWAP = ("let_off", "lower_level", "relief_replacement", "refill", "cold_back")


def _tankless(kind: HeaterKind, due: set[Component], upkeep: set[UpkeepItem], replace_valve: bool) -> list[str]:
    # A descale rinses the inlet screen anyway.
    cleans = upkeep - {UpkeepItem.INLET_SCREEN} or (
        upkeep if "small_tankless" in KINDS[kind].upkeep_procedures else set()
    )
    found = ["full_draw"] if Component.SCALE in due else []
    if Component.EXPANSION_TANK in due:
        found.append("static_pressure")
    if due or upkeep or replace_valve:
        found.append("isolate_energy")
    if Component.RELIEF_VALVE in due and not replace_valve:
        found.append("relief_exercise")
    if Component.EXPANSION_TANK in due:
        found += ["isolate_water", "expansion_tank"]
    if replace_valve:
        found += ["isolate_water", *RELIEF_SWAP, "relief_exercise"]
    if Component.SCALE in due:
        found.append("descale")
    elif UpkeepItem.INLET_SCREEN in upkeep:
        found += ["isolate_water", "let_off", "inlet_screen"]
    if cleans:
        found += KINDS[kind].upkeep_procedures
    return found
