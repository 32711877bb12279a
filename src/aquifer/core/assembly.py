"""From what is known of heaters, gaps and all, to the complete columns that the forecast takes."""

from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from aquifer.core import chemistry, fleet, usage
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import Heaters
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import EXPANSION_TANK, GEOMETRY, RELIEF_VALVE, SCALE, SEDIMENT, TANK, WATER
from aquifer.core.policy import DEFAULTS
from aquifer.core.vocabulary import Alloy, code
from aquifer.core.water import WaterProfile


@dataclass(frozen=True)
class KnownHeaters:
    """Columns of shape (n,) as they stand on record; NaN, or -1 for a code, is unknown. Meanings as in ``Heaters``."""

    water: IntArray
    """Position in the list of water profiles: its site's own, or its zone's."""
    zone: IntArray
    """Supply whose heaters learn from each other."""
    kind: IntArray
    age_years: FloatArray
    softened: BoolArray
    age_log_sd: FloatArray
    """Standard deviation of the log of the age, 0 where the date of installation is known."""
    flushes_log_sd: FloatArray
    """The same of what flushes before our own record may have left."""
    household_years: FloatArray
    cohort: IntArray
    litres_per_day: FloatArray
    """Metered, through this heater."""
    people: FloatArray
    fixtures: FloatArray
    business: IntArray
    burner_hours: FloatArray
    occupied_share: FloatArray
    heaters_on_site: FloatArray
    recirculated: BoolArray
    capacity_l: FloatArray
    setpoint_c: FloatArray
    input_kw: FloatArray
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
    relief_kpa: FloatArray
    pressure_kpa: FloatArray
    free_chlorine_mg_l: FloatArray
    chloramine: BoolArray
    expansion_tank_l: FloatArray
    """NaN where there is no expansion tank."""
    expansion_tank_fitted_years: FloatArray
    expansion_tank_precharge_kpa: FloatArray
    practice: IntArray
    tolerance: FloatArray
    longest_flush_years: FloatArray
    leave_years: FloatArray
    flush_method: IntArray
    valve_target: FloatArray
    replace_at: FloatArray

    @classmethod
    def blank(cls, kind: IntArray, age_years: FloatArray) -> Self:
        """Heaters of which only kind and age are on record, on the first water, under the default policy."""
        n = kind.size
        unknown, no_code, no, one = np.full(n, np.nan), np.full(n, -1), np.zeros(n, dtype=bool), np.ones(n)
        every = dict.fromkeys(cls.__dataclass_fields__, unknown)
        codes = dict.fromkeys(("cohort", "business", "alloy"), no_code)
        flags = dict.fromkeys(("softened", "recirculated", "chloramine"), no)
        usual = {
            "water": np.zeros(n, dtype=np.int64),
            "zone": np.zeros(n, dtype=np.int64),
            "kind": kind,
            "age_years": age_years,
            "age_log_sd": np.zeros(n),
            "flushes_log_sd": np.zeros(n),
            "household_years": np.zeros(n),
            "heaters_on_site": one,
            "rod_count": one,
            "rod_fitted_years": np.zeros(n),
            "valve_fitted_years": np.zeros(n),
            "practice": np.full(n, code(DEFAULTS.practice)),
            "tolerance": one * DEFAULTS.tolerance,
            "longest_flush_years": one * DEFAULTS.longest_flush_months / 12,
            "leave_years": np.full(n, np.inf),
            "flush_method": np.full(n, code(DEFAULTS.flush_method)),
            "valve_target": one * DEFAULTS.valve_target,
            "replace_at": one * TANK.replace_at,
        }
        return cls(**{**every, **codes, **flags, **usual})


