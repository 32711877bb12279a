"""A heater in the figures that calculators reckon with: its record, what is believed of it, else what is usual."""

from collections.abc import Mapping

from aquifer.company.models import Company
from aquifer.core import equipment
from aquifer.core.judgement.rules import DRAIN_PORT_MM
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import SCALE, WATER
from aquifer.core.procedures import calculators
from aquifer.core.procedures.state import fuel_of
from aquifer.core.units import System
from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, Part, PartKind

HEIGHT_M = 1.2
"""Of the water in a usual tank, where nobody measured. Assumption."""


def sized(
    heater: Heater, forecasts: Mapping[Component, Forecast], parts: Mapping[PartKind, Part]
) -> calculators.Heater:
    """What calculators are filled in with of a heater: its record, else what is usual of its kind."""
    rod, drain = parts.get(PartKind.ANODE), parts.get(PartKind.DRAIN_VALVE)
    kind, depth, scale_g = HeaterKind(heater.kind), 0.0, 0.0
    assumed = equipment.assumed(kind, heater.capacity_l)
    if (sediment := forecasts.get(Component.SEDIMENT)) is not None:
        depth = sediment.state["depth_mm"][1]
    if (scale := forecasts.get(Component.SCALE)) is not None:
        area = heater.exchanger_area_m2 or assumed.get("exchanger_area_m2", 0.0)
        scale_g = scale.state["thickness_mm"][1] * area * SCALE.density_kg_m3
    port = heater.drain_port_height_mm or DRAIN_PORT_MM
    input_kw = heater.input_kw or KINDS[kind].usual_input_kw
    return calculators.Heater(
        capacity_l=heater.capacity_l or KINDS[kind].usual_capacity_l,
        height_m=(heater.height_mm or 1000 * HEIGHT_M) / 1000,
        input_kw=input_kw,
        setpoint_c=heater.setpoint_c or assumed["setpoint_c"],
        cold_c=WATER.source_temperature_c,
        static_kpa=heater.site.static_pressure_kpa or assumed["static_pressure_kpa"],
        efficiency=calculators.BURNER_SHARE if fuel_of(kind) == "gas" else 1.0,
        scale_g=scale_g,
        element_w=1000 * input_kw,
        supply_v=heater.supply_volts or calculators.USUAL_SUPPLY_V[System(Company.current().units)],
        rod_mm=(rod and rod.diameter_mm) or assumed.get("rod_diameter_mm", 0.0),
        rod_length_mm=(rod and rod.length_mm) or assumed.get("rod_length_mm", 0.0),
        drain_open_share=1.0 if depth < port else 0.4,
        bore_mm=float((drain.details if drain else {}).get("bore_mm") or calculators.USUAL_BORE_MM),
        jacket_mm=float(heater.details.get("insulation_mm") or calculators.USUAL_JACKET_MM),
    )
