"""Simulates the district's heaters month by month and writes what a company would have on file about them.

Deposit grows by a fitted rule of thumb (a pace for each supply, faster on what lies there, drifting use) and not by
water chemistry; rods wear by a lifetime drawn for each; valves stick at random. What technicians write down is coarse,
biased by who looks, and sometimes wrong or missing.
"""

import datetime
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.vocabulary import Fouling, Noise, Removed, RodGrade, Texture, values
from aquifer.demo.clock import timed
from aquifer.demo.district import (
    BUSINESS_KINDS,
    BUSINESSES,
    DISTRICT_KINDS,
    HAZARDS,
    LOCATIONS,
    MAKERS,
    SURNAMES,
    TECHNICIANS,
    ZONES,
    DemoKind,
    DemoZone,
)
from aquifer.demo.surroundings import Record, features, histories, located
from aquifer.formats.csv_table import write_table

SITES = 300
HEATERS = 400
HISTORY_YEARS = 5
_REFERENCE_L_DAY = 165.0
_EYE_CUTS_MM = (1.3, 5.0, 14.0, 45.0)
"""Depths at which these technicians pass from one grade to the next; not those the forecaster assumes."""
Generator = np.random.Generator


@dataclass
class District:
    zones: list[Record] = field(default_factory=list)
    water_tests: list[Record] = field(default_factory=list)
    customers: list[Record] = field(default_factory=list)
    sites: list[Record] = field(default_factory=list)
    heaters: list[Record] = field(default_factory=list)
    visits: list[Record] = field(default_factory=list)
    features: list[Record] = field(default_factory=list)
    depths_mm: dict[str, float] = field(default_factory=dict)
    """What really lies in each heater, by its tag: deposit of a tank, scale of an exchanger. Written nowhere; the
    forecast is held against it."""

    def write(self, folder: Path) -> None:
        """Every table as a CSV file of its name."""
        folder.mkdir(parents=True, exist_ok=True)
        for name in self.__dataclass_fields__:
            if name == "depths_mm":
                continue
            rows: list[Record] = getattr(self, name)
            columns = list(dict.fromkeys(column for row in rows for column in row))
            (folder / f"{name}.csv").write_text(write_table(columns, rows), encoding="utf-8")


def simulate(today: datetime.date, seed: int = 11, sites: int = SITES, heaters: int = HEATERS) -> District:
    """The district as a company would have it on file on ``today``; the same seed gives the same files."""
    random = np.random.default_rng(seed)
    district = District()
    grader_bias = {name: random.normal(0, 0.3) for name in TECHNICIANS}
    for zone in ZONES:
        _zone(district, zone, today, random)
    places = [_site(district, number, zone, random) for number, zone in enumerate(_spread(sites, random), start=1)]
    extra = random.choice(sites, size=max(heaters - sites, 0), p=_banks(places))
    for number, place in enumerate(list(range(sites)) + sorted(extra.tolist()), start=1):
        if number > heaters:
            break
        _heater(district, number, places[place], today, grader_bias, random)
    timed(district.visits, np.random.default_rng([seed, 2]))
    district.visits.sort(key=lambda visit: visit["on"])
    around = np.random.default_rng([seed, 1])
    for site in district.sites:
        located(site, around)
    histories(district.heaters, today, around)
    district.features = features(district.sites, district.heaters, today, around)
    return district


@dataclass(frozen=True)
class _Parts:
    """When the parts now in place were fitted, and how long such a rod truly lasts here."""

    rod_life_years: float
    rod_fitted_on: datetime.date | None
    valve_fitted_on: datetime.date | None

    @classmethod
    def drawn(
        cls,
        age: float,
        installed: datetime.date,
        alloy: str,
        place: "_Place",
        setpoint: float,
        random: Generator,
    ) -> "_Parts":
        life = {"magnesium": 4.6, "aluminium": 9.5, "aluminium_zinc": 9.0}[alloy] * random.lognormal(0, 0.3)
        life *= (0.45 if place.zone.softened else 1.0) / 2 ** ((setpoint - 55) / 35)
        start = max(age - HISTORY_YEARS, 0.0)

        def after(years: float) -> datetime.date | None:
            return installed + datetime.timedelta(days=round(365.25 * years)) if years > 0 else None

        rods_before = int(start / (0.8 * life))
        valves_before = int(start / 6 + random.random() * 0.5)
        return cls(life, after(rods_before * 0.8 * life), after(min(valves_before * 6.0, start)))


