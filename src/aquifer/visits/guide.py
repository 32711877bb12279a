"""The guide of a visit: what is due, the procedures for it, and what is computed for this heater."""

import dataclasses
import datetime
from collections.abc import Iterable
from typing import Any

from django.db.models import Q

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.core.judgement.rules import DRAIN_PORT_MM
from aquifer.core.parameters import GEOMETRY, SCALE
from aquifer.core.procedures import figures
from aquifer.core.procedures.document import document
from aquifer.core.procedures.library import library
from aquifer.core.procedures.sequence import METHODS, procedures_for
from aquifer.core.procedures.state import as_found, facts_of, fuel_of
from aquifer.core.vocabulary import Component, FlushMethod, HeaterKind, Method
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.rounds.models import Service, Standing
from aquifer.visits import journal

SOON_DAYS = 45
"""What falls due within so many days is done with what is due already. Assumption."""
_HEIGHT_M = 1.2
_INPUT_KW = {"gas": 11.0, "electric": 4.5, "boiler": 18.0}
_TANKLESS_KW = 24.0
"""Of a heater whose plate nobody has read. Assumption."""
_COLD_C = 12.0
_STATIC_KPA = 380.0
"""Of a house whose pressure nobody has read. Assumption."""
_EXCHANGER_M2 = 0.2
"""Of an exchanger that nobody has measured. Assumption."""


def read(heater: Heater, by: User, today: datetime.date, components: Iterable[Component] | None) -> dict[str, Any]:
    """Everything that a device needs to lead through a visit; a fixed number of queries.

    Parameters: components to be served, or None for what is planned today, else for what is due.
    """
    kind = HeaterKind(heater.kind)
    forecasts = {Component(one.component): one for one in Forecast.objects.current().filter(heater=heater)}
    due = set(components) if components is not None else _due(heater, forecasts, today)
    flush = _flush(forecasts.get(Component.SEDIMENT))
    sized = _sized(heater, forecasts)
    names = procedures_for(kind, due, flush, upkeep=kind is HeaterKind.GAS_TANK)
    guide = document(library(), names, facts_of(kind, frozenset(by.licences)), as_found(kind, sized.setpoint_c))
    told = [dataclasses.asdict(one) for one in figures.figures_of(sized)]
    for one in told:
        one["value"] = round(one["value"], 1)
    return guide | {
        "heater_id": heater.pk,
        "components": sorted(due),
        "begun": _begun(heater.pk),
        "possible": [one for one in Component if one in forecasts and one is not Component.TANK],
        "flush_method": flush,
        "figures": told,
        "usual_readings": {name: list(span) for name, span in figures.USUAL_READINGS.items()},
    }


def _begun(heater_id: int) -> dict[str, Any] | None:
    found = journal.under_way(heater_id)
    if found is None:
        return None
    return {
        "client_id": found.client_id, "components": found.components, "by": found.by.name, "at": found.at,
        "events": found.events.count(),
    }  # fmt: skip


def _due(heater: Heater, forecasts: dict[Component, Forecast], today: datetime.date) -> set[Component]:
    planned = Service.objects.filter(
        Q(appointment__on=today), heater=heater, appointment__standing__in=[
            Standing.PLANNED, Standing.KEPT, Standing.OFFERED, Standing.PROMISED,
        ]
    )  # fmt: skip
    found = {Component(one) for one in planned.values_list("component", flat=True)}
    soon = today + datetime.timedelta(days=SOON_DAYS)
    by_date = {c for c, one in forecasts.items() if one.due_on is not None and one.due_on <= soon}
    return (found or by_date) - {Component.TANK}


def _flush(forecast: Forecast | None) -> FlushMethod:
    usual = FlushMethod(Company.current().flush_method)
    return METHODS.get(Method(forecast.method), usual) if forecast is not None else usual


def _sized(heater: Heater, forecasts: dict[Component, Forecast]) -> figures.Heater:
    kind, depth, scale_g = HeaterKind(heater.kind), 0.0, 0.0
    if (sediment := forecasts.get(Component.SEDIMENT)) is not None:
        depth = sediment.state["depth_mm"][1]
    if (scale := forecasts.get(Component.SCALE)) is not None:
        area = heater.exchanger_area_m2 or _EXCHANGER_M2
        scale_g = scale.state["thickness_mm"][1] * area * SCALE.density_kg_m3
    port = heater.drain_port_height_mm or DRAIN_PORT_MM
    return figures.Heater(
        capacity_l=heater.capacity_l or (GEOMETRY.capacity_l if kind.is_tank else GEOMETRY.tankless_capacity_l),
        height_m=(heater.height_mm or 1000 * _HEIGHT_M) / 1000,
        input_kw=heater.input_kw or (_INPUT_KW[fuel_of(kind)] if kind.is_tank else _TANKLESS_KW),
        setpoint_c=heater.setpoint_c or GEOMETRY.setpoint_c,
        cold_c=_COLD_C,
        static_kpa=heater.site.static_pressure_kpa or _STATIC_KPA,
        burns=fuel_of(kind) == "gas",
        scale_g=scale_g,
        drain_open_share=1.0 if depth < port else 0.4,
    )
