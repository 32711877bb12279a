"""The tables that can be brought in: their columns, and what of the register each column fills."""

import datetime
from dataclasses import dataclass, field

from django.db.models import Model

from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.place import FEATURES, FeatureKind
from aquifer.core.readings import READINGS
from aquifer.core.units import WRITTEN, Quantity
from aquifer.core.vocabulary import (
    Alloy,
    Business,
    Clarity,
    Corrosion,
    Disinfectant,
    DrainFlow,
    FlushHistory,
    FlushMethod,
    Fouling,
    Noise,
    Practice,
    Removed,
    RodGrade,
    Supply,
    Task,
    Texture,
    UpkeepItem,
    ValveOutcome,
    VesselPin,
    values,
)
from aquifer.customers.models import Customer, Site
from aquifer.formats.cells import Column, dated, measured, number, text_up_to, whole, word, yes_or_no
from aquifer.heaters.models import Heater, InstallCertainty
from aquifer.places.models import Feature
from aquifer.visits.models import Finding
from aquifer.water.models import WaterTest, Zone

EARLIEST = datetime.date(1950, 1, 1)


@dataclass(frozen=True)
class Reference:
    """A column that names another record by its code."""

    field: str
    model: type[Model]
    code: str


@dataclass(frozen=True)
class Table:
    kind: str
    model: type[Model]
    key: str
    columns: list[Column]
    references: dict[str, Reference] = field(default_factory=dict)
    once: tuple[str, ...] = ()
    """Where there is no key, the columns that together stand once: such records are appended, never changed."""
    beside: frozenset[str] = frozenset()
    """Columns that fill something else than the model's own fields."""


def tables(today: datetime.date) -> dict[str, Table]:
    """Every table by its kind, with dates bounded by ``today``."""
    milligrams = number(0, 5000)
    every = [
        Table(
            "zones",
            Zone,
            "code",
            [
                Column("code", text_up_to(40), required=True),
                Column("name", text_up_to(120), required=True),
                Column("supply", word(values(Supply))),
                Column("note", text_up_to(240)),
                Column("practice", word(values(Practice))),
            ],
        ),
        Table(
            "customers",
            Customer,
            "code",
            [
                Column("code", text_up_to(40), required=True),
                Column("name", text_up_to(160), required=True),
                Column("phone", text_up_to(40)),
                Column("email", text_up_to(200)),
            ],
        ),
        Table(
            "sites",
            Site,
            "code",
            [
                Column("code", text_up_to(40), required=True),
                Column("customer", text_up_to(40), required=True),
                Column("name", text_up_to(160), required=True),
                Column("street", text_up_to(200)),
                Column("town", text_up_to(120)),
                Column("zone", text_up_to(40), required=True),
                Column("softened", yes_or_no),
                Column("people", number(0, 10_000)),
                measured("hot_water_l_per_day", Quantity.VOLUME, 0.1, 1_000_000),
                Column("fixtures", whole(0, 10_000)),
                Column("business", word(values(Business))),
                Column("occupied_share", number(0, 1)),
                Column("dusty", yes_or_no),
                Column("practice", word(values(Practice))),
                measured("static_pressure_kpa", Quantity.PRESSURE, 0, 3000),
                Column("closed_system", yes_or_no),
                Column("hazard", text_up_to(240)),
                Column("shut_off", text_up_to(240)),
                Column("access", text_up_to(240)),
                Column("longitude", number(-180, 180)),
                Column("latitude", number(-90, 90)),
            ],
            {
                "customer": Reference("customer_id", Customer, "code"),
                "zone": Reference("zone_id", Zone, "code"),
            },
        ),
        Table(
            "heaters",
            Heater,
            "tag",
            [
                Column("tag", text_up_to(40), required=True),
                Column("site", text_up_to(40), required=True),
                Column("kind", word(values(HeaterKind)), required=True),
                Column("location", text_up_to(120)),
                Column("maker", text_up_to(80)),
                Column("model", text_up_to(80)),
                Column("serial", text_up_to(80)),
                dated("installed_on", EARLIEST, today),
                Column("install_certainty", word(InstallCertainty.values)),
                Column("install_margin_years", number(0.1, 40)),
                Column("flush_history", word(values(FlushHistory))),
                Column("last_flush_year", whole(1950, today.year)),
                Column("boiler", text_up_to(120)),
                Column("control_setting", text_up_to(80)),
                Column("dip_tube", text_up_to(80)),
                Column("anode_port", text_up_to(80)),
                Column("supply_volts", whole(6, 1000)),
                Column("ignition", word(values(Ignition))),
                Column("vent", word(values(Vent))),
                Column("bank", text_up_to(40)),
                measured("capacity_l", Quantity.VOLUME, 0.1, 20_000),
                measured("setpoint_c", Quantity.TEMPERATURE, 30, 95),
                measured("input_kw", Quantity.POWER, 0, 1000),
                measured("height_mm", Quantity.LENGTH, 100, 10_000),
                measured("diameter_mm", Quantity.LENGTH, 100, 5000),
                measured("drain_port_height_mm", Quantity.LENGTH, 1, 1000),
                measured("probe_height_mm", Quantity.LENGTH, 1, 5000),
                measured("lower_element_height_mm", Quantity.LENGTH, 1, 5000),
                Column("exchanger_area_m2", number(0.005, 20)),
                Column("floor_area_m2", number(0.005, 20)),
                Column("recirculated", yes_or_no),
                Column("burner_hours_per_day", number(0, 24)),
                Column("practice", word(values(Practice))),
                Column("anode_alloy", word(values(Alloy))),
                measured("anode_diameter_mm", Quantity.LENGTH, 5, 100),
                measured("anode_length_mm", Quantity.LENGTH, 50, 5000),
                Column("anode_count", whole(1, 12)),
                dated("anode_fitted_on", EARLIEST, today),
                dated("relief_valve_fitted_on", EARLIEST, today),
                measured("relief_valve_set_pressure_kpa", Quantity.PRESSURE, 100, 3000),
                measured("expansion_tank_volume_l", Quantity.VOLUME, 0.1, 2000),
                measured("expansion_tank_precharge_kpa", Quantity.PRESSURE, 0, 3000),
                dated("expansion_tank_fitted_on", EARLIEST, today),
            ],
            {"site": Reference("site_id", Site, "code")},
            beside=frozenset(
                {
                    "anode_alloy",
                    "anode_diameter_mm",
                    "anode_length_mm",
                    "anode_count",
                    "anode_fitted_on",
                    "relief_valve_fitted_on",
                    "relief_valve_set_pressure_kpa",
                    "expansion_tank_volume_l",
                    "expansion_tank_precharge_kpa",
                    "expansion_tank_fitted_on",
                }
            ),
        ),
        Table(
            "water_tests",
            WaterTest,
            "",
            [
                Column("zone", text_up_to(40), required=True),
                Column("site", text_up_to(40)),
                dated("taken_on", EARLIEST, today, required=True),
                Column("method", text_up_to(80)),
                measured("total_hardness_mg_l", Quantity.HARDNESS, 0, 5000),
                measured("calcium_hardness_mg_l", Quantity.HARDNESS, 0, 5000),
                measured("alkalinity_mg_l", Quantity.HARDNESS, 0, 5000),
                Column("ph", number(4, 11)),
                Column("conductivity_us_cm", number(1, 50_000)),
                measured("source_temperature_c", Quantity.TEMPERATURE, 0, 45),
                Column("suspended_solids_mg_l", milligrams),
                Column("iron_mg_l", number(0, 100)),
                Column("free_chlorine_mg_l", number(0, 20)),
                Column("disinfectant", word(values(Disinfectant))),
            ],
            {"zone": Reference("zone_id", Zone, "code"), "site": Reference("site_id", Site, "code")},
            once=("zone", "site", "taken_on", "method"),
        ),
        Table("visits", Finding, "", _visit_columns(today)),
        Table("features", Feature, "", _feature_columns(today)),
    ]
    return {table.kind: table for table in every}


