"""Customer communication (C01 to C14), tools (T01 to T14) and terms (G01 to G23)."""

import datetime
import re
from pathlib import Path

import pytest

from aquifer.core.planning.kit import KIT
from aquifer.heaters.models import Heater
from aquifer.rounds.models import Appointment, CrewMember, Service
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH
from tests.coverage.walk import Walk

WEB = Path(__file__).parents[2] / "web" / "src"


def walked(as_role, base, **fields):
    walk = Walk(as_role, base)
    walk.heater(**fields)
    return walk


def today_at(site, people, **more):
    member, _ = CrewMember.objects.get_or_create(user=people["technician"])
    today = datetime.date.today()
    monday = today - datetime.timedelta(days=today.weekday())
    return Appointment.objects.create(site=site, week=monday, on=today, member=member, begins=540, minutes=90, **more)


def test_c01_what_is_wrong_and_who_decides_is_taken_down_at_the_call(as_role, forecasted, people):
    walk = walked(as_role, forecasted)
    today_at(walk.at.site, people, said="no hot water, hisses", decides="Ida Brandt", reason="emergency")
    assert "emergency; no hot water, hisses" in walk.found("guide")
    assert "More work is decided by Ida Brandt" in walk.found("guide")
    calls = (WEB / "features" / "rounds" / "Emergency.tsx").read_text()
    assert "What they say" in calls and "Who may approve more work" in calls


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        ("C02", "leave it on until we come"),
        ("C03", "Please clear a good step in front of the heater"),
        ("C03", "open a hot faucet, and who may decide"),
        ("C12", "Afterwards faucets spit air for a moment and the first water is cold or cloudy"),
    ],
)
def test_what_a_customer_is_asked_to_prepare_and_to_expect(entry, words, as_role, forecasted):
    from aquifer.core.kinds import HeaterKind
    from aquifer.core.planning.preparing import preparation
    from aquifer.core.vocabulary import Component

    services = [] if entry == "C02" else [(HeaterKind.GAS_TANK, Component.SEDIMENT)]
    assert any(words in line for line in preparation(services, 1.0))
    if services:
        assert words in walked(as_role, forecasted).found("guide")


def test_c04_what_goes_off_is_announced_first(as_role, forecasted):
    walk = walked(as_role, forecasted)
    order = as_role("technician").get(f"heaters/{walk.at.pk}/guide?component=sediment").json()
    assert order["order"][0] == "arrival"
    assert "Say what goes off, and for how long." in walk.found("guide")