@dataclass
class _Place:
    code: str
    zone: DemoZone
    use_l_day: float
    is_business: bool
    technician: str
    closed: bool
    pressure_kpa: float
    town_heaters: int = 0


def _spread(sites: int, random: Generator) -> list[DemoZone]:
    shares = np.array([zone.share for zone in ZONES])
    return [ZONES[i] for i in sorted(random.choice(len(ZONES), size=sites, p=shares / shares.sum()))]


def _banks(places: list[_Place]) -> FloatArray:
    """Businesses have more than one heater."""
    weight: FloatArray = np.array([8.0 if place.is_business else 0.6 for place in places])
    return np.asarray(weight / weight.sum())


def _zone(district: District, zone: DemoZone, today: datetime.date, random: Generator) -> None:
    district.zones.append({"code": zone.code, "name": zone.name, "supply": zone.supply, "note": zone.note})
    for years in (4.2, 2.1, 0.4):
        swing = 1 + random.normal(0, 0.04)
        hardness = round(zone.hardness_mg_l * swing)
        full = years < 3
        district.water_tests.append(
            {
                "zone": zone.code,
                "taken_on": today - datetime.timedelta(days=round(365.25 * years)),
                "method": "laboratory" if zone.ph else "drop test",
                "total_hardness_mg_l": hardness,
                "calcium_hardness_mg_l": round(hardness * zone.calcium_share) if full and zone.ph else None,
                "alkalinity_mg_l": round(zone.alkalinity_mg_l * swing) if full and zone.alkalinity_mg_l else None,
                "ph": zone.ph if full else None,
                "conductivity_us_cm": zone.conductivity_us_cm if full else None,
                "source_temperature_c": 12,
                "suspended_solids_mg_l": zone.suspended_mg_l,
                "free_chlorine_mg_l": 0.5 if zone.supply == "mains" else 0,
                "disinfectant": "chlorine" if zone.supply == "mains" else "none",
            }
        )


