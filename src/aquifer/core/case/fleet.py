"""A case as a fleet of one."""

import datetime
from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from typing import TypedDict, TypeVar

import numpy as np

from aquifer.core import water as waters
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.case.document import (
    Case,
    CaseError,
    DescaleEvent,
    DescaleFinding,
    Event,
    ExpansionTankCase,
    ExpansionTankCheckEvent,
    ExpansionTankReplacementEvent,
    FlushEvent,
    HouseholdChangeEvent,
    LookOverEvent,
    PressureTestEvent,
    RodLookEvent,
    RodPart,
    RodReplacementEvent,
    ValveReplacementEvent,
    ValveTrialEvent,
)
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.forecast import years_between
from aquifer.core.judgement import PracticeOption
from aquifer.core.parameters import DAYS_PER_YEAR, GEOMETRY, LEARNING
from aquifer.core.vocabulary import Alloy, Disinfectant, Supply, code


def installed_on(case: Case) -> datetime.date:
    """The installation date, or an assumed one: six years back, and a year before anything that is on record."""
    h = case.heater
    if h.installed_on is not None:
        return h.installed_on
    usual = case.as_of - datetime.timedelta(days=round(GEOMETRY.age_years * DAYS_PER_YEAR))
    dated = [event.on for event in case.events]
    dated += [day for day in (h.anode.installed_on, h.relief_valve.installed_on) if day is not None]
    return min([usual, *(day - datetime.timedelta(days=365) for day in dated)])


def profile(case: Case) -> waters.WaterProfile:
    """The case's water, completed. Raises: CaseError if hardness is contradictory."""
    w = case.water
    test = waters.WaterTest(
        w.total_hardness_mg_l,
        w.calcium_hardness_mg_l,
        w.alkalinity_mg_l,
        w.ph,
        w.conductivity_us_cm,
        w.source_temperature_c,
        w.suspended_solids_mg_l,
        w.iron_mg_l,
    )
    try:
        return waters.profile(test, w.supply is Supply.WELL)
    except ValueError as error:
        raise CaseError("/water", str(error)) from None


E = TypeVar("E", bound=Event)


class _Base(TypedDict):
    row: IntArray
    years: FloatArray


class _Graded(_Base):
    by: IntArray


class _Timeline:
    """The case's events in years since the heater was installed, and its rods in their turn."""

    def __init__(self, case: Case) -> None:
        self.case, self.start = case, installed_on(case)
        h = case.heater.anode
        self.rods = [_Rod(h.alloy, h.diameter_mm, h.length_mm, h.count, self.since_start(h.installed_on))]
        self.looks: list[tuple[RodLookEvent, _Rod]] = []
        for event in case.events:
            if isinstance(event, RodLookEvent) and not event.finding.could_not_open:
                self.looks.append((event, self.rods[-1]))
            elif isinstance(event, RodReplacementEvent):
                self.rods.append(self.rods[-1].followed_by(event.part, self.since_start(event.on)))

    def since_start(self, day: datetime.date | None) -> float:
        return 0.0 if day is None else years_between(self.start, day)

    def events_of(self, *kinds: type[E]) -> list[E]:
        return [event for event in self.case.events if isinstance(event, kinds)]

    def latest(self, *days: datetime.date | None) -> float:
        return max((self.since_start(day) for day in days if day is not None), default=0.0)

    def base(self, events: Sequence[Event]) -> _Base:
        years = _floats([self.since_start(event.on) for event in events])
        return {"row": np.zeros(len(events), dtype=np.int64), "years": years}

    def graded(self, events: Sequence[Event]) -> _Graded:
        return {**self.base(events), "by": np.full(len(events), -1)}


def _column(value: float | int | None, factor: float = 1.0) -> FloatArray:
    return _floats([value], factor)


def _floats(values: Sequence[float | None], factor: float = 1.0) -> FloatArray:
    return np.array([np.nan if value is None else value * factor for value in values], dtype=np.float64)


def _codes(values: Sequence[StrEnum | None]) -> IntArray:
    return np.array([-1 if value is None else code(value) for value in values], dtype=np.int64)


