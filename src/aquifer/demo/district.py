"""The invented district: its five supplies, streets and people. Nobody and nothing here exists."""

from dataclasses import dataclass

from aquifer.core.kinds import HeaterKind


@dataclass(frozen=True)
class DemoZone:
    code: str
    name: str
    supply: str
    note: str
    hardness_mg_l: float
    calcium_share: float
    alkalinity_mg_l: float | None
    ph: float | None
    conductivity_us_cm: float | None
    suspended_mg_l: float
    softened: bool
    share: float
    """Of the district's sites."""
    build_mm_a_year: float
    """True growth of deposit in an ordinary tank: what the forecaster has to find out."""
    streets: tuple[str, ...]


ZONES = (
    DemoZone(
        "UPL",
        "Scarrow upland",
        "mains",
        "moorland reservoirs, soft",
        34,
        0.68,
        26,
        7.7,
        105,
        0.4,
        False,
        0.2,
        0.5,
        ("Moorgate Rise", "Sheepwash Lane", "Scarrow Terrace", "Upper Fennick", "Cairn Close", "Heather Bank"),
    ),
    DemoZone(
        "CHK",
        "Draymoor chalk",
        "mains",
        "deep boreholes in chalk, very hard",
        318,
        0.9,
        262,
        7.3,
        640,
        0.3,
        False,
        0.25,
        14.0,
        ("Tannery Row", "Staithe Lane", "Limekiln Street", "Draymoor Hill", "Quarry Walk", "Harrow Ferry Road"),
    ),
    DemoZone(
        "BLD",
        "Fenn blend",
        "mains",
        "river and borehole blended, turns with the season",
        205,
        0.76,
        None,
        None,
        None,
        1.2,
        False,
        0.25,
        5.0,
        ("Orchard Way", "Weir Street", "Sluice Lane", "Heron Court", "Mill Rise", "Fenn Causeway"),
    ),
    DemoZone(
        "WEL",
        "Pell wells",
        "well",
        "private wells, sand after dry summers",
        168,
        0.74,
        150,
        7.4,
        410,
        9.0,
        False,
        0.15,
        5.0,
        ("Pell Hollow", "Wellhouse Lane", "Gravel Pit Road", "Mill Cottages", "Long Acre", "Badger Drove"),
    ),
    DemoZone(
        "LIN",
        "Linden estate",
        "mains",
        "chalk water, softened for the whole estate",
        312,
        0.9,
        255,
        7.35,
        690,
        0.3,
        True,
        0.15,
        0.3,
        ("Linden Terrace", "Hatch Close", "Larch Drive", "Elder Square", "Rowan Parade", "Alder Steps"),
    ),
)

_FIRST = (
    "Ach",
    "Brind",
    "Cul",
    "Drav",
    "Esk",
    "Farrow",
    "Gar",
    "Hart",
    "Ins",
    "Jor",
    "Kim",
    "Lark",
    "Merri",
    "Neth",
    "Orr",
    "Pru",
    "Rusk",
    "Sal",
    "Tam",
    "Vard",
    "Wend",
    "Yar",
)
_LAST = ("terby", "low", "peck", "ers", "dale", "mere", "ling", "stow", "wick", "ham")
SURNAMES = tuple(first + last for first in _FIRST for last in _LAST)
BUSINESSES = (
    ("Marram Bakery", 900.0), ("Pell Hollow School", 1400.0), ("Harrow Ferry Inn", 1900.0), ("Lowmoor Dental", 420.0),
    ("Reedbank Care Home", 2600.0), ("Saltmarsh Quay Units", 300.0), ("Sallow Court", 1700.0),
    ("Cresswater Pool", 3200.0), ("Fennick Laundry", 2800.0), ("Draymoor Brew House", 1500.0),
    ("Heron Guest House", 1100.0),
    ("Linden Day Nursery", 520.0), ("Weir Street Salon", 640.0), ("Quarry Lodge", 1200.0),
    ("Pell Camping Ground", 1600.0),
)  # fmt: skip
BUSINESS_KINDS = {
    "Marram Bakery": "bakery", "Pell Hollow School": "school", "Harrow Ferry Inn": "lodging",
    "Lowmoor Dental": "clinic", "Reedbank Care Home": "care_home", "Saltmarsh Quay Units": "office",
    "Sallow Court": "lodging", "Cresswater Pool": "camping", "Fennick Laundry": "laundry",
    "Draymoor Brew House": "restaurant", "Heron Guest House": "lodging", "Linden Day Nursery": "school",
    "Weir Street Salon": "salon", "Quarry Lodge": "lodging", "Pell Camping Ground": "camping",
}  # fmt: skip
MAKERS = ("Brackwell", "Ostrand", "Kelmarsh", "Thornfell")
TECHNICIANS = ("Nadia Thornley", "Joss Averill", "Ife Marlowe", "Marek Dunstan", "Petra Lindqvist-Hay", "Callum Orme")
HAZARDS = (
    "Don't touch the plastic valve above the heater: use the house valve by the meter.",
    "Relief discharge ends indoors behind the washing machine: bucket under it first.",
    "Cellar hatch drops: prop it before going down.",
    "Gate valve at the heater spins without closing: shut the house valve.",
    "Small children in the house: keep the hose end watched.",
    "No working carbon-monoxide alarm when last seen: bring a meter.",
)
LOCATIONS = ("garage", "cellar", "airing cupboard", "utility room", "roof space", "plant room", "kitchen cupboard")


@dataclass(frozen=True)
class DemoKind:
    kind: HeaterKind
    share: float
    capacities_l: tuple[float, ...]
    input_kw: float
    letter: str


DISTRICT_KINDS = (
    DemoKind(HeaterKind.GAS_TANK, 0.36, (151, 189, 189, 227, 284), 11.7, "G"),
    DemoKind(HeaterKind.ELECTRIC_TANK, 0.22, (114, 151, 189, 227), 4.5, "E"),
    DemoKind(HeaterKind.HEAT_PUMP_TANK, 0.08, (189, 246, 303), 4.5, "H"),
    DemoKind(HeaterKind.INDIRECT_TANK, 0.06, (151, 227, 300), 0.0, "I"),
    DemoKind(HeaterKind.MOBILE_TANK, 0.03, (23, 38), 3.5, "M"),
    DemoKind(HeaterKind.GAS_TANKLESS, 0.09, (2,), 44.0, "T"),
    DemoKind(HeaterKind.CONDENSING_TANKLESS, 0.10, (2,), 50.0, "C"),
    DemoKind(HeaterKind.ELECTRIC_TANKLESS, 0.03, (1,), 21.0, "L"),
    DemoKind(HeaterKind.SMALL_GAS_TANKLESS, 0.03, (1,), 17.0, "S"),
)