def test_c05_what_is_agreed_at_the_door_has_its_price_and_its_yes(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(agreed__work="a new drain valve", agreed__price="85, with tax", agreed__by="Ida Brandt")
    assert "a new drain valve, for 85, with tax. Agreed by Ida Brandt." in walk.found("report")
    assert "Agreed at the door: a new drain valve" in walk.found("log")
    assert "agreed.work,a new drain valve" in walk.taken("readings.csv")


def test_c06_the_tour_tells_the_valve_to_use_and_the_one_not_to_touch(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.feature("house_shut_off", "sound", of_site=True, form="ball", where="by the hydrant")
    walk.feature(
        "heater_shut_off", "brittle", form="gate", where="above it", do_not_operate=True, use_instead="the ball"
    )
    walk.visit(FLUSH)
    told = walk.found("report")
    assert "All water of the house: ball, by the hydrant." in told
    assert "is not to be touched, it may fail. Use the ball." in told


def test_c07_and_c13_the_owners_year_is_written_in_steps_for_this_heater(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.part("expansion_tank", volume_l=12)
    walk.visit(FLUSH)
    told = walk.found("report")
    for words in (
        "press the pin for a second",
        "the lever of the safety valve",
        "a bucket under its drain",
        "a gauge on",
    ):
        assert words in told


def test_c08_the_sound_of_an_event_what_to_shut_first_and_whom_to_call(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(FLUSH)
    told = walk.found("report")
    assert "roars or steams: gas or breaker off, cold water left on, keep away, call us." in told
    assert "Any water there is a reason to call us." in told


def test_c09_how_soon_it_burns_and_what_to_do_about_the_setting(as_role, forecasted):
    walk = walked(as_role, forecasted)
    walk.visit(verify__tap_c=63, agreed__setting="Ida Brandt; no children")
    told = walk.found("report")
    assert "The setting is as agreed with Ida Brandt; no children." in told
    assert "it can burn a child within" in told and "a mixing valve or a cooler setting" in told


def test_c10_photographs_of_a_visit_are_in_its_report(as_role, forecasted, settings, tmp_path):
    from aquifer.visiting import report

    settings.MEDIA_ROOT = tmp_path
    walk = walked(as_role, forecasted)
    walk.visit(FLUSH)
    about = {"heater_id": walk.at.pk, "visit_client_id": str(walk.last.client_id), "piece": "anode", "caption": "rod"}
    assert send(as_role("technician"), picture(), **about).status_code == 201
    (pair,) = report.content(walk.last)["photographs"]
    assert pair[0] is None and pair[1].caption == "rod"


def test_c11_why_an_old_tank_is_left_alone_is_told_in_plain_words(as_role, forecasted):
    walk = walked(as_role, forecasted, installed_on="2004-05-01", flush_history="never")
    walk.visit(look__noise="quiet")
    assert "We did not flush the tank on purpose" in walk.found("report")
    young = walked(as_role, forecasted, installed_on="2025-05-01")
    young.visit(look__noise="quiet")
    assert "on purpose" not in young.found("report")


def test_c14_what_lies_in_the_tank_is_said_and_drawn_without_blame(as_role, forecasted):
    from aquifer.visiting.drawn_section import seen_inside

    walk = walked(as_role, forecasted)
    walk.visit(flush__removed="heavy")
    assert "Deposit makes a heater noisy and slow, and shortens its life." in walk.found("report")
    assert seen_inside(walk.last) is not None


CARRIED = {
    "T01": ("hot-water hose", "a short one for soaking", "hose cap with washer"),
    "T02": ("two buckets, one low enough", "white cloth or stocking", "towels, rags"),
    "T03": ("flat and Phillips screwdrivers", "small sockets", "one holds, one turns"),
    "T04": ("pressure gauge with hose thread", "digital thermometer"),
    "T05": ("multimeter with millivolts and beeper, a spare, fresh batteries",),
    "T06": ("can of air for jets", "pump for expansion tanks", "wet vacuum"),
    "T07": ("stiff wire or solder rod", "gas nipple as a lever"),
    "T08": ("thread tape, thread paste", "leak spray"),
    "T09": ("3/4 in brass nipple", "full-bore valve"),
    "T13": (
        "abrasive paper for contacts",
        "plain paper for the flame rod",
        "insulating tape",
        "knife, torch, step ladder",
    ),
}


@pytest.mark.parametrize("entry", CARRIED)
def test_tools_are_on_the_list_of_every_truck(entry, as_role, forecasted):
    told = "; ".join(thing for _, things in KIT for thing in things)
    shown = as_role("planner").get(f"stock/{datetime.date.today()}").json()["kit"]
    assert "; ".join(thing for group in shown for thing in group["things"]) == told
    for words in CARRIED[entry]:
        assert words in told


def bought(as_role, base, people, kind, component):
    """The parts of a month of such visits, and what the day's truck brings."""
    site = base["sites"][0]
    for number in range(80):
        heater = Heater.objects.create(
            tag=f"B-{kind}-{number}", site=site, kind=kind, installed_on=datetime.date(2015, 5, 1)
        )
        visit = today_at(site, people)
        Service.objects.create(appointment=visit, heater=heater, component=component, method="inspect", hours=0.5)
    return as_role("planner").get(f"stock/{datetime.date.today()}").json()


PARTS = [
    ("T11", "gas_tank", "sediment", ("thermocouple", "gas control", "igniter or electrode set")),
    ("T11", "mobile_tank", "sediment", ("fuse link",)),
    ("T11", "electric_tank", "sediment", ("element, lower", "thermostat, lower")),
    (
        "T12",
        "condensing_tankless",
        "scale",
        ("mixing valve", "flow switch", "pressure switch", "spark unit with shroud"),
    ),
    ("T12", "condensing_tankless", "scale", ("descaler, jug of {volume_l:4}",)),
    ("T14", "gas_tank", "sediment", ("drain valve 3/4 in", "thermocouple")),
]


@pytest.mark.parametrize(("entry", "kind", "component", "parts"), PARTS)
def test_spares_are_bought_for_the_visits_of_a_month(entry, kind, component, parts, as_role, forecasted, people):
    told = {one["part"]: one["quantity"] for one in bought(as_role, forecasted, people, kind, component)["to_buy"]}
    for part in parts:
        assert told.get(part, 0) >= 1, part


def test_t10_valves_rods_tanks_connectors_and_straps_fit_the_places(as_role, forecasted, people):
    walk = walked(as_role, forecasted)
    walk.part("anode", alloy="aluminium", length_mm=900, count=2, fitted_on=f"{datetime.date.today().year - 7}-06-01")
    walk.part("relief_valve", set_pressure_kpa=860, probe_length_mm=100)
    walk.feature("straps", "none")
    walk.feature("connectors", "corroded")
    walk.feature("tempering_valve", "failed")
    visit = today_at(walk.at.site, people)
    for component in ("anode", "relief_valve"):
        Service.objects.create(appointment=visit, heater=walk.at, component=component, method="inspect", hours=0.5)
    (truck,) = as_role("planner").get(f"stock/{datetime.date.today()}").json()["trucks"]
    brings = " ".join(truck["brings"])
    assert all(words in brings for words in ("straps", "connectors, a pair", "tempering valve"))
    told = " ".join(one["part"] for one in truck["lines"])
    assert "{length_mm:900}" in told and "relief valve {pressure_kpa:860}, probe {length_mm:100}" in told


TERMS = {
    "G01": ("anode rod", "bare wire"), "G02": ("dip tube",), "G03": ("relief valve", "discharge line"),
    "G04": ("sediment", "scale"), "G05": ("kettling",), "G06": ("flush",), "G07": ("vacuum lock",),
    "G08": ("stacking",),
    "G09": ("dielectric union",), "G10": ("thermal expansion", "expansion tank", "precharge"), "G11": ("gas control",),
    "G12": ("thermocouple",), "G13": ("flame rod",), "G14": ("hot-surface igniter", "inducer"), "G15": ("fuse link",),
    "G16": ("air shutter", "orifice", "flame arrestor", "base screen"), "G17": ("drip leg", "drip loop"),
    "G18": ("hybrid", "indirect", "condensing", "on-demand mode"), "G19": ("mixing valve", "cold-water sandwich"),
    "G20": ("flow switch", "differential pressure valve"), "G21": ("backup wrench",),
    "G22": ("static pressure", "creep", "leak-down"), "G23": ("full-bore valve", "Schrader valve"),
}  # fmt: skip
BESIDE = {
    "flush": "drain", "gas control": "Vacation and pilot", "thermocouple": "thermopile", "fuse link": "limit",
    "inducer": "vacuum switch", "stacking": "stratification", "differential pressure valve": "micro-switch",
    "full-bore valve": "ball", "mixing valve": "tempering valve",
}  # fmt: skip
"""Terms that are explained in another's place."""


@pytest.mark.parametrize("entry", TERMS)
def test_terms_are_explained_on_the_glossary_page(entry):
    source = (WEB / "lib" / "glossary.ts").read_text()
    told = dict(re.findall(r"^  (?:'([^']+)'|(?:\w+)):\s*\n?\s*'(.+)',$", source, re.M))
    told |= dict(re.findall(r"^  (\w+):\s*\n?\s*'(.+)',$", source, re.M))
    assert len(told) > 50
    for term in TERMS[entry]:
        assert len(told[term]) > 20, term
        assert BESIDE.get(term, "") in told[term]