def complete(known: KnownHeaters, waters: list[WaterProfile]) -> Heaters:
    """Fill what is unknown with what is usual, and heat the water.

    Parameters: known, (n,) columns; waters, the profiles that ``known.water`` counts.
    Returns: the columns of the forecast. Raises: ValueError if PHREEQC finds no solution for a water.
    Source: ``parameters``; PHREEQC runs once for each different water, softening and temperature.
    """
    kinds = list(HeaterKind)
    n = known.kind.size
    usual_capacity = np.array([fleet.capacity_or_default(kind, None) for kind in kinds])[known.kind]
    capacity = _or(known.capacity_l, usual_capacity)
    setpoint = _or(known.setpoint_c, GEOMETRY.setpoint_c)
    source = np.array([water.analysis.source_temperature_c for water in waters])[known.water]
    litres, use_log_sd = usage.litres_per_day(
        usage.Use(
            known.litres_per_day,
            known.people,
            known.fixtures,
            known.business,
            known.burner_hours,
            known.input_kw,
            setpoint - source,
            known.occupied_share,
            known.heaters_on_site,
        )
    )
    is_tank = np.array([kind.is_tank for kind in kinds])[known.kind]
    walled = fleet.has_exchanger(known.kind)
    usual_alloy = np.where(is_tank, code(Alloy.MAGNESIUM), code(Alloy.NONE))
    coil = np.array([KINDS[kind].has_coil for kind in kinds])[known.kind]
    rise = fleet.film_rise_k(known.kind)
    at_60 = np.full(n, SEDIMENT.reference_setpoint_c)
    water = _Heating(known, waters)
    potential, conductivity = water.at(setpoint)
    past = _Heating(replace(known, softened=np.zeros(n, dtype=bool)), waters)

    def leaking(softened: FloatArray, hot_c: FloatArray, wanted: BoolArray | None = None) -> FloatArray:
        """With what gets past a softener, where there is one."""
        here = known.softened if wanted is None else known.softened & wanted
        hard, _ = past.at(hot_c, here)
        threshold = SEDIMENT.kinetic_threshold_mg_l
        leak = threshold + WATER.softener_leak * np.maximum(hard - threshold, 0.0)
        return np.where(here & (hard > threshold), np.maximum(softened, leak), softened)

    hardness = np.array([water.analysis.total_hardness_mg_l for water in waters])[known.water]
    residual = np.minimum(hardness, chemistry.SOFTENER_RESIDUAL_MG_L)
    log_sd = np.array([water.log_sd for water in waters])[known.water]
    pressure = _or(known.pressure_kpa, EXPANSION_TANK.usual_pressure_kpa)
    return Heaters(
        zone=known.zone,
        zones=int(known.zone.max(initial=-1)) + 1,
        water_spread=np.where(known.softened, 0.0, log_sd),
        heater_spread=fleet.heater_spread(
            use_log_sd, np.hypot(known.age_log_sd, np.where(known.softened, WATER.softener_log_sd, 0.0))
        ),
        past_spread=known.flushes_log_sd,
        cohort=known.cohort,
        kind=known.kind,
        age_years=_or(known.age_years, GEOMETRY.age_years),
        household_years=np.nan_to_num(known.household_years),
        volume_m3=usage.volume_m3_per_year(litres),
        recirculated=known.recirculated,
        hardness_mg_l=np.where(known.softened, residual, hardness),
        potential_mg_l=leaking(potential, setpoint),
        potential_60_mg_l=leaking(water.at(at_60)[0], at_60),
        film_potential_mg_l=leaking(water.at(setpoint + rise, walled)[0], setpoint + rise, walled),
        film_potential_60_mg_l=leaking(water.at(at_60 + rise, walled)[0], at_60 + rise, walled),
        ph=np.array([water.analysis.ph for water in waters])[known.water],
        conductivity_us_cm=conductivity,
        suspended_mg_l=np.array([water.suspended_solids_mg_l for water in waters])[known.water],
        source_c=source,
        free_chlorine_mg_l=np.nan_to_num(known.free_chlorine_mg_l),
        chloramine=known.chloramine,
        setpoint_c=setpoint,
        capacity_l=capacity,
        floor_m2=_or(known.floor_m2, fleet.floor_m2(capacity)),
        wetted_m2=fleet.wetted_m2(capacity),
        radius_m=fleet.radius_m(capacity),
        exchanger_m2=_or(known.exchanger_m2, np.where(coil, SCALE.coil_exchanger_m2, SCALE.exchanger_m2)),
        sediment_limit_m=fleet.sediment_limit_m(known.kind, known.drain_port_m, known.lower_element_m),
        alloy=np.where(known.alloy >= 0, known.alloy, usual_alloy),
        rod_diameter_m=_or(known.rod_diameter_m, GEOMETRY.rod_diameter_m),
        rod_length_m=_or(known.rod_length_m, fleet.rod_length_m(capacity)) * np.maximum(known.rod_count, 1),
        rod_fitted_years=np.nan_to_num(known.rod_fitted_years),
        valve_fitted_years=np.nan_to_num(known.valve_fitted_years),
        relief_kpa=_or(known.relief_kpa, RELIEF_VALVE.set_pressure_kpa),
        pressure_kpa=pressure,
        expansion_tank_l=known.expansion_tank_l,
        expansion_tank_fitted_years=np.nan_to_num(known.expansion_tank_fitted_years),
        # Whoever fits one charges it to the static pressure.
        expansion_tank_precharge_kpa=_or(known.expansion_tank_precharge_kpa, pressure),
        practice=known.practice,
        tolerance=known.tolerance,
        longest_flush_years=known.longest_flush_years,
        leave_years=known.leave_years,
        flush_method=known.flush_method,
        valve_target=known.valve_target,
        replace_at=known.replace_at,
    )


def _or(known: FloatArray, usual: FloatArray | float) -> FloatArray:
    return np.where(np.isnan(known), usual, known)


class _Heating:
    """Waters at temperatures: each different one once."""

    def __init__(self, known: KnownHeaters, waters: list[WaterProfile]) -> None:
        self._waters = waters
        self._water = 2 * known.water + known.softened

    def at(self, hot_c: FloatArray, wanted: BoolArray | None = None) -> tuple[FloatArray, FloatArray]:
        """Precipitation potential, mg/L, and conductivity, uS/cm, of each heater's water; 0 where unwanted."""
        potential, conductivity = np.zeros(hot_c.size), np.zeros(hot_c.size)
        kept = np.arange(hot_c.size) if wanted is None else np.flatnonzero(wanted)
        if not kept.size:
            return potential, conductivity
        tenths = np.rint(10 * hot_c[kept]).astype(np.int64)
        different, position = np.unique(self._water[kept] * 2000 + tenths, return_inverse=True)
        results = []
        for one in different.tolist():
            water, tenth = divmod(one, 2000)
            results.append(self._waters[water // 2].heated(tenth / 10, bool(water % 2)))
        potential[kept] = np.array([r.precipitation_potential_mg_l for r in results])[position]
        conductivity[kept] = np.array([r.conductivity_us_cm for r in results])[position]
        return potential, conductivity
