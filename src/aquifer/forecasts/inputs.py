"""Rows of the database as the columns of the core: a fixed number of queries, no loop over heaters."""

import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from django.db.models import CharField, F, QuerySet, Value
from django.db.models.functions import Concat

from aquifer.company.models import Company
from aquifer.core import first_round, replacement
from aquifer.core.arrays import BoolArray, Column, FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import (
    Fleet,
    Heaters,
    age_log_sd,
)
from aquifer.core.forecast import ComponentForecast
from aquifer.core.judgement import PracticeOption, followed
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import DAYS_PER_YEAR, GEOMETRY, LEARNING
from aquifer.core.vocabulary import (
    LOOKED_AT,
    Alloy,
    Business,
    Component,
    Corrosion,
    Disinfectant,
    ExpansionTankPin,
    FlushHistory,
    FlushMethod,
    Noise,
    Practice,
    Removed,
    RodGrade,
    Task,
    ValveOutcome,
    code,
)
from aquifer.core.water import WaterProfile
from aquifer.forecasts.columns import Reading, day, flag, number, position, read_together, there, truth, whole, word
from aquifer.forecasts.findings import Blank, Findings, blank_of, years_of
from aquifer.forecasts.harm import WAYS, harm
from aquifer.forecasts.models import PractisedLook
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.visits.models import Finding, Visit
from aquifer.water.profiles import Waters, waters

GOLDEN = 0.6180339887498949
"""Its multiples fall evenly over 0 to 1 (Weyl)."""
LEAST_OF_A_BUILD = 8
"""Fewer heaters of one maker and model are no cohort: they would teach nothing beyond themselves."""


@dataclass(frozen=True)
class FleetInputs:
    """A fleet with the names of its rows; arrays of shape (n,), by ascending heater."""

    fleet: Fleet
    known: KnownHeaters
    profiles: list[WaterProfile]
    as_of: datetime.date
    heater_ids: IntArray
    versions: IntArray
    last_finding: IntArray
    zone_ids: IntArray
    """The zone of each number by which the fleet counts zones."""
    graders: tuple[str, ...]
    builds: tuple[str, ...]
    installed: Column
    """datetime64[D]; assumed where unknown."""
    in_care: Column
    """datetime64[D] since when we look after it, NaT where that was always."""
    first_round_years: float
    findings: Findings

    def eased(self, forecasts: list[ComponentForecast]) -> list[ComponentForecast]:
        """Forecasts whose first dates lie within the round of what was taken over, where there is any."""
        if np.isnat(self.in_care).all():
            return forecasts
        care = years_of(np.datetime64(self.as_of, "D") - self.in_care)
        place: FloatArray = np.asarray((self.heater_ids * GOLDEN) % 1.0, dtype=np.float64)
        return [
            first_round.spread(forecast, care, self._looked(forecast.component), place, self.first_round_years)
            for forecast in forecasts
        ]

    def _looked(self, component: Component) -> BoolArray:
        """Whether each heater's component was looked at since the heater was taken into care."""
        tasks = [code(task) for task, of in LOOKED_AT.items() if of is component]
        own = np.isin(self.findings.column("task"), tasks)
        own &= self.findings.column("on") >= self.in_care[self.findings.row]
        looked = np.zeros(self.heater_ids.size, dtype=bool)
        looked[self.findings.row[own]] = True
        return looked

    def before(self, finding: int) -> Fleet:
        """The same heaters with the findings up to ``finding`` only: what was known when that was the newest."""
        return _fleet(self.fleet.heaters, self.findings.until(finding), People(self.graders, self.builds))


@dataclass(frozen=True)
class People:
    """Those who graded and the builds that are many, in an order that calibrations refer to."""

    graders: tuple[str, ...]
    builds: tuple[str, ...]

    @classmethod
    def on_record(cls) -> "People":
        graders = {*Visit.objects.exclude(technician="").values_list("technician", flat=True).distinct()}
        # Who has practised is known before the first visit.
        graders |= {one.by.name for one in PractisedLook.objects.select_related("by").distinct("by").order_by("by")}
        counts: dict[str, int] = {}
        for build in Heater.objects.in_service().annotate(build=_BUILD).values_list("build", flat=True):
            counts[build] = counts.get(build, 0) + 1
        many = sorted(build for build, count in counts.items() if count >= LEAST_OF_A_BUILD and build.strip("/"))
        return cls(tuple(sorted(graders)), tuple(many))


