"""One table says what a figure can be: the wire, files and cases take it from there and say nothing of their own."""

import datetime
import math

import pytest
from pydantic import TypeAdapter, ValidationError

from aquifer.core.bounds import FIGURES, bound
from aquifer.core.case.document import Case
from aquifer.core.readings import READINGS
from aquifer.formats.cells import BadCell
from aquifer.imports.tables import tables

OF = {}
for name in (*FIGURES, *(one for one, reading in READINGS.items() if reading.finding)):
    OF.setdefault(name.partition(".")[2], set()).add((bound(name).low, bound(name).high))
LIVED = ("LivedIn", "LivesIn", "PaperIn", "ExchangerLivesIn", "ExchangerPaperIn")
OTHERS = {
    "SlotsIn/people",
    "BookingIn/people",
    *(f"{one}/{name}" for one in LIVED for name in ("people", "capacity_l")),
}
"""Figures of another thing under the same name: how many of ours come, what Bench can show."""
TODAY = datetime.date(2026, 11, 24)


def figures(schema, at=""):
    """Every figure of a JSON schema with its least and most, by where it stands."""
    if isinstance(schema, list):
        for one in schema:
            yield from figures(one, at)
        return
    if not isinstance(schema, dict):
        return
    for name, one in schema.get("properties", {}).items():
        numbers = [part for part in (one, *one.get("anyOf", [])) if part.get("type") in ("number", "integer")]
        for part in numbers:
            yield f"{at}/{name}", name, part.get("minimum"), part.get("maximum"), set(part) & {
                "exclusiveMinimum", "exclusiveMaximum",
            }  # fmt: skip
    for name, one in schema.items():
        yield from figures(one, f"{at}/{name}" if name not in ("properties", "$defs") else at)


def sent_in():
    """The figures of every body that the API takes."""
    from tests.described import description

    schemas = description()["components"]["schemas"]
    taken = {name: one for name, one in schemas.items() if name.endswith(("In", "Patch", "Fields"))}
    return [(f"{name}{at}", *rest) for name, one in taken.items() for at, *rest in figures(one)]


def test_every_figure_that_is_sent_in_has_the_tables_bounds():
    found = [one for one in sent_in() if one[1] in OF and one[0] not in OTHERS]
    assert len(found) >= 60
    assert [one for one in found if (one[2], one[3]) not in OF[one[1]] or one[4]] == []


def test_every_figure_of_a_case_has_the_tables_bounds():
    own = {"relief_valve_target_pfd": "relief_valve_target"}
    found = [one for one in figures(Case.model_json_schema()) if own.get(one[1], one[1]) in OF]
    assert len(found) >= 50
    assert [one for one in found if (one[2], one[3]) not in OF[own.get(one[1], one[1])] or one[4]] == []


PARTS = ("anode", "relief_valve", "expansion_tank")


def columns():
    """Every column of a figure that a file can have, with the figure's names."""
    for table in tables(TODAY).values():
        for column in table.columns:
            of = next((one for one in PARTS if column.name.startswith(f"{one}_")), None)
            field = column.name.removeprefix(f"{of}_") if of else column.name
            if field in OF:
                yield pytest.param(column, OF[field], id=f"{table.kind}.{column.name}")


@pytest.mark.parametrize(("column", "spans"), columns())
def test_every_column_of_a_file_has_the_tables_bounds(column, spans):
    def taken(value):
        try:
            return math.isclose(column.read(f"{value:.10g}"), value)
        except BadCell:
            return False

    assert [
        (low, high)
        for low, high in spans
        if taken(low) and taken(high) and not taken(low - 1) and not taken(high + 1) and not taken(high * 1e6 + 1)
    ]


def test_what_no_number_is_never_within():
    case = TypeAdapter(Case)
    for told in ("NaN", "Infinity", "-Infinity"):
        with pytest.raises(ValidationError):
            case.validate_json(f'{{"format": "aquifer-case/3", "as_of": "2026-11-24", "site": {{"people": {told}}}}}')
