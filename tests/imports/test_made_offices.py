"""The lists of offices that were made by chance come in as what they truly say: where a cell is not understood that is
told, and hardly any is taken for what it is not."""

import datetime
from collections import Counter
from collections.abc import Iterator

import pytest

from aquifer.company.models import Company
from aquifer.heaters.models import Heater
from aquifer.imports.models import ImportRun, RowAction
from tests.conftest import examples
from tests.imports.made_offices import TODAY, Known, Office, office
from tests.imports.test_office_list import brought_in, matched, sent

UNITS = {"us": ("us", "gpg"), "gb": ("metric", "mg_l"), "de": ("metric", "dh")}
IN_OURS = {"gpg": 17.118, "mg/L": 1.0, "°dH": 17.848, "psi": 6.895, "kPa": 1.0, "bar": 100.0}
Judged = tuple[str, object, object]


def compared(made: Office, run: ImportRun) -> Iterator[Judged]:
    """Each field of each heater: what is true of it as far as the list tells, and what came in."""
    heaters = iter(Heater.objects.select_related("site__customer").prefetch_related("parts").order_by("pk"))
    rows = {row.number: row for row in run.rows.all()}
    for number, one in made.rows.items():
        assert rows[number].action == RowAction.CREATE, (number, rows[number].detail)
        for _ in range(one.count):
            yield from _of_heater(made, one, next(heaters))
        for field, truth in (("hardness", one.hardness_mg_l), ("pressure", one.pressure_kpa)):
            told = rows[number].detail.get(field)
            figure, _, unit = (told or "").partition(" ")
            yield field, truth if field in made.tells else None, float(figure) * IN_OURS[unit] if told else None
    assert next(heaters, None) is None, "more heaters came in than there are"


def _of_heater(made: Office, one: Known, heater: Heater) -> Iterator[Judged]:
    site = heater.site
    name = one.company or f"{one.first} {one.last}"
    yield "name", name.casefold(), site.customer.name.casefold()
    street = f"{one.street} {one.number}" if made.tongue == "de" else f"{one.number} {one.street}"
    yield "street", street, site.street
    yield "town", one.town, site.town
    yield "kind", one.kind, heater.kind if heater.kind_seen else None
    yield "size", one.litres, heater.capacity_l
    yield "installed", one.installed and one.installed.year, heater.installed_on and heater.installed_on.year
    nobody_knows = one.last_flush == datetime.date.min
    flush = "unknown" if nobody_knows else one.last_flush.year if one.last_flush else "never"
    yield "flush", flush, heater.last_flush_year or str(heater.flush_history)
    rod = next((part.fitted_on for part in heater.parts.all() if part.kind == "anode"), None)
    tells = made.tells
    if one.kind.endswith("_tank"):
        yield "rod", one.rod_on.year if "rod" in tells and one.rod_on else None, rod and rod.year
    yield "setpoint", one.setpoint_c if "setpoint" in tells else None, heater.setpoint_c
    yield "serial", one.serial if "serial" in tells else "", heater.serial
    yield "maker", one.maker if "make" in tells else "", heater.maker
    yield "place", one.place if "place" in tells else "", heater.location


def _is_same(truth: object, told: object) -> bool:
    """Whether both are the same, but for what a figure was rounded when it was written."""
    if isinstance(truth, int | float) and isinstance(told, int | float):
        return abs(truth - told) <= max(0.04 * abs(truth), 1.0)
    return truth == told


@pytest.mark.parametrize("tongue", ["us", "gb", "de"])
@pytest.mark.parametrize("seed", range(examples(8, 400)))
def test_what_an_office_made_by_chance_writes_is_what_comes_in(db, people, monkeypatch, tongue, seed):
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *given: TODAY)
    company = Company.current()
    company.units, company.hardness_unit = UNITS[tongue]
    company.save()
    made = office(seed, tongue)
    run = brought_in(matched(sent(people, made.text)))
    judged = list(compared(made, run))
    other = [(field, truth, told) for field, truth, told in judged if not _is_same(truth, told)]
    silent = [one for one in other if one[2] not in (None, "", "unknown")]
    assert not silent, (made.header, silent[:5])
    assert len(other) <= len(judged) / 100, (made.header, Counter(field for field, _, _ in other), other[:5])
