"""From what is known of heaters, gaps and all, to the complete columns that the forecast takes."""

from dataclasses import dataclass

import numpy as np

from aquifer.core import chemistry, fleet, usage
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import Heaters
from aquifer.core.parameters import GEOMETRY, SCALE, SEDIMENT
from aquifer.core.vocabulary import Alloy, HeaterKind, code
from aquifer.core.water import WaterProfile


@dataclass(frozen=True)
class KnownHeaters:
    """Columns of shape (n,) as they stand on record; NaN, or -1 for a code, is unknown. Meanings as in ``Heaters``."""

    zone: IntArray
    """Position in the list of water profiles."""
    softened: BoolArray
    kind: IntArray
    age_years: FloatArray
    age_is_known: BoolArray
    litres_per_day: FloatArray
    people: FloatArray
    heaters_on_site: FloatArray
    capacity_l: FloatArray
    setpoint_c: FloatArray
    floor_m2: FloatArray
    drain_port_m: FloatArray
    lower_element_m: FloatArray
    exchanger_m2: FloatArray
    alloy: IntArray
    rod_diameter_m: FloatArray
    rod_length_m: FloatArray
    """Of one rod."""
    rod_count: FloatArray
    rod_fitted_years: FloatArray
    valve_fitted_years: FloatArray
    practice: IntArray
    tolerance: FloatArray
    longest_flush_years: FloatArray
    flush_method: IntArray
    valve_target: FloatArray


def complete(known: KnownHeaters, waters: list[WaterProfile]) -> Heaters:
    """Fill what is unknown with what is usual, and heat the water.

    Parameters: known, (n,) columns; waters, one profile a zone.
    Returns: the columns of the forecast. Raises: ValueError if PHREEQC finds no solution for a water.
    Source: ``parameters``; PHREEQC runs once for each different water, softening and temperature.
    """
    kinds = list(HeaterKind)
    usual_capacity = np.array([fleet.capacity_or_default(kind, None) for kind in kinds])[known.kind]
    capacity = _or(known.capacity_l, usual_capacity)
    setpoint = _or(known.setpoint_c, np.full(capacity.size, GEOMETRY.setpoint_c))
    litres = usage.litres_per_day(known.litres_per_day, known.people, known.heaters_on_site)
    is_tank = np.array([kind.is_tank for kind in kinds])[known.kind]
    usual_alloy = np.where(is_tank, code(Alloy.MAGNESIUM), code(Alloy.NONE))
    film = setpoint + SCALE.film_rise_k
    at_60 = np.full(setpoint.size, SEDIMENT.reference_setpoint_c)
    potential, conductivity = _heated(known, waters, setpoint)
    zone_spread = np.array([water.zone_spread for water in waters])
    hardness = np.array([water.analysis.total_hardness_mg_l for water in waters])[known.zone]
    residual = np.minimum(hardness, chemistry.SOFTENER_RESIDUAL_MG_L)
    return Heaters(
        zone=known.zone,
        zones=len(waters),
        zone_spread=zone_spread[known.zone],
        heater_spread=fleet.heater_spread(known.litres_per_day, known.people, known.age_is_known),
        kind=known.kind,
        age_years=_or(known.age_years, np.full(capacity.size, GEOMETRY.age_years)),
        volume_m3=usage.volume_m3_per_year(litres),
        hardness_mg_l=np.where(known.softened, residual, hardness),
        potential_mg_l=potential,
        potential_60_mg_l=_heated(known, waters, at_60)[0],
        film_potential_mg_l=np.where(is_tank, 0.0, _heated(known, waters, film, ~is_tank)[0]),
        film_potential_60_mg_l=np.where(is_tank, 0.0, _heated(known, waters, at_60 + SCALE.film_rise_k, ~is_tank)[0]),
        conductivity_us_cm=conductivity,
        suspended_mg_l=np.array([water.suspended_solids_mg_l for water in waters])[known.zone],
        setpoint_c=setpoint,
        floor_m2=_or(known.floor_m2, fleet.floor_m2(capacity)),
        wetted_m2=fleet.wetted_m2(capacity),
        radius_m=fleet.radius_m(capacity),
        exchanger_m2=_or(known.exchanger_m2, np.full(capacity.size, SCALE.exchanger_m2)),
        sediment_limit_m=fleet.sediment_limit_m(known.kind, known.drain_port_m, known.lower_element_m),
        alloy=np.where(known.alloy >= 0, known.alloy, usual_alloy),
        rod_diameter_m=_or(known.rod_diameter_m, np.full(capacity.size, GEOMETRY.rod_diameter_m)),
        rod_length_m=_or(known.rod_length_m, fleet.rod_length_m(capacity)) * np.maximum(known.rod_count, 1),
        rod_fitted_years=np.nan_to_num(known.rod_fitted_years),
        valve_fitted_years=np.nan_to_num(known.valve_fitted_years),
        practice=known.practice,
        tolerance=known.tolerance,
        longest_flush_years=known.longest_flush_years,
        flush_method=known.flush_method,
        valve_target=known.valve_target,
    )


def _or(known: FloatArray, usual: FloatArray) -> FloatArray:
    return np.where(np.isnan(known), usual, known)


def _heated(
    known: KnownHeaters, waters: list[WaterProfile], at_c: FloatArray, wanted: BoolArray | None = None
) -> tuple[FloatArray, FloatArray]:
    """Precipitation potential, mg/L, and conductivity, uS/cm, of each heater's water at ``at_c``; 0 where unwanted."""
    kept = np.arange(at_c.size) if wanted is None else np.flatnonzero(wanted)
    different, position = np.unique(
        np.stack([known.zone[kept], known.softened[kept], np.round(at_c[kept], 1)]), axis=1, return_inverse=True
    )
    results = [
        chemistry.heated(waters[int(zone)].analysis, float(temperature), bool(softened))
        for zone, softened, temperature in different.T
    ]
    potential, conductivity = np.zeros(at_c.size), np.zeros(at_c.size)
    potential[kept] = np.array([r.precipitation_potential_mg_l for r in results])[position.ravel()] if results else 0.0
    conductivity[kept] = np.array([r.conductivity_us_cm for r in results])[position.ravel()] if results else 0.0
    return potential, conductivity
