"""Where the invented district's sites lie, and what stands around their heaters.

The district is put where there is open sea, so that none of its places is anybody's.
"""

import datetime
from typing import Any

import numpy as np

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.place import FEATURES, FeatureKind, Severity, matters_to

WEST, SOUTH = -28.40, -41.30
_CENTRES = {"UPL": (0.05, 0.17), "CHK": (0.20, 0.15), "BLD": (0.13, 0.08), "WEL": (0.23, 0.04), "LIN": (0.04, 0.06)}
_RADII = {"UPL": 0.05, "CHK": 0.055, "BLD": 0.045, "WEL": 0.04, "LIN": 0.03}

Record = dict[str, Any]
"""A row of one of the demo's files."""


def outline(code: str) -> list[list[float]]:
    """A zone's ring of [longitude, latitude], rounded by hand as districts are."""
    random = np.random.default_rng(sum(code.encode()))
    east, north = _CENTRES[code]
    angles = np.linspace(0, 2 * np.pi, 14, endpoint=False)
    radii = _RADII[code] * random.uniform(0.85, 1.12, angles.size)
    ring = [
        [round(WEST + east + 1.3 * r * np.cos(a), 5), round(SOUTH + north + r * np.sin(a), 5)]
        for a, r in zip(angles, radii, strict=True)
    ]
    return [*ring, ring[0]]


def located(site: Record, random: np.random.Generator) -> None:
    """Give a site a point inside its zone."""
    east, north = _CENTRES[site["zone"]]
    far, angle = 0.78 * _RADII[site["zone"]] * np.sqrt(random.random()), 2 * np.pi * random.random()
    site["longitude"] = round(WEST + east + 1.3 * far * float(np.cos(angle)), 5)
    site["latitude"] = round(SOUTH + north + far * float(np.sin(angle)), 5)


_WHERE = {
    FeatureKind.HEATER_SHUT_OFF: ("above the tank", "behind the tank", "at the wall, knee high"),
    FeatureKind.HOUSE_SHUT_OFF: ("under the stairs", "in the utility room", "in the cellar by the street wall"),
    FeatureKind.METER_VALVE: ("in the pit at the gate", "in the meter box outside"),
    FeatureKind.GAS_SHUT_OFF: ("left of the heater", "below the gas control"),
    FeatureKind.BREAKER: ("in the panel, second row", "beside the heater", "in the hall panel, number 14"),
    FeatureKind.DRAIN_ROUTE: ("laundry room", "yard gully", "shower next door"),
    FeatureKind.DISCHARGE_PIPE: ("to the outside wall", "down beside the tank"),
    FeatureKind.CO_ALARM: ("on the landing", "outside the bedrooms"),
}
_ALWAYS = frozenset(_WHERE) | {FeatureKind.TANK_DRAIN, FeatureKind.VENT, FeatureKind.ACCESS}


def features(
    sites: list[Record], heaters: list[Record], today: datetime.date, random: np.random.Generator
) -> list[Record]:
    """What technicians wrote down of each place: most of what matters most, some of the rest."""
    at_site: dict[str, list[Record]] = {}
    for heater in heaters:
        at_site.setdefault(heater["site"], []).append(heater)
    rows = []
    for site in sites:
        feature_kinds: set[FeatureKind] = set()
        if random.random() < 0.12:
            continue  # nobody has written anything down yet
        for heater in at_site.get(site["code"], []):
            for spec in matters_to(HeaterKind(heater["kind"])):
                if spec.kind in (FeatureKind.SOFTENER, FeatureKind.WELL, FeatureKind.LEAK_PATH):
                    continue
                wanted = 0.85 if spec.kind in _ALWAYS else 0.25
                if (spec.of_site and spec.kind in feature_kinds) or random.random() > wanted:
                    continue
                feature_kinds.add(spec.kind)
                rows.append(_feature(site, None if spec.of_site else heater, spec.kind, today, random))
            rows += _leak_path(site, heater, today)
        rows += _own_water(site, today)
    return rows


def _leak_path(site: Record, heater: Record, today: datetime.date) -> list[Record]:
    """Where a leak of a tank would run, of two in three."""
    draw = sum(f"{site['code']}{heater['tag']}".encode()) % 12
    if not KINDS[HeaterKind(heater["kind"])].is_tank or draw > 7:
        return []
    condition = ("sound", "floor", "floor", "floor", "rooms", "rooms", "rooms", "below")[draw]
    row = {"site": site["code"], "heater": heater["tag"], "kind": "leak_path", "condition": condition}
    return [row | {"seen_on": today - datetime.timedelta(days=30 + 17 * draw), "do_not_operate": False}]


