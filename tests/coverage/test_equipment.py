"""Equipment and what stands around it (E01 to E42): entered, shown, taken out and used, each."""

import pytest

from tests.coverage.walk import Entry, Walk

HEATERS, SITES, FEATURES = "records/heaters.csv", "records/sites.csv", "records/features.csv"
DETAILS, READINGS, VISITS = "records/details.csv", "readings.csv", "records/visits.csv"


def both(*steps):
    """Several acts, one after the other."""
    return lambda w: [step(w) for step in steps]


def heater(**fields):
    return lambda w: w.heater(**fields)


def part(kind, **fields):
    return lambda w: w.part(kind, **fields)


def feature(kind, condition, **fields):
    return lambda w: w.feature(kind, condition, **fields)


def site(**fields):
    return lambda w: w.site(**fields)


def visit(*findings, **answers):
    return lambda w: w.visit(*findings, **answers)


def detail(kind, **told):
    """Of a part, told on a new one."""
    return lambda w: w.part(kind, details=told)


ENTRIES = {
    "E01": Entry(heater(kind="condensing_tankless"), ("condensing_tankless",), (HEATERS, "condensing_tankless"),
                 ("log", '"scale"')),
    "E02": Entry(both(heater(kind="electric_tank", maker="Thornfell", model="E50", serial="K1", supply_volts=120,
                             input_kw=3)),
                 ("Thornfell", "E50", '"K1"', "120"), (HEATERS, "Thornfell"), ("guide", "120 V")),
    "E03": Entry(heater(install_certainty="estimated", install_margin_years=3), ("age estimated within 3 years",),
                 (HEATERS, "estimated"), ("heater", "age estimated within 3 years")),
    "E04": Entry(heater(flush_history="never", details={"flushed_by": "its owner", "repairs": "element in 2016"}),
                 ("never flushed as far as known", "its owner"), (DETAILS, "element in 2016"),
                 ("guide", "Repaired before us: element in 2016.")),
    "E05": Entry(visit(settings__left="dial at B"), ("Setting as left: dial at B",), (HEATERS, "dial at B"),
                 ("guide", "dial at B")),
    "E06": Entry(heater(height_mm=1250, details={"insulation_mm": 25, "lining": "glass"}), ("1250", "glass"),
                 (DETAILS, "insulation_mm"), ("guide", '"value": 25')),
    "E07": Entry(heater(dip_tube="left, jets, cracked"), ("left, jets, cracked",), (HEATERS, "left, jets, cracked"),
                 ("guide", "left, jets, cracked")),
    "E08": Entry(both(heater(anode_port="own", details={"head_room_mm": 300}),
                      part("anode", alloy="magnesium", count=2, length_mm=900)),
                 ('"count": 2', "magnesium", "head_room_mm"), (DETAILS, "head_room_mm"),
                 ("guide", "bring one in links")),
    "E09": Entry(part("relief_valve", set_pressure_kpa=1034, rating_kw=30, probe_length_mm=150,
                      details={"port": "top", "tag": "missing"}),
                 ("1034", '"port": "top"'), (DETAILS, "missing"), ("guide", "The relief valve has no tag")),
    "E10": Entry(feature("discharge_pipe", "threaded", form="copper", details={"end_mm": 600, "comes_off": "cut only"}),
                 ("cut only", "threaded at its end"), (FEATURES, "threaded"), ("guide", "ends 600 mm above the floor")),
    "E11": Entry(detail("drain_valve", turn="quarter turn", grip="slot", bore_mm=19, place="side", cap="none"),
                 ("quarter turn",), (DETAILS, "bore_mm"), ("guide", "bring a flat screwdriver")),
    "E12": Entry(feature("tempering_valve", "failed"), ("lets hot water through unmixed",),
                 (FEATURES, "tempering_valve"), ("open", "Tempering valve: lets hot water through unmixed")),
    "E13": Entry(feature("heater_shut_off", "stiff", form="gate", where="above it", do_not_operate=True,
                         use_instead="the house shut-off"),
                 ("above it", "the house shut-off"), (FEATURES, "above it"), ("guide", "don't touch it")),
    "E14": Entry(both(feature("house_shut_off", "sound", of_site=True, form="ball", where="by the hydrant",
                              details={"occupant": "do not find it"}), visit(flush__removed="trace")),
                 ("by the hydrant", "do not find it"), (FEATURES, "by the hydrant"), ("report", "by the hydrant")),
    "E15": Entry(feature("hot_outlet_valve", "spins"), ("spins without closing",), (FEATURES, "hot_outlet_valve"),
                 ("open", "Hot outlet valve")),
    "E16": Entry(feature("connectors", "corroded", form="galvanised", details={"marks": "not marked"}), ("not marked",),
                 (DETAILS, "not marked"), ("guide", "Hot and cold are not marked")),
    "E17": Entry(detail("expansion_tank", air_valve="down", support="the pipe alone"), ("the pipe alone",),
                 (DETAILS, "the pipe alone"), ("guide", "bring a strap")),
    "E18": Entry(both(feature("recirculation_pump", "uncontrolled", of_site=True), part("circulation_pump")),
                 ("runs without control",), (FEATURES, "uncontrolled"), ("open", "Recirculation pump")),
    "E19": Entry(both(feature("well", "sandy", of_site=True), feature("softener", "bypassed", of_site=True)),
                 ("draws sand", "bypassed"), (FEATURES, "sandy"), ("open", "spin-down filter")),
    "E20": Entry(visit(pressure__static_kpa=640), ("640",), (READINGS, "640"), ("log", "fit_regulator")),
    "E21": Entry(feature("drain_route", "rises", form="garden",
                         details={"length_m": 18, "watched_by": "a second person"}),
                 ("a second person",), (DETAILS, "length_m"), ("guide", "Bring 18.0 m of hose.")),
    "E22": Entry(heater(details={"nearest_tap": "laundry tub"}), ("laundry tub",), (DETAILS, "laundry tub"),
                 ("guide", '"hot_tap": "laundry tub"')),
    "E23": Entry(feature("gas_shut_off", "leaks", where="behind it"), ("leaks gas",), (FEATURES, "gas_shut_off"),
                 ("open", "licensed work")),
    "E24": Entry(detail("gas_control", scale="A 49, B 54, C 60", status_light="two blinks"), ("A 49, B 54",),
                 (DETAILS, "two blinks"), ("guide", "scale of its dial: A 49, B 54, C 60")),
    "E25": Entry(detail("thermocouple", form="thermopile", extra_limit="yes"), ("thermopile",), (DETAILS, "thermopile"),
                 ("guide", "what it is: thermopile")),
    "E26": Entry(both(heater(ignition="hot_surface"), detail("igniter", form="hot surface")), ("hot surface",),
                 (DETAILS, "hot surface"), ("guide", '"ignition": ["hot_surface"]')),
    "E27": Entry(detail("burner", jet="42", shutter="half", arrestor="damaged"), ("damaged",), (DETAILS, "damaged"),
                 ("guide", "Its flame arrestor is damaged")),
    "E28": Entry(feature("vent", "falls", form="natural draught", details={"baffle": "missing"}),
                 ("slopes the wrong way",), (FEATURES, "falls"), ("guide", "baffle is missing")),
    "E29": Entry(feature("combustion_air", "starved"), ("closed off",), (FEATURES, "combustion_air"),
                 ("open", "carbon monoxide")),
    "E30": Entry(both(heater(kind="electric_tank"), part("lower_element", details={"watts": 4500, "thread": "screwed"}),
                      part("upper_thermostat", details={"reset": "there", "limit_c": 82})),
                 ("4500", "screwed", '"reset": "there"'), (DETAILS, "limit_c"), ("guide", "power 4500 W")),
    "E31": Entry(both(heater(kind="electric_tank"), feature("breaker", "scorched", where="cellar, number 7")),
                 ("cellar, number 7",), (FEATURES, "scorched"), ("guide", "cellar, number 7")),
    "E32": Entry(both(heater(kind="condensing_tankless"), feature("condensate_line", "bucket"),
                      part("trap", details={"filter": "used up"})),
                 ("ends in a bucket", "used up"), (FEATURES, "condensate_line"), ("open", "Condensate line")),
    "E33": Entry(heater(kind="indirect_tank", boiler="gas, 18 kW",
                        details={"drain_place": "left; the boiler's is right"}),
                 ("gas, 18 kW", "left; the boiler's is right"), (DETAILS, "the boiler's is right"),
                 ("guide", "left; the boiler's is right")),
    "E34": Entry(both(heater(kind="mobile_tank", details={"altitude_m": 1800}), part("board", build="red"),
                      part("fuse_link"), part("electrode")),
                 ("altitude_m", '"board"', "fuse_link"), (DETAILS, "altitude_m"), ("guide", "gas_gap_mm")),
    "E35": Entry(both(heater(kind="small_gas_tankless"), part("solenoid"), part("jets"), part("pressure_valve")),
                 ("solenoid", "jets", "pressure_valve"), (HEATERS, "small_gas_tankless"), ("guide", "cells_volts")),
    "E36": Entry(both(heater(kind="condensing_tankless"), part("fan"), part("exhaust_sensor"),
                      part("spark_unit", details={"shroud": "cracked"}), part("pressure_switch"), part("insulation")),
                 ("exhaust_sensor", "cracked"), (DETAILS, "cracked"), ("guide", "flow_switch.turns")),
    "E37": Entry(both(part("drain_valve", build="black actuator"),
                      lambda w: w.planner.post("campaigns", {
                          "name": "Black", "part": "drain valve", "part_kind": "drain_valve", "build": "black",
                          "doubtful_look": "closed", "severity": "defect"})),
                 ("black actuator",), ("campaigns/{campaign}.csv", "black actuator"), ("open", "Black: look at")),
    "E38": Entry(feature("drain_pan", "wet"), ("wet",), (FEATURES, "drain_pan"), ("open", "Drain pan: wet")),
    "E39": Entry(both(feature("straps", "none"), feature("co_alarm", "dead", of_site=True),
                      feature("combustibles", "near")),
                 ("none though required", "silent when tested"), (FEATURES, "co_alarm"), ("open", "beside the flame")),
    "E40": Entry(feature("access", "ladder", details={"hindrance": "insects"}), ("by ladder", "insects"),
                 (DETAILS, "insects"), ("guide", "At the heater: insects.")),
    "E41": Entry(visit(noted="condensate into a bucket", flush__removed="trace"), ("condensate into a bucket",),
                 (VISITS, "flush"), ("open", "condensate into a bucket")),
    "E42": Entry(both(site(details={"owner": "Harbor Trust", "tenant": "Ida Brandt", "pays": "owner",
                                    "approves": "Ida Brandt, 555 0141"}),
                      feature("people_at_risk", "frail", of_site=True)),
                 ("Harbor Trust", "frail people"), (DETAILS, "Harbor Trust"),
                 ("guide", "More work is approved by Ida")),
}  # fmt: skip


@pytest.mark.parametrize("entry", ENTRIES)
def test_equipment(entry, as_role, forecasted):
    from aquifer.open_ends.models import Campaign

    walk, told = Walk(as_role, forecasted), ENTRIES[entry]
    if "{campaign}" in told.out[0]:
        told.enter(walk)
        made = Campaign.objects.get()
        assert told.out[1] in walk.taken(told.out[0].format(campaign=made.pk))
        assert told.shows[0] in walk.found("heater") and told.uses[1] in walk.found(told.uses[0])
        return
    walk.check(told)
