"""No sentence of the core says a figure in a unit of its own: each has its quantity, and is told in the company's."""

import datetime
import re
from dataclasses import fields, replace
from itertools import product

import pytest

from aquifer.core import details, observations
from aquifer.core.judgement import PRACTICE_QUESTIONS, judge, on_site
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.kit import KIT
from aquifer.core.planning.parts import Fitted, wants
from aquifer.core.planning.preparing import preparation
from aquifer.core.procedures.library import library
from aquifer.core.reasons import Found, Standing, moved, told
from aquifer.core.successor import Body, differences
from aquifer.core.units import METRIC, US, HardnessUnit, Quantity, System, figure, table, worded
from aquifer.core.vocabulary import Component, ExpansionTankPin, Method, Removed, RodGrade, ValveOutcome
from tests.core.test_judgement import PLAIN

METRIC_UNIT = re.compile(r"\b(mm|cm|kPa|degC|mg/L|L/min|litres?|kW)\b|°C|\d ?(L|K|m|g|kg)\b")
US_UNITS = table(System.US, HardnessUnit.GPG)


def metric_in(text: str) -> str | None:
    found = METRIC_UNIT.search(worded(text, US_UNITS))
    return found and f"{found[0]!r} in {text!r}"


def spoken():
    """Every sentence of the procedures and what is around them."""
    for name, procedure in library().procedures.items():
        for step in procedure.steps:
            for text in (step.do, step.why, step.caution, step.expect, step.tool, step.out_says):
                yield f"{name}.{step.id}", text
            for other in step.deviations:
                yield f"{name}.{step.id}", other.says
    for rule in library().rules:
        yield rule.name, rule.says
    for name, one in library().endings.items():
        yield name, f"{one.raises} {one.customer}"
    for name, practice in library().practices.items():
        yield name, " ".join((practice.question, *practice.options.values()))


def test_no_step_rule_ending_or_practice_says_a_metric_unit_to_a_company_in_us_units():
    told = list(spoken())
    assert len(told) > 900
    assert [f"{where}: {wrong}" for where, text in told if (wrong := metric_in(text))] == []


@pytest.mark.parametrize("kind", list(HeaterKind))
def test_no_verdict_does(kind):
    facts = [
        replace(PLAIN, kind=kind, **more)
        for more in (
            {},
            {"depth_mm": 141.0, "drain_port_mm": 38.0},
            {"pressure_kpa": 640.0},
            {"over_after_service": 0.9, "setpoint_c": 62.0},
            {"softener_suspected": 0.9, "hardness_mg_l": 320.0},
            {"was_flushed": False, "age_years": 8.0, "depth_mm": 90.0},
        )
    ]
    lines = []
    for one, side in product(facts, range(2)):
        practice_options = [options[min(side, len(options) - 1)].value for options in PRACTICE_QUESTIONS]
        lines += [line for told in judge(one, practice_options) for line in told.because]
        lines += [
            x
            for at in on_site.on_site_rules(one, practice_options)
            for case in at.cases
            for x in case.judgement.because
        ]
    assert len(lines) > 100
    assert [wrong for line in lines if (wrong := metric_in(line))] == []


def test_no_reason_for_a_moved_date_does():
    on = datetime.date(2027, 1, 1)
    given = {
        "removed": Removed.HEAVY, "depth_mm": 12.0, "rod": RodGrade.HALF, "bare_mm": 120.0,
        "outcome": ValveOutcome.FLOWS_AND_WEEPS, "pin": ExpansionTankPin.AIR, "precharge_kpa": 350.0,
    }  # fmt: skip
    assert set(given) == {one.name for one in fields(Found)} - {"replaced"}
    lines = []
    for component in Component:
        before = Standing(component, on, on, on, Method.CLEAN, 0.4, 0.5, 1.0)
        for found in (
            None,
            Found(**given),
            Found(**given, replaced=True),
            *(Found(**{k: v}) for k, v in given.items()),
        ):
            lines.append(told(moved(before, before, found).reasons))
    assert any("{" in line for line in lines)
    assert [wrong for line in lines if (wrong := metric_in(line))] == []


@pytest.mark.parametrize("kind", list(HeaterKind))
def test_neither_a_part_nor_what_to_prepare_does(kind):
    own = Fitted("magnesium", 1, None, 928.0, 1034.0, 150.0, 18.0)
    parts = [one.part for c in Component if c is not Component.TANK for one in wants(kind, c, 0.5, own)]
    lines = [*parts, *preparation([(kind, c) for c in Component], 2.0), *preparation([], 1.0)]
    assert [wrong for line in lines if (wrong := metric_in(line))] == []
    assert "relief valve 150 psi, probe 5.91 in" in [worded(part, US) for part in parts]


@pytest.mark.parametrize("value", [0.0, 0.0005, -6.9, 1034.0, 123456.0])
def test_a_figure_in_a_sentence_is_the_figure_that_was_put_in(value):
    told = worded(
        figure(Quantity.TEMPERATURE, value), {Quantity.TEMPERATURE: replace(METRIC[Quantity.VOLUME], decimals=6)}
    )
    assert float(told.split()[0]) == pytest.approx(value, rel=1e-5)


def told_by_tables():
    """Every sentence of what is looked at, told besides, carried, and of a successor that is unlike."""
    for one in observations.OBSERVATIONS:
        yield one.field, " ".join([one.ask, one.says, *(f"{look.words} {look.advice}" for look in one.looks)])
    for known in (details.OF_HEATER, details.OF_SITE, *details.OF_PART.values(), *details.OF_FEATURE.values()):
        for detail in known:
            for value in detail.words or ((detail.high,) if detail.unit else ("some",)):
                told = {detail.name: value}
                words = [*details.worded(known, told), *details.to_know(known, told)]
                yield detail.name, " ".join([detail.ask, *words])
    for group, things in KIT:
        for thing in things:
            yield group, thing
    old = Body(HeaterKind.GAS_TANK, 189, 11.7, 240, 1250, 520, "natural")
    for other in (Body(HeaterKind.GAS_TANK, 300, 22, 120, 1500, 620, "powered"), replace(old, capacity_l=100)):
        yield "successor", " ".join(differences(old, other, 10.0))


def test_no_table_of_what_is_seen_and_carried_says_a_metric_unit_to_a_company_in_us_units():
    told = list(told_by_tables())
    assert len(told) > 120
    assert [f"{where}: {wrong}" for where, text in told if (wrong := metric_in(text))] == []