_BUILD = Concat(F("maker"), Value("/"), F("model"), output_field=CharField())


def load(
    as_of: datetime.date,
    heaters: "QuerySet[Heater] | IntArray | None" = None,
    people: People | None = None,
    company: Company | None = None,
) -> FleetInputs:
    """The heaters in service with everything their forecast depends on; five queries, one
    fewer where they are told by ids, one more where their water is blended with another.

    Parameters: heaters, for these only: a query, or ids of which those out of service are left out; people, for graders
    and builds to be counted as elsewhere; company, for settings that are only tried.
    """
    chosen = Heater.objects.in_service() if heaters is None else heaters
    people = people or People((), ())
    company = company or Company.current()
    builds = {"build": people.builds}
    theirs: list[tuple[Reading, Mapping[str, Sequence[str]]]] = [
        (_PARTS, {}), (_FINDINGS, {}), (_GRADED_BY, {"who": people.graders}), (WAYS, {}),
    ]  # fmt: skip
    if isinstance(chosen, QuerySet):
        h = _HEATERS.read(chosen, builds)
        parts, columns, graded_by, ways = read_together(h["pk"], *theirs)
    else:
        h, parts, columns, graded_by, ways = read_together(chosen, (_HEATERS, builds), *theirs)
        if h["archived"].any():
            return load(as_of, h["pk"][~h["archived"]], people, company)
    order = np.argsort(h["pk"])
    h = {name: values[order] for name, values in h.items()}
    h["practice"] = _practice(h, company)
    ids: IntArray = h["pk"]
    water = waters(as_of, np.unique(h["zone"]).tolist())
    columns = _with_visit_and_part(columns, graded_by, parts)
    usual = code(FlushMethod(company.flush_method))
    columns = _with_told_flushes(columns, h, as_of, usual)
    # Sorted here: the database would sort wide rows on its disk.
    order = np.lexsort((columns["pk"], columns["on"], columns["heater"]))
    columns = {name: values[order] for name, values in columns.items()}
    unknown = np.full(ids.size, np.datetime64("NaT", "D"))
    findings = Findings(columns, np.searchsorted(ids, columns["heater"]), unknown, usual)
    installed, certain = _installed(h, findings, as_of)
    findings.installed = installed
    known, profiles = _known(h, water, findings, _in_place(parts, ids), installed, certain, as_of, company)
    known = replace(
        known, replace_at=replacement.advised_from(company.heater_over_leak, harm(ways, ids, h["business"]))
    )
    complete_heaters = complete(known, profiles)
    last = np.zeros(ids.size, dtype=np.int64)
    np.maximum.at(last, findings.row, findings.column("pk"))
    zone_ids = np.array([zone.zone_id for zone in water.zones], dtype=np.int64)
    fleet = replace(_fleet(complete_heaters, findings, people), zone_ids=zone_ids)
    return FleetInputs(
        fleet,
        known,
        profiles,
        as_of,
        ids,
        h["version"],
        last,
        zone_ids,
        people.graders,
        people.builds,
        installed,
        h["in_care_since"],
        company.first_round_weeks * 7 / DAYS_PER_YEAR,
        findings,
    )


def _fleet(heaters: Heaters, findings: Findings, people: People) -> Fleet:
    return Fleet(
        heaters,
        findings.flushes(),
        findings.descales(),
        findings.rod_looks(heaters.rod_diameter_m, heaters.rod_length_m),
        findings.valve_trials(),
        findings.expansion_tank_checks(),
        findings.looks(),
        len(people.graders),
        len(people.builds),
    )


