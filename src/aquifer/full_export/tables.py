"""Which records make the whole base, in an order in which each comes after what it refers to.

A file has every field of its record, ids as they are. What is computed from records is left out: it is computed anew.
"""

import datetime
import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from aquifer.accounts.models import SavedView, SignOff
from aquifer.attachments.models import Attachment
from aquifer.company.models import Company
from aquifer.customers.models import Customer, Site
from aquifer.forecasts.models import PractisedLook
from aquifer.formats.cells import Cell
from aquifer.formats.csv_table import cell
from aquifer.formats.sheet import plain
from aquifer.heaters.models import Heater, LeftAs, Part
from aquifer.history.marks import Column
from aquifer.imports.models import RememberedColumns
from aquifer.money.models import Contract, ContractPlan, MoneySettings, Price, Quote, QuoteLine
from aquifer.open_ends.models import Campaign, OpenEnd
from aquifer.outbox.models import Answer, Contact, Known, Message
from aquifer.places.models import Feature
from aquifer.rounds.models import Absence, Appointment, Closed, CrewMember, Loan, Run, Service
from aquifer.stock.models import Held, Moved, StockSettings
from aquifer.visits.models import Amendment, Event, EventApart, Finding, Visit, VisitSession
from aquifer.water.models import Season, WaterTest, Zone
from aquifer.workbench.models import Asked, Practised, Written

PEOPLE = "people"
PEOPLE_COLUMNS = ("id", "username", "first_name", "last_name", "email", "role", "licences", "is_active", "is_new")
"""Of people everything but what they sign in with."""


def held_words(licences: list[str], ends: dict[str, str]) -> str:
    """Licenses in one cell, each with its last day where it ends: ``gas:2027-03-31 plumbing``."""
    return " ".join(f"{one}:{ends[one]}" if ends.get(one) else one for one in licences)


def held_of(cell: str) -> tuple[list[str], dict[str, str]]:
    """The licenses of such a cell, and the last day of those that end."""
    parts = [word.partition(":") for word in cell.split()]
    return [name for name, _, _ in parts], {name: end for name, _, end in parts if end}


_COMPUTED = {Heater: {"words"}, Site: {"words"}}
"""Columns that the database keeps by itself."""


@dataclass(frozen=True)
class BaseTable:
    name: str
    model: type[models.Model]

    @property
    def fields(self) -> list[Column]:
        without = _COMPUTED.get(self.model, set())
        return [field for field in self.model._meta.concrete_fields if field.name not in without]

    @property
    def columns(self) -> list[str]:
        return [field.attname for field in self.fields]

    @property
    def optional(self) -> set[str]:
        """Columns that a base written before there were any may lack: they get what a new record gets."""
        return {one.attname for one in self.fields if one.has_default() or one.null or one.empty_strings_allowed}

    def cells(self, record: models.Model) -> dict[str, str]:
        """A record as its line of the table."""
        return {field.attname: written(field, getattr(record, field.attname)) for field in self.fields}

    def record(self, line: dict[str, str], people: dict[int, int]) -> models.Model:
        """The record of a line, unsaved; people by their ids here. Raises: ValueError naming the column."""
        values = {}
        for field in self.fields:
            if field.attname not in line:
                continue
            try:
                value = read(field, line[field.attname])
            except Exception as error:
                raise ValueError(f"{field.attname}: {line[field.attname][:60]!r} cannot be so ({error})") from None
            if value is not None and is_person(field):
                value = people.get(value)
            values[field.attname] = value
        return self.model(**values)


def is_person(field: Column) -> bool:
    """Whether a field names a person."""
    return isinstance(field, models.ForeignKey) and field.related_model._meta.label == settings.AUTH_USER_MODEL


def written(field: Column, value: object) -> str:
    """A value of a field as its cell."""
    if value is not None and isinstance(field, models.JSONField | ArrayField):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, datetime.datetime):
        return value.isoformat()
    return cell(value)


def read(field: Column, text: str) -> Cell:
    """What ``written`` made a cell of."""
    if text == "" and (field.null or isinstance(field, models.JSONField)):
        return None
    if isinstance(field, models.JSONField | ArrayField):
        return json.loads(plain(text))
    if isinstance(field, models.BooleanField):
        if text not in ("yes", "no"):
            raise ValueError("allowed: yes, no")
        return text == "yes"
    if isinstance(field, models.DateTimeField):
        return datetime.datetime.fromisoformat(text)
    if isinstance(field, models.ForeignKey):
        return field.target_field.to_python(text)
    return field.to_python(plain(text))


_RECORDS: list[tuple[str, type[models.Model]]] = [
    ("company", Company),
    ("zones", Zone),
    ("seasons", Season),
    ("customers", Customer),
    ("sites", Site),
    ("water_tests", WaterTest),
    ("heaters", Heater),
    ("parts", Part),
    ("left_as", LeftAs),
    ("features", Feature),
    ("campaigns", Campaign),
    ("open_ends", OpenEnd),
    ("visits", Visit),
    ("visit_sessions", VisitSession),
    ("visit_events", Event),
    ("visit_events_apart", EventApart),
    ("amendments", Amendment),
    ("findings", Finding),
    ("attachments", Attachment),
    ("contacts", Contact),
    ("crew", CrewMember),
    ("absences", Absence),
    ("loans", Loan),
    ("closed_times", Closed),
    ("runs", Run),
    ("appointments", Appointment),
    ("planned_services", Service),
    ("messages", Message),
    ("times_told", Known),
    ("answers", Answer),
    ("held_parts", Held),
    ("moved_parts", Moved),
    ("stock_settings", StockSettings),
    ("practised", Practised),
    ("written_to_practise", Written),
    ("practised_looks", PractisedLook),
    ("sign_offs", SignOff),
    ("asked_before_sign_off", Asked),
    ("money_settings", MoneySettings),
    ("prices", Price),
    ("contract_plans", ContractPlan),
    ("contracts", Contract),
    ("quotes", Quote),
    ("quote_lines", QuoteLine),
    ("saved_views", SavedView),
    ("remembered_columns", RememberedColumns),
]
TABLES = [BaseTable(name, model) for name, model in _RECORDS] + [
    BaseTable(f"history_of_{name}", model.history.model) for name, model in _RECORDS if hasattr(model, "history")
]


@contextmanager
def times_kept() -> Iterator[None]:
    """Fields that would be set to now keep what the file says, while a base is brought in by a process of its own."""
    changed: list[Callable[[], None]] = []
    for table in TABLES:
        for field in table.fields:
            for name in ("auto_now", "auto_now_add"):
                if getattr(field, name, False):
                    setattr(field, name, False)
                    changed.append(lambda field=field, name=name: setattr(field, name, True))  # type: ignore[misc]
    try:
        yield
    finally:
        for restore in changed:
            restore()