def _read(name: str) -> Column:
    """A column of readings, within what they can be at all."""
    one, column = READINGS[name], name.partition(".")[2]
    kind = Quantity(one.unit)
    return measured(column, kind, one.low, one.high) if kind in WRITTEN else Column(column, number(one.low, one.high))


def _visit_columns(today: datetime.date) -> list[Column]:
    """Past visits, one row a finding; rows with the same code are one visit."""
    return [
        Column("visit", text_up_to(60), required=True),
        Column("heater", text_up_to(40), required=True),
        dated("on", EARLIEST, today, required=True),
        Column("technician", text_up_to(80)),
        Column("task", word(values(Task)), required=True),
        Column("method", word(values(FlushMethod))),
        Column("removed", word(values(Removed))),
        _read("flush.removed_l"),
        _read("flush.depth_before_mm"),
        _read("flush.depth_after_mm"),
        Column("clarity", word(values(Clarity))),
        Column("texture", word(values(Texture))),
        Column("drain_flow", word(values(DrainFlow))),
        Column("grade", word(values(RodGrade))),
        _read("rod.diameter_mm"),
        _read("rod.bare_wire_mm"),
        Column("outcome", word(values(ValveOutcome))),
        _read("descale.dissolved_g"),
        _read("descale.flow_before_l_min"),
        _read("descale.rise_before_k"),
        _read("descale.flow_after_l_min"),
        _read("descale.rise_after_k"),
        Column("could_not_open", yes_or_no),
        Column("at_valve", word(values(VesselPin))),
        _read("vessel.precharge_kpa"),
        _read("pressure.static_kpa"),
        _read("pressure.creep_kpa"),
        Column("falls", yes_or_no),
        Column("noise", word(values(Noise))),
        Column("corrosion", word(values(Corrosion))),
        Column("rusty_hot_water", yes_or_no),
        Column("valve_drips", yes_or_no),
        Column("element_failed", yes_or_no),
        Column("item", word(values(UpkeepItem))),
        Column("fouling", word(values(Fouling))),
    ]


def _feature_columns(today: datetime.date) -> list[Column]:
    """What stands around the heaters, one row a thing seen."""
    forms = sorted({form for spec in FEATURES for form in spec.forms})
    return [
        Column("site", text_up_to(40), required=True),
        Column("heater", text_up_to(40)),
        Column("kind", word(values(FeatureKind)), required=True),
        Column("form", word(forms)),
        Column("condition", text_up_to(16), required=True),
        Column("where", text_up_to(120)),
        Column("do_not_operate", yes_or_no),
        Column("use_instead", text_up_to(120)),
        Column("note", text_up_to(240)),
        dated("seen_on", EARLIEST, today, required=True),
        Column("seen_by", text_up_to(80)),
    ]