_HEATER_NUMBERS = (
    "install_margin_years",
    "capacity_l",
    "setpoint_c",
    "input_kw",
    "floor_area_m2",
    "drain_port_height_mm",
    "lower_element_height_mm",
    "exchanger_area_m2",
    "burner_hours_per_day",
    "site__people",
    "site__fixtures",
    "site__hot_water_l_per_day",
    "site__occupied_share",
    "site__static_pressure_kpa",
)
_HEATERS = Reading(
    Heater.objects.order_by(),
    {
        "pk": whole("pk"),
        "site": whole("site_id"),
        "zone": whole("site__zone_id"),
        "version": whole("version"),
        "kind": word("kind", HeaterKind),
        "installed_on": day("installed_on"),
        "certain": position("install_certainty", ["known"]),
        "flush_history": word("flush_history", FlushHistory),
        "last_flush_year": whole("last_flush_year"),
        "practice": word("practice", Practice),
        "site__practice": word("site__practice", Practice),
        "zone__practice": word("site__zone__practice", Practice),
        "softened": flag("site__softened"),
        "recirculated": flag("recirculated"),
        "archived": there("archived_at"),
        "in_care_since": day("in_care_since"),
        "business": word("site__business", Business),
        "build": position(_BUILD),
        **{name: number(name) for name in _HEATER_NUMBERS},
    },
    by="pk",
)


def _practice(h: dict[str, Column], company: Company) -> IntArray:
    """The narrowest setting that says anything: heater, contract, water, company."""
    settings = [h["practice"], h["site__practice"], h["zone__practice"]]
    return np.select([one >= 0 for one in settings], settings, code(Practice(company.practice)))


_CAPACITY_LOST = 1 - (F("flow_before_l_min") * F("rise_before_k")) / (F("flow_after_l_min") * F("rise_after_k"))
_FINDING_NUMBERS = (
    "depth_before_mm",
    "depth_after_mm",
    "removed_l",
    "dissolved_g",
    "diameter_mm",
    "bare_wire_mm",
    "precharge_kpa",
)
_FINDINGS = Reading(
    Finding.objects.order_by(),
    {
        "pk": whole("pk"),
        "heater": whole("heater_id"),
        "visit": whole("visit_id"),
        "part": whole("part_id"),
        "corrects": whole("corrects_id"),
        "on": day("on"),
        "task": word("task", Task),
        "method": word("method", FlushMethod),
        "removed": word("removed", Removed),
        "grade": word("grade", RodGrade),
        "could_not_open": flag("could_not_open"),
        "outcome": word("outcome", ValveOutcome),
        "at_valve": word("at_valve", ExpansionTankPin),
        "noise": word("noise", Noise),
        "corrosion": word("corrosion", Corrosion),
        "rusty": truth("rusty_hot_water"),
        "capacity_lost": number(_CAPACITY_LOST),
        **{name: number(name) for name in _FINDING_NUMBERS},
    },
    by="heater",
)
_GRADED_BY = Reading(
    Visit.objects.order_by(),
    {"pk": whole("pk"), "heater": whole("heater_id"), "who": position("technician")},
    by="heater",
)
_FORECAST_PARTS = (PartKind.ANODE, PartKind.RELIEF_VALVE, PartKind.EXPANSION_TANK)
_PART_NUMBERS = ("diameter_mm", "length_mm", "volume_l", "precharge_kpa", "set_pressure_kpa")
_PARTS = Reading(
    Part.objects.order_by(),
    {
        "pk": whole("pk"),
        "heater": whole("heater_id"),
        "kind": position("kind", [kind.value for kind in _FORECAST_PARTS]),
        "fitted_on": day("fitted_on"),
        "removed_on": day("removed_on"),
        "alloy": word("alloy", Alloy),
        "count": whole("count"),
        **{name: number(name) for name in _PART_NUMBERS},
    },
    by="heater",
)
"""Every part that heaters have or had."""