def _site(district: District, number: int, zone: DemoZone, random: Generator) -> _Place:
    is_business = number % (SITES // len(BUSINESSES)) == 0
    if is_business:
        name, use = BUSINESSES[(number * len(BUSINESSES) // SITES - 1) % len(BUSINESSES)]
        people = None
    else:
        name = str(random.choice(SURNAMES))
        people = int(random.choice([1, 2, 2, 3, 3, 4, 4, 5, 6]))
        use = 52.0 * people * random.lognormal(0, 0.3)
    code = f"S{number:04d}"
    customer = f"C{number:04d}"
    street = f"{int(random.integers(1, 60))} {random.choice(zone.streets)}"
    district.customers.append(
        {
            "code": customer,
            "name": name if is_business else f"{name} household",
            "phone": f"555-01{number % 100:02d}",
            "email": f"customer{number}@example.com",
        }
    )
    known = random.random()
    closed, pressure = bool(random.random() < 0.5), round(float(random.normal(400, 70)))
    district.sites.append(
        {
            "code": code,
            "customer": customer,
            "name": name,
            "street": street,
            "town": zone.name.split()[0],
            "zone": zone.code,
            "softened": zone.softened or random.random() < 0.04,
            "people": people if known < 0.85 else None,
            "hot_water_l_per_day": round(use) if is_business or known > 0.93 else None,
            "business": BUSINESS_KINDS.get(name) if is_business else None,
            "fixtures": int(random.integers(3, 9)) if random.random() < 0.5 else None,
            "dusty": random.random() < 0.06,
            "static_pressure_kpa": pressure,
            "closed_system": closed,
            "hazard": str(random.choice(HAZARDS)) if random.random() < 0.08 else "",
            "shut_off": str(random.choice(["ball valve at the heater", "gate valve at the heater", "house valve"])),
            "access": "ring first" if random.random() < 0.1 else "",
        }
    )
    home = list(ZONES).index(zone)
    technician = TECHNICIANS[(home + int(random.random() < 0.25)) % len(TECHNICIANS)]
    return _Place(code, zone, use, is_business, technician, closed, pressure)


def _heater(
    district: District,
    number: int,
    place: _Place,
    today: datetime.date,
    grader_bias: dict[str, float],
    random: Generator,
) -> None:
    shares = np.array([kind.share for kind in DISTRICT_KINDS])
    kind = DISTRICT_KINDS[int(random.choice(len(DISTRICT_KINDS), p=shares / shares.sum()))]
    age = min(float(random.gamma(2.2, 3.0)) + 0.3, 22.0)
    installed = today - datetime.timedelta(days=round(365.25 * age))
    certainty = "known" if random.random() < 0.9 else "estimated"
    unknown = random.random() < 0.03
    capacity = float(random.choice(kind.capacities_l))
    setpoint = float(random.choice([49, 52, 54, 55, 60, 60, 65]))
    scale = (capacity / 189) ** (1 / 3)
    is_tank = kind.kind.is_tank
    alloy = str(random.choice(["magnesium", "magnesium", "magnesium", "aluminium", "aluminium_zinc"]))
    tag = f"{place.zone.code}-{number:04d}"
    place.town_heaters += 1
    parts = _Parts.drawn(age, installed, alloy, place, setpoint, random)
    has_rod = is_tank and kind.letter != "M"
    expansion_tank = 8 if capacity < 200 else 18
    has_expansion_tank = is_tank and place.closed and random.random() < 0.65
    district.heaters.append(
        {
            "tag": tag,
            "site": place.code,
            "kind": kind.kind.value,
            "location": str(random.choice(LOCATIONS)) + (f" {place.town_heaters}" if place.town_heaters > 1 else ""),
            "maker": str(random.choice(MAKERS)),
            "model": f"{kind.letter}{round(capacity)}",
            "serial": f"{int(random.integers(10**7, 10**8))}",
            "installed_on": None if unknown else installed,
            "install_certainty": "unknown" if unknown else certainty,
            "capacity_l": capacity,
            "setpoint_c": setpoint if random.random() < 0.9 else None,
            "input_kw": kind.input_kw or None,
            "height_mm": round(1250 * scale) if is_tank else 650,
            "diameter_mm": round(520 * scale) if is_tank else 350,
            "drain_port_height_mm": round(float(random.uniform(35, 55))) if is_tank else None,
            "probe_height_mm": 150 if kind.kind is HeaterKind.GAS_TANK else None,
            "lower_element_height_mm": 180 if KINDS[kind.kind].has_elements else None,
            "exchanger_area_m2": None if is_tank else {"S": 0.08, "L": 0.06}.get(kind.letter, 0.15),
            "anode_alloy": alloy if has_rod else "none",
            "anode_diameter_mm": 20 if has_rod else None,
            "anode_length_mm": round(1000 * scale) if has_rod else None,
            "anode_fitted_on": parts.rod_fitted_on if has_rod and not unknown else None,
            "relief_valve_fitted_on": None if unknown else parts.valve_fitted_on,
            "expansion_tank_volume_l": expansion_tank if has_expansion_tank else None,
            "recirculated": place.is_business and random.random() < 0.3,
        }
    )
    _history(
        district, tag, kind, place, parts, installed, setpoint, capacity, today, grader_bias, has_expansion_tank, random
    )


def _history(
    district: District,
    tag: str,
    kind: DemoKind,
    place: _Place,
    parts: "_Parts",
    installed: datetime.date,
    setpoint: float,
    capacity: float,
    today: datetime.date,
    grader_bias: dict[str, float],
    has_expansion_tank: bool,
    random: Generator,
) -> None:
    """Runs the heater's life and its visits."""
    is_tank = kind.kind.is_tank
    has_rod = is_tank and kind.letter != "M"
    own = random.lognormal(0, 0.7)
    use = place.use_l_day / _REFERENCE_L_DAY * (1.0 if is_tank else 0.9)
    temper = 1 + 0.045 * (setpoint - 55)
    size = (189 / capacity) ** (2 / 3) if is_tank else 1.0
    pace = place.zone.build_mm_a_year * own * use**0.9 * temper * size / 12 * (1.0 if is_tank else 0.018)
    limit = 12.0 if is_tank else 0.225
    stick_a_month = 0.0016 * (1 + place.zone.hardness_mg_l / 200) * random.lognormal(0, 0.5)
    visited = random.random() > 0.025
    start = max(installed, today - datetime.timedelta(days=round(365.25 * HISTORY_YEARS)))
    depth = pace * max((start - installed).days / 30.4, 0) * 0.6
    worn, stuck = max((start - (parts.rod_fitted_on or installed)).days, 0) / 365.25 / parts.rod_life_years, False
    next_visit = start + datetime.timedelta(days=int(random.integers(20, 380)))
    drift, day, number, looks = 0.0, start, 0, 0
    cushion = _Cushion(place.pressure_kpa, float(random.lognormal(0, 0.5)), float(random.weibull(2.5)) * 9.5)
    cushion.fitted_on = cushion.charged_on = installed
    while day < today:
        day = min(day + datetime.timedelta(days=30), today)
        drift = 0.92 * drift + random.normal(0, 0.12)
        depth += pace * np.exp(drift) * (1 + 0.5 * min(depth / limit, 1.6))
        depth = min(depth, 25 * limit)  # nothing settles on a floor that is silted to the inlet
        worn += 1 / 12 / parts.rod_life_years
        stuck = stuck or random.random() < stick_a_month
        if not visited or day < next_visit or day >= today:
            continue
        on = _working_day(day - datetime.timedelta(days=int(random.integers(0, 25))))
        number += 1
        visit = {"visit": f"{tag}/{number}", "heater": tag, "on": on, "technician": place.technician}
        bias, depth_before = grader_bias[place.technician], depth
        depth = _clean(district, visit, kind, place, depth, limit, bias, random)
        stuck = _valve(district, visit, stuck, (on - installed).days / 365.25, random)
        if KINDS[kind.kind].fired_from_below:
            _noise(district, visit, depth_before, random)
        if has_expansion_tank and random.random() < 0.7:
            _expansion_tank(district, visit, cushion, on, random)
        if not is_tank and random.random() < 0.5:
            fouling = str(random.choice(list(Fouling), p=[0.4, 0.4, 0.17, 0.03]))
            district.visits.append({**visit, "task": "upkeep", "item": "inlet_screen", "fouling": fouling})
        looks += 1
        if has_rod and (looks % 2 == 1 or worn > 0.4):
            worn = _rod(district, visit, worn, bias, random)
        next_visit = day + datetime.timedelta(days=int(random.normal(350, 35)))
        if random.random() < 0.05:
            next_visit += datetime.timedelta(days=330)
    district.depths_mm[tag] = depth


def _clean(
    district: District,
    visit: Record,
    kind: DemoKind,
    place: _Place,
    depth: float,
    limit: float,
    bias: float,
    random: Generator,
) -> float:
    """A flush or descale, and what it left behind."""
    unit = 12.0 / limit
    seen = depth * unit * np.exp(bias + random.normal(0, 0.45))
    grade = int(np.searchsorted(_EYE_CUTS_MM, seen))
    if random.random() < 0.04:
        grade = int(random.integers(0, 5))
    removed: str | None = values(Removed)[grade]
    if random.random() < 0.08:
        removed = None
    if not kind.kind.is_tank:
        dissolved = round(depth * 1e-3 * 2200 * 0.15 * 900) if random.random() < 0.2 else None
        district.visits.append({**visit, "task": "descale", "removed": removed, "dissolved_g": dissolved})
        return depth * float(random.uniform(0.03, 0.25))
    jetted = seen > 30 and random.random() < 0.3
    share = float(random.beta(18, 4)) if jetted else float(random.beta(7, 4.5))
    sandy = place.zone.supply == "well"
    texture = None if grade == 0 else str(random.choice(["sand", "sand", "stones"] if sandy else list(Texture)[:2]))
    # One ruler, one pair of hands: both depths are off alike.
    off = random.lognormal(0, 0.12)
    measured = random.random() < 0.05
    finding = {
        "task": "flush",
        "method": "jetting" if jetted else str(random.choice(["drain_and_pulse", "pressure_blowout"])),
        "removed": removed,
        "clarity": ["clear", "cloudy", "cloudy", "milky", "murky"][grade],
        "texture": texture,
        "drain_flow": "full" if grade < 3 else str(random.choice(["full", "slow", "slow", "trickle"])),
        "depth_before_mm": round(depth * off, 1) if measured else None,
        "depth_after_mm": round(depth * (1 - share) * off, 1) if measured else None,
    }
    district.visits.append({**visit, **finding})
    return depth * (1 - share)


@dataclass
class _Cushion:
    """An expansion tank: its air creeps out, and one day its bladder tears."""

    supply_kpa: float
    pace: float
    tears_after_years: float
    fitted_on: datetime.date = datetime.date.min
    charged_on: datetime.date = datetime.date.min


def _expansion_tank(district: District, visit: Record, cushion: _Cushion, on: datetime.date, random: Generator) -> None:
    check = {**visit, "task": "expansion_tank_check"}
    if (on - cushion.fitted_on).days / 365.25 > cushion.tears_after_years:
        district.visits.append({**check, "at_valve": "water"})
        district.visits.append({**visit, "task": "expansion_tank_replacement"})
        cushion.fitted_on = cushion.charged_on = on
        cushion.tears_after_years = float(random.weibull(2.5)) * 9.5
        return
    years = max((on - cushion.charged_on).days / 365.25, 0.0)
    left = cushion.supply_kpa - 11.0 * cushion.pace * years + random.normal(0, 8)
    district.visits.append({**check, "at_valve": "air", "precharge_kpa": max(round(left), 0)})
    cushion.charged_on = on


def _noise(district: District, visit: Record, depth_mm: float, random: Generator) -> None:
    heard = depth_mm * np.exp(random.normal(0, 0.6))
    noise = str(list(Noise)[int(np.searchsorted([5.0, 9.0, 18.0, 40.0], heard))])
    rusty = random.random() < 0.02
    district.visits.append({**visit, "task": "look_over", "noise": noise, "rusty_hot_water": rusty})


def _valve(district: District, visit: Record, stuck: bool, age: float, random: Generator) -> bool:
    if random.random() < 0.06:
        district.visits.append({**visit, "task": "relief_valve_exercise", "outcome": "not_tested"})
        return stuck
    weeps = not stuck and random.random() < 0.004 * age
    outcome = "no_flow" if stuck else "flows_and_weeps" if weeps else "flows_and_reseats"
    district.visits.append({**visit, "task": "relief_valve_exercise", "outcome": outcome})
    if (stuck or weeps) and random.random() < 0.9:
        district.visits.append({**visit, "task": "relief_valve_replacement"})
        return False
    return stuck


def _rod(district: District, visit: Record, worn: float, bias: float, random: Generator) -> float:
    seen = worn * np.exp(0.4 * bias + random.normal(0, 0.15))
    grade = int(np.searchsorted([0.12, 0.38, 0.62, 0.9], seen))
    bare = round(float(random.uniform(80, 300))) if grade >= 3 and random.random() < 0.6 else None
    left = max(1 - worn, 0.0)
    thick = round(float(np.sqrt(3.3**2 + left * (20.0**2 - 3.3**2)) + random.normal(0, 0.6)), 1)
    measured = thick if random.random() < 0.07 and bare is None else None
    finding = {
        "task": "anode_inspection",
        "grade": values(RodGrade)[grade],
        "bare_wire_mm": bare,
        "diameter_mm": measured,
    }
    district.visits.append({**visit, **finding})
    if grade >= 3 or (grade == 2 and random.random() < 0.6):
        district.visits.append({**visit, "task": "anode_replacement"})
        return 0.0
    return worn


def _working_day(day: datetime.date) -> datetime.date:
    return day - datetime.timedelta(days=max(day.weekday() - 4, 0))