def known_heaters(case: Case) -> KnownHeaters:
    """What the case says of its heater, as columns of one."""
    h, t = case.heater, _Timeline(case)
    valve = t.latest(h.relief_valve.installed_on, *(e.on for e in t.events_of(ValveReplacementEvent)))
    rod, expansion_tank = t.rods[-1], h.expansion_tank or ExpansionTankCase()
    renewed = t.events_of(ExpansionTankReplacementEvent)
    expansion_tank_l = next(
        (e.part.volume_l for e in reversed(renewed) if e.part and e.part.volume_l), expansion_tank.volume_l
    )
    if expansion_tank_l is None and (
        h.expansion_tank is not None or t.events_of(ExpansionTankCheckEvent, ExpansionTankReplacementEvent)
    ):
        expansion_tank_l = GEOMETRY.expansion_tank_l
    pressures = [e.finding.static_kpa for e in t.events_of(PressureTestEvent) if e.finding.static_kpa is not None]
    p = case.policy
    return replace(
        KnownHeaters.blank(np.array([code(h.kind)]), np.array([years_between(t.start, case.as_of)])),
        softened=np.array([bool(case.water.softened)]),
        age_log_sd=np.array([0.0 if h.installed_on is not None else LEARNING.unknown_age_spread]),
        household_years=np.array([t.latest(*(e.on for e in t.events_of(HouseholdChangeEvent)))]),
        litres_per_day=_column(case.site.hot_water_l_per_day),
        people=_column(case.site.people),
        fixtures=_column(case.site.fixtures),
        business=np.array([-1 if case.site.business is None else code(case.site.business)]),
        burner_hours=_column(h.burner_hours_per_day),
        occupied_share=_column(case.site.occupied_share),
        recirculated=np.array([bool(h.recirculated)]),
        capacity_l=_column(h.capacity_l),
        setpoint_c=_column(h.setpoint_c),
        input_kw=_column(h.input_kw),
        floor_m2=_column(h.floor_area_m2),
        drain_port_m=_column(h.drain_port_height_mm, 1e-3),
        lower_element_m=_column(h.lower_element_height_mm, 1e-3),
        exchanger_m2=_column(h.exchanger_area_m2),
        alloy=np.array([-1 if rod.alloy is None else code(rod.alloy)]),
        rod_diameter_m=_column(rod.diameter_mm, 1e-3),
        rod_length_m=_column(rod.length_mm, 1e-3),
        rod_count=np.array([float(rod.count or 1)]),
        rod_fitted_years=np.array([rod.fitted_years]),
        valve_fitted_years=np.array([valve]),
        relief_kpa=_column(h.relief_valve.set_pressure_kpa),
        pressure_kpa=_column(pressures[-1] if pressures else case.site.static_pressure_kpa),
        free_chlorine_mg_l=_column(case.water.free_chlorine_mg_l),
        chloramine=np.array([case.water.disinfectant is Disinfectant.CHLORAMINE]),
        expansion_tank_l=_column(expansion_tank_l),
        expansion_tank_fitted_years=np.array([t.since_start(expansion_tank.installed_on)]),
        expansion_tank_precharge_kpa=_column(expansion_tank.precharge_kpa),
        practice=np.array([code(p.practice)]),
        tolerance=np.array([p.tolerance]),
        longest_flush_years=np.array([p.longest_flush_months / 12]),
        leave_years=np.array([np.inf if PracticeOption.ALWAYS_FLUSH in p.schools else p.never_flushed_cutoff_years]),
        flush_method=np.array([code(p.flush_method)]),
        valve_target=np.array([p.relief_valve_target_pfd]),
        replace_at=np.array([p.replace_at]),
    )