def _own_water(site: Record, today: datetime.date) -> list[Record]:
    """The softener and the well that a site has, most of them in order."""
    draw = sum(site["code"].encode()) % 12
    seen_on = today - datetime.timedelta(days=40 + 31 * draw)
    row = {"site": site["code"], "seen_on": seen_on, "do_not_operate": False}
    rows = []
    if site["softened"]:
        condition = {0: "out_of_salt", 1: "bypassed"}.get(draw, "sound")
        rows.append(row | {"kind": "softener", "form": "ion exchange", "condition": condition, "where": "by the meter"})
    if site["zone"] == "WEL":
        condition = {0: "sandy", 1: "sandy", 2: "rusty"}.get(draw, "sound")
        rows.append(row | {"kind": "well", "form": "drilled", "condition": condition, "where": "behind the house"})
    return rows


def _feature(
    site: Record, heater: Record | None, kind: FeatureKind, today: datetime.date, random: np.random.Generator
) -> Record:
    spec = next(feature for feature in FEATURES if feature.kind is kind)
    odds = [_odds(one.severity) for one in spec.conditions]
    condition = spec.conditions[int(random.choice(len(odds), p=np.array(odds) / sum(odds)))]
    is_water = spec.is_valve and kind not in (FeatureKind.GAS_SHUT_OFF, FeatureKind.BREAKER, FeatureKind.BOILER_SWITCH)
    avoid = is_water and condition.value in ("spins", "brittle")
    instead = "the valve at the meter" if kind is FeatureKind.HOUSE_SHUT_OFF else "the house shut-off"
    return {
        "site": site["code"],
        "heater": heater["tag"] if heater else None,
        "kind": kind.value,
        "form": str(random.choice(spec.forms)) if spec.forms else None,
        "condition": condition.value,
        "where": str(random.choice(_WHERE[kind])) if kind in _WHERE else None,
        "do_not_operate": avoid,
        "use_instead": instead if avoid else None,
        "seen_on": today - datetime.timedelta(days=int(random.integers(20, 1300))),
    }


def _odds(severity: Severity | None) -> float:
    return {None: 40.0, Severity.NOTE: 5.0, Severity.DEFECT: 1.6, Severity.DANGER: 0.28}[severity]


def histories(heaters: list[Record], today: datetime.date, random: np.random.Generator) -> None:
    """What is only guessed of some heaters' past, and banks of one kind at one site."""
    by_site: dict[tuple[str, str], list[Record]] = {}
    for heater in heaters:
        by_site.setdefault((heater["site"], heater["kind"]), []).append(heater)
        if heater["install_certainty"] == "estimated":
            heater["install_margin_years"] = int(random.choice([1, 2, 3, 5]))
        age = (today - heater["installed_on"]).days / 365.25 if heater["installed_on"] else 9.0
        draw = random.random()
        if age > 5.5 and draw < 0.22:
            heater["flush_history"] = "never" if draw < 0.08 else "unknown" if draw < 0.14 else "about"
        if heater.get("flush_history") == "about":
            heater["last_flush_year"] = today.year - 5 - int(random.integers(0, max(int(age) - 5, 1)))
        if heater["kind"] == "indirect_tank":
            heater["boiler"] = str(random.choice(["oil boiler", "gas boiler, floor standing", "pellet boiler"]))
        dials = ("B", "C", "hot triangle", "A")
        if heater["kind"] == "gas_tank" and random.random() < 0.6:
            heater["control_setting"] = f"dial at {random.choice(dials)}"
    for (_, kind), ones in by_site.items():
        if len(ones) >= 2:
            for heater in ones:
                heater["bank"] = "bank " + kind.split("_")[0]


SEASONS = {"BLD": ("dry summer, more from the boreholes", "CHK", 0.3, 0.5)}
"""By zone: the season's name, the water that is mixed in, for which share of the year, as which share of the volume."""
OPEN_ENDS = (
    ("temporary_fix", "defect", "Drip at the cold nipple stopped with tape: renew the nipple at the next drain."),
    ("missing_part", "defect", "One retaining clip of the flow sensor is missing: bring one."),
    ("defect", "danger", "Switch was scorched and only taped: left off, electrician needed."),
    ("temporary_fix", "note", "Outer cover held by two screws of four."),
    ("to_ask", "note", "Tenant asks whether the loop may run at night."),
    ("defect", "defect", "Relief valve has a short probe: it does not reach the water it should feel."),
)
CAMPAIGN = {
    "name": "Kelmarsh mixing valves",
    "part": "mixing valve",
    "maker": "Kelmarsh",
    "model": "C2",
    "doubtful_look": "its actuator is grey and open at the back",
    "sound_look": "black and closed",
    "severity": "defect",
}