def _with_visit_and_part(
    found: dict[str, Column], by: dict[str, Column], parts: dict[str, Column]
) -> dict[str, Column]:
    """Findings that stand with who graded them and the part they concern.

    Joined here and not by the database: a visit and a part are looked up for every finding, and arrays do that at once.
    """
    standing = np.flatnonzero(~np.isin(found["pk"], found["corrects"]))
    c = {name: values[standing] for name, values in found.items()}
    c["by"] = _looked_up(c["visit"], by["pk"], by["who"], np.int64(-1))
    for name, unknown in (("alloy", np.int64(-1)), ("count", np.int64(1)), ("diameter_mm", np.nan)):
        c[f"part__{name}"] = _looked_up(c["part"], parts["pk"], parts[name], unknown)
    c["part__length_mm"] = _looked_up(c["part"], parts["pk"], parts["length_mm"], np.nan)
    c["part__fitted_on"] = _looked_up(c["part"], parts["pk"], parts["fitted_on"], np.datetime64("NaT", "D"))
    return c


def _with_told_flushes(
    columns: dict[str, Column], h: dict[str, Column], as_of: datetime.date, usual: int
) -> dict[str, Column]:
    """The findings, and a flush or descale in the middle of the year in which a heater is said to have had its last one
    before our own record."""
    told = np.flatnonzero((h["flush_history"] == code(FlushHistory.ABOUT)) & (h["last_flush_year"] > 0))
    if not told.size:
        return columns
    year = (h["last_flush_year"][told] - 1970).astype("datetime64[Y]")
    middle = year.astype("datetime64[D]") + np.timedelta64(181, "D")
    is_tank = np.array([kind.is_tank for kind in HeaterKind])[h["kind"][told]]
    given = {
        "heater": h["pk"][told],
        "pk": np.zeros(told.size, dtype=np.int64),
        "on": np.minimum(middle, np.datetime64(as_of, "D")),
        "task": np.where(is_tank, code(Task.FLUSH), code(Task.DESCALE)),
        "method": np.full(told.size, usual),
    }
    return {
        name: np.concatenate([values, given[name] if name in given else np.full(told.size, blank_of(values))])
        for name, values in columns.items()
    }


def _looked_up(wanted: IntArray, keys: IntArray, values: Column, unknown: Blank) -> Column:
    """The value of each wanted key, ``unknown`` where there is none."""
    if not keys.size:
        return np.full(wanted.size, unknown)
    order = np.argsort(keys)
    place = np.searchsorted(keys[order], wanted).clip(max=keys.size - 1)
    at = order[place]
    return np.where(keys[at] == wanted, values[at], unknown)


def _in_place(parts: dict[str, Column], ids: IntArray) -> dict[str, dict[str, Column]]:
    """The parts in place of each heater by kind, blank where there is none on record."""
    found = {}
    for at, kind in enumerate(_FORECAST_PARTS):
        own = np.flatnonzero((parts["kind"] == at) & np.isnat(parts["removed_on"]))
        row = np.searchsorted(ids, parts["heater"][own])
        part: dict[str, Column] = {
            **{name: np.full(ids.size, np.nan) for name in _PART_NUMBERS},
            "is_there": np.zeros(ids.size, dtype=bool),
            "fitted_on": np.full(ids.size, np.datetime64("NaT", "D")),
            "alloy": np.full(ids.size, -1, dtype=np.int64),
            "count": np.ones(ids.size),
        }
        part["is_there"][row] = True
        for name in ("fitted_on", "alloy", "count", *_PART_NUMBERS):
            part[name][row] = parts[name][own]
        found[kind.value] = part
    return found