def as_fleet(case: Case) -> Fleet:
    """The case as a fleet of one. Raises: CaseError if its water has no chemical equilibrium."""
    p, t = case.policy, _Timeline(case)
    try:
        heaters = complete(known_heaters(case), [profile(case)])
    except CaseError:
        raise
    except ValueError as error:
        raise CaseError("/water", str(error)) from None
    flushes, descales = t.events_of(FlushEvent), t.events_of(DescaleEvent)
    trials = t.events_of(ValveTrialEvent, ValveReplacementEvent)
    checks = t.events_of(ExpansionTankCheckEvent, ExpansionTankReplacementEvent)
    seen_over = t.events_of(LookOverEvent)
    # A rod of which only the alloy is known has the size its tank usually takes, as the present one was completed.
    usual_diameter, usual_length = float(heaters.rod_diameter_m[0]), float(heaters.rod_length_m[0]) * 1000
    return Fleet(
        heaters,
        FlushEvents(
            **t.graded(flushes),
            method=_codes([e.method or p.flush_method for e in flushes]),
            removed=_codes([e.finding.removed for e in flushes]),
            depth_m=_floats([e.finding.depth_before_mm for e in flushes], 1e-3),
            depth_after_m=_floats([e.finding.depth_after_mm for e in flushes], 1e-3),
            volume_l=_floats([e.finding.removed_l for e in flushes]),
        ),
        DescaleEvents(
            **t.graded(descales),
            removed=_codes([e.finding.removed for e in descales]),
            dissolved_kg=_floats([e.finding.dissolved_g for e in descales], 1e-3),
            capacity_lost=_floats([_capacity_lost(e.finding) for e in descales]),
        ),
        RodEvents(
            **t.graded([look for look, _ in t.looks]),
            alloy=_codes([seen.alloy or Alloy.MAGNESIUM for _, seen in t.looks]),
            rod_diameter_m=_floats([(seen.diameter_mm or usual_diameter * 1000) for _, seen in t.looks], 1e-3),
            rod_length_m=_floats(
                [seen.length_mm * (seen.count or 1) if seen.length_mm else usual_length for _, seen in t.looks], 1e-3
            ),
            rod_fitted_years=_floats([seen.fitted_years for _, seen in t.looks]),
            diameter_m=_floats([look.finding.diameter_mm for look, _ in t.looks], 1e-3),
            bare_m=_floats([look.finding.bare_wire_mm for look, _ in t.looks], 1e-3),
            grade=_codes([look.finding.grade for look, _ in t.looks]),
        ),
        ValveEvents(
            **t.base(trials),
            outcome=_codes([e.finding.outcome if isinstance(e, ValveTrialEvent) else None for e in trials]),
            replaced=np.array([isinstance(e, ValveReplacementEvent) for e in trials], dtype=bool),
        ),
        ExpansionTankEvents(
            **t.base(checks),
            pin=_codes([e.finding.at_valve if isinstance(e, ExpansionTankCheckEvent) else None for e in checks]),
            precharge_kpa=_floats(
                [e.finding.precharge_kpa if isinstance(e, ExpansionTankCheckEvent) else None for e in checks]
            ),
            replaced=np.array([isinstance(e, ExpansionTankReplacementEvent) for e in checks], dtype=bool),
        ),
        LookEvents(
            **t.base(seen_over),
            noise=_codes([e.finding.noise for e in seen_over]),
            corrosion=_codes([e.finding.corrosion for e in seen_over]),
            rusty=np.array(
                [-1 if (r := e.finding.rusty_hot_water) is None else int(r) for e in seen_over], dtype=np.int64
            ),
        ),
    )


def _capacity_lost(descale_finding: DescaleFinding) -> float | None:
    """Share of the heat at full draw that a descale brought back; None unless flow and rise were read both times."""
    before, after = (
        (descale_finding.flow_before_l_min, descale_finding.rise_before_k),
        (descale_finding.flow_after_l_min, descale_finding.rise_after_k),
    )
    if None in before or None in after:
        return None
    return 1 - (before[0] * before[1]) / (after[0] * after[1])  # type: ignore[operator]


class _Rod:
    """A rod in its turn."""

    def __init__(
        self, alloy: Alloy | None, diameter_mm: float | None, length_mm: float | None, count: int | None, fitted: float
    ) -> None:
        self.alloy, self.diameter_mm, self.length_mm = alloy, diameter_mm, length_mm
        self.count, self.fitted_years = count, fitted

    def followed_by(self, part: RodPart, fitted: float) -> "_Rod":
        return _Rod(
            part.alloy or self.alloy,
            part.diameter_mm or self.diameter_mm,
            part.length_mm or self.length_mm,
            part.count or self.count,
            fitted,
        )
