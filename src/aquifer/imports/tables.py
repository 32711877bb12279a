"""The tables that can be brought in: their columns, and what of the register each column fills."""

import datetime
from dataclasses import dataclass, field

from django.db.models import Model

from aquifer.core.bounds import bound
from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.place import FEATURES, FeatureKind
from aquifer.core.units import WRITTEN, Quantity
from aquifer.core.vocabulary import (
    Alloy,
    Business,
    Clarity,
    Corrosion,
    Disinfectant,
    DrainFlow,
    ExpansionTankPin,
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
    values,
)
from aquifer.customers.models import Customer, Site
from aquifer.formats.cells import Column, dated, measured, number, text_up_to, whole, word, yes_or_no
from aquifer.heaters.models import Heater, InstallCertainty
from aquifer.imports import answers
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
                Column("email", text_up_to(254)),
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
                _figure("site.people"),
                _figure("site.hot_water_l_per_day"),
                _figure("site.fixtures"),
                Column("business", word(values(Business))),
                _figure("site.occupied_share"),
                Column("dusty", yes_or_no),
                Column("practice", word(values(Practice))),
                _figure("site.static_pressure_kpa"),
                Column("closed_system", yes_or_no),
                Column("hazard", text_up_to(240)),
                Column("shut_off", text_up_to(240)),
                Column("access", text_up_to(240)),
                _figure("place.longitude"),
                _figure("place.latitude"),
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
                _figure("heater.install_margin_years"),
                Column("flush_history", word(values(FlushHistory))),
                Column("last_flush_year", whole(1950, today.year)),
                Column("boiler", text_up_to(120)),
                Column("control_setting", text_up_to(80)),
                Column("dip_tube", text_up_to(80)),
                Column("anode_port", text_up_to(80)),
                _figure("heater.supply_volts"),
                Column("ignition", word(values(Ignition))),
                Column("vent", word(values(Vent))),
                Column("bank", text_up_to(40)),
                _figure("heater.capacity_l"),
                _figure("heater.setpoint_c"),
                _figure("heater.input_kw"),
                _figure("heater.height_mm"),
                _figure("heater.diameter_mm"),
                _figure("heater.drain_port_height_mm"),
                _figure("heater.probe_height_mm"),
                _figure("heater.lower_element_height_mm"),
                _figure("heater.exchanger_area_m2"),
                _figure("heater.floor_area_m2"),
                Column("recirculated", yes_or_no),
                _figure("heater.burner_hours_per_day"),
                Column("practice", word(values(Practice))),
                Column("anode_alloy", word(values(Alloy))),
                _figure("anode.diameter_mm", "anode_diameter_mm"),
                _figure("anode.length_mm", "anode_length_mm"),
                _figure("anode.count", "anode_count"),
                dated("anode_fitted_on", EARLIEST, today),
                dated("relief_valve_fitted_on", EARLIEST, today),
                _figure("relief_valve.set_pressure_kpa", "relief_valve_set_pressure_kpa"),
                _figure("expansion_tank.volume_l", "expansion_tank_volume_l"),
                _figure("expansion_tank.precharge_kpa", "expansion_tank_precharge_kpa"),
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
                _figure("water.total_hardness_mg_l"),
                _figure("water.calcium_hardness_mg_l"),
                _figure("water.alkalinity_mg_l"),
                _figure("water.ph"),
                _figure("water.conductivity_us_cm"),
                _figure("water.source_temperature_c"),
                _figure("water.suspended_solids_mg_l"),
                _figure("water.iron_mg_l"),
                _figure("water.free_chlorine_mg_l"),
                Column("disinfectant", word(values(Disinfectant))),
            ],
            {"zone": Reference("zone_id", Zone, "code"), "site": Reference("site_id", Site, "code")},
            once=("zone", "site", "taken_on", "method"),
        ),
        Table("visits", Finding, "", _visit_columns(today)),
        Table("features", Feature, "", _feature_columns(today)),
    ]
    return {table.kind: table for table in every}


MOST_MINUTES = 24 * 60
"""A visit is of one day."""
_COUNTED = {"site.fixtures", "heater.supply_volts", "anode.count"}


def _figure(name: str, column: str = "") -> Column:
    """A column of a figure or a reading, within what it can be at all. Parameters: column, its name in a file where
    that is not the field's."""
    one, column = bound(name), column or name.partition(".")[2]
    if name in _COUNTED:
        return Column(column, whole(int(one.low), int(one.high)))
    if one.unit in set(Quantity) and Quantity(one.unit) in WRITTEN:
        return measured(column, Quantity(one.unit), one.low, one.high)
    return Column(column, number(one.low, one.high))


def _visit_columns(today: datetime.date) -> list[Column]:
    """Past visits, one row a finding, or a reading beside them; rows with the same code are one visit."""
    return [
        Column("visit", text_up_to(60), required=True),
        Column("heater", text_up_to(40), required=True),
        dated("on", EARLIEST, today, required=True),
        Column("technician", text_up_to(80)),
        Column("minutes", whole(1, MOST_MINUTES)),
        Column("task", word(values(Task))),
        Column("method", word(values(FlushMethod))),
        Column("removed", word(values(Removed))),
        _figure("flush.removed_l"),
        _figure("flush.depth_before_mm"),
        _figure("flush.depth_after_mm"),
        Column("clarity", word(values(Clarity))),
        Column("texture", word(values(Texture))),
        Column("drain_flow", word(values(DrainFlow))),
        Column("grade", word(values(RodGrade))),
        _figure("rod.diameter_mm"),
        _figure("rod.bare_wire_mm"),
        Column("outcome", word(values(ValveOutcome))),
        _figure("descale.dissolved_g"),
        _figure("descale.flow_before_l_min"),
        _figure("descale.rise_before_k"),
        _figure("descale.flow_after_l_min"),
        _figure("descale.rise_after_k"),
        Column("could_not_open", yes_or_no),
        Column("at_valve", word(values(ExpansionTankPin))),
        _figure("expansion_tank.precharge_kpa"),
        _figure("pressure.static_kpa"),
        _figure("pressure.creep_kpa"),
        Column("falls", yes_or_no),
        Column("noise", word(values(Noise))),
        Column("corrosion", word(values(Corrosion))),
        Column("rusty_hot_water", yes_or_no),
        Column("valve_drips", yes_or_no),
        Column("element_failed", yes_or_no),
        Column("item", word(values(UpkeepItem))),
        Column("fouling", word(values(Fouling))),
        Column("fitted_alloy", word(values(Alloy))),
        _figure("anode.diameter_mm", "fitted_diameter_mm"),
        _figure("anode.length_mm", "fitted_length_mm"),
        _figure("anode.count", "fitted_count"),
        _figure("relief_valve.set_pressure_kpa", "fitted_set_pressure_kpa"),
        _figure("expansion_tank.volume_l", "fitted_volume_l"),
        Column("fitted_build", text_up_to(80)),
        Column("reading", word(answers.NAMES)),
        Column("value", text_up_to(120)),
        Column("unit", text_up_to(20)),
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