def _known(
    h: dict[str, Column],
    water: Waters,
    findings: Findings,
    parts: dict[str, dict[str, Column]],
    installed: Column,
    certain: Column,
    as_of: datetime.date,
    company: Company,
) -> tuple[KnownHeaters, list[WaterProfile]]:
    """What is on record, as columns."""
    n = h["pk"].size
    zone_ids = np.array([zone.zone_id for zone in water.zones], dtype=np.int64)
    zone = np.searchsorted(zone_ids, h["zone"])
    own_water = zone.copy()
    for at, site_id in enumerate(water.sites, start=len(water.zones)):
        own_water[h["site"] == site_id] = at
    rod, valve, expansion_tank = (parts[k] for k in (PartKind.ANODE, PartKind.RELIEF_VALVE, PartKind.EXPANSION_TANK))

    def since_start(on: Column) -> FloatArray:
        return np.maximum(np.nan_to_num(years_of(on - installed)), 0.0)

    # The people of a site share its heaters; so does its meter.
    _, place, sharing = np.unique(h["site"], return_inverse=True, return_counts=True)
    heaters_on_site = sharing[place].astype(np.float64) if n else np.zeros(0)
    chlorine = np.array([np.nan if z.free_chlorine_mg_l is None else z.free_chlorine_mg_l for z in water.zones])
    chloramine = np.array([z.disinfectant == Disinfectant.CHLORAMINE for z in water.zones], dtype=bool)
    expansion_tank_l = np.where(
        np.isnan(expansion_tank["volume_l"]), GEOMETRY.expansion_tank_l, expansion_tank["volume_l"]
    )
    leaves = PracticeOption.LEAVE_OLD in followed(company.practice_options)
    plain = KnownHeaters.blank(h["kind"], years_of(np.datetime64(as_of, "D") - installed))
    return replace(
        plain,
        water=own_water,
        zone=zone,
        softened=h["softened"],
        age_log_sd=age_log_sd(plain.age_years, certain, h["install_margin_years"]),
        flushes_log_sd=np.select(
            [h["flush_history"] == code(FlushHistory.UNKNOWN), h["flush_history"] == code(FlushHistory.ABOUT)],
            [LEARNING.unknown_flushes_spread, LEARNING.dated_by_year_spread],
            0.0,
        ),
        leave_years=np.full(n, company.never_flushed_cutoff_years if leaves else np.inf),
        household_years=findings.latest_years(Task.HOUSEHOLD_CHANGE, n),
        cohort=h["build"],
        litres_per_day=h["site__hot_water_l_per_day"] / heaters_on_site,
        people=h["site__people"],
        fixtures=h["site__fixtures"],
        business=h["business"],
        burner_hours=h["burner_hours_per_day"],
        occupied_share=h["site__occupied_share"],
        heaters_on_site=heaters_on_site,
        recirculated=h["recirculated"],
        capacity_l=h["capacity_l"],
        setpoint_c=h["setpoint_c"],
        input_kw=h["input_kw"],
        floor_m2=h["floor_area_m2"],
        drain_port_m=h["drain_port_height_mm"] / 1000,
        lower_element_m=h["lower_element_height_mm"] / 1000,
        exchanger_m2=h["exchanger_area_m2"],
        alloy=rod["alloy"],
        rod_diameter_m=rod["diameter_mm"] / 1000,
        rod_length_m=rod["length_mm"] / 1000,
        rod_count=rod["count"],
        rod_fitted_years=since_start(rod["fitted_on"]),
        valve_fitted_years=since_start(valve["fitted_on"]),
        relief_kpa=valve["set_pressure_kpa"],
        pressure_kpa=h["site__static_pressure_kpa"],
        free_chlorine_mg_l=chlorine[zone] if n else plain.free_chlorine_mg_l,
        chloramine=chloramine[zone] if n else plain.chloramine,
        expansion_tank_l=np.where(expansion_tank["is_there"], expansion_tank_l, np.nan),
        expansion_tank_fitted_years=since_start(expansion_tank["fitted_on"]),
        expansion_tank_precharge_kpa=expansion_tank["precharge_kpa"],
        practice=h["practice"],
        tolerance=np.full(n, company.tolerance),
        longest_flush_years=np.full(n, company.longest_flush_months / 12),
        flush_method=np.full(n, code(FlushMethod(company.flush_method))),
        valve_target=np.full(n, company.relief_valve_target),
    ), [*(zone.profile for zone in water.zones), *water.sites.values()]


def _installed(h: dict[str, Column], findings: Findings, as_of: datetime.date) -> tuple[Column, Column]:
    """Installation dates, assumed six years back where unknown but before anything on record; and which are certain."""
    given = h["installed_on"]
    usual = np.datetime64(as_of, "D") - np.timedelta64(round(GEOMETRY.age_years * DAYS_PER_YEAR), "D")
    first = np.full(given.size, usual)
    np.minimum.at(first, findings.row, findings.column("on") - np.timedelta64(365, "D"))
    return np.where(np.isnat(given), first, given), ~np.isnat(given) & (h["certain"] == 0)
