"""An office's own list brought in: one row has a customer, the address and its heaters."""

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from django.db import transaction
from django.db.models import Model
from django.utils import timezone

from aquifer.core.kinds import HeaterKind
from aquifer.core.units import Quantity
from aquifer.core.vocabulary import Alloy, FlushHistory, Supply
from aquifer.customers.models import Customer, Site
from aquifer.customers.towns import Towns
from aquifer.formats import day_said, said
from aquifer.formats.cells import Cell
from aquifer.formats.sheet import Matched, Sheet, columns_at
from aquifer.heaters.models import Heater, InstallCertainty, Part, PartKind
from aquifer.history import in_bulk
from aquifer.imports import statistics
from aquifer.imports.entry import Entry, How, as_written, how
from aquifer.imports.models import RowAction
from aquifer.imports.office_cells import entries
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.preview import preview, shown
from aquifer.imports.records import created
from aquifer.imports.tables import Table
from aquifer.water.models import WaterTest, Zone
from aquifer.water.places import supplied, zone_of

DOUBTFUL = "perhaps another customer"
TEST_METHOD = "as the list said"


@dataclass
class Household:
    """A customer or a site, of the register or to be made."""

    key: str
    values: dict[str, Cell]
    pk: int | None = None
    sites: dict[str, "Household"] = field(default_factory=dict)
    phones: set[str] = field(default_factory=set)


def plan(
    table: Table,
    sheet: Sheet,
    matches: Mapping[str, Matched] | None = None,
    progress: Progress = nothing,
    decided: Mapping[int, bool] | None = None,
) -> list[PlannedRow]:
    """Decide for every row what it would do: new, on record already, or left out with the reason.

    Parameters: decided, by number of the row, whether its customer is the one of the same name, where somebody said.
    """
    given, lines = matches or {}, list(sheet.lines)
    way = as_written(how(timezone.localdate()), columns_at(sheet.header, given), lines)
    rows = entries(replace(sheet, lines=iter(lines)), given, way)
    kinds = Counter(entry.said("kind") for entry in rows if entry.said("kind"))
    often = [kind for kind, _ in kinds.most_common()]
    usual = _Usual(
        any=next(iter(often), HeaterKind.GAS_TANK),
        tank=next((one for one in often if one.is_tank), HeaterKind.GAS_TANK),
    )
    register = _Register(decided or {})
    planned = []
    for done, entry in enumerate(rows, start=1):
        planned.append(_decide(entry, register, usual, way))
        if done % 500 == 0:
            progress(done, len(rows))
    progress(len(rows), len(rows))
    return planned


@dataclass(frozen=True)
class _Usual:
    """The kinds that most heaters of a list are of: one whose own is not said is looked at first."""

    any: HeaterKind
    tank: HeaterKind
    """Of what has a size."""


def _decide(entry: Entry, register: "_Register", usual: _Usual, way: How) -> PlannedRow:
    name, street = entry.said("customer"), _street(entry)
    key = " · ".join(part for part in (name, street) if part)[:200]
    if entry.said("total"):
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "it adds up the others"})
    if entry.said("heads"):
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "a heading: whose the rows below it are"})
    if not name and not street:
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "neither a customer nor an address"})
    if any(said.is_gone(note) for note in entry.notes):
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "; ".join(entry.notes)[:200]})
    if (gone := entry.said("gone")) and not any(own.has_heater and not own.said("gone") for own in entry.heaters):
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": gone[:200]})
    if not entry.has_heater and any(_NONE_THERE.search(said.plainly(note)) for note in entry.notes):
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "; ".join(entry.notes)[:200]})
    if entry.said("count") == 0:
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "it counts no heater"})
    if _POINTS.match(street) and not entry.has_heater:
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": "it points to another row"})
    if entry.is_a_name_alone:
        alone = "a name alone: a heading, or nothing to look after"
        return PlannedRow(entry.number, RowAction.LEFT_OUT, key, {"left out": alone})
    detail: dict[str, Cell] = {}
    customer = register.customer(entry, detail)
    site = register.site(customer, entry)
    heaters = [(_heater(own, usual, way), own) for own in entry.heaters for _ in range(own.said("count") or 1)]
    new = [(heater, own) for heater, own in heaters if not register.has(site, heater)]
    detail = {**preview(entry, heaters, way), **detail}
    action = RowAction.CREATE if new else RowAction.SAME
    row = PlannedRow(entry.number, action, key, detail)
    row.values = {"customer": customer, "site": site, "heaters": new, "entry": entry}
    return row


_NONE_THERE = re.compile(
    r"(?:^|[:;,] )(?:no (?:water )?(?:heater|wh|htr)|kein (?:boiler|speicher|gerat)|pas de chauffe-eau)\b"
)
_POINTS = re.compile(r"(see|siehe|voir|zie) [^\W\d]", re.IGNORECASE)
"""How an address begins that stands in another row."""


def _street(entry: Entry) -> str:
    found = entry.said("address")
    return (found.street if found else "") or entry.said("street") or ""


def _heater(entry: Entry, usual: _Usual, way: How) -> dict[str, Cell]:
    kind, when, flush = entry.said("kind"), entry.said("installed") or day_said.UNKNOWN_DAY, entry.said("last_flush")
    taken, notes = kind or (usual.tank if entry.said("size") else usual.any), list(entry.notes)
    tank = taken.is_tank
    if (size := entry.said("size")) is not None and not tank:
        notes.append(f"size: {shown(size, Quantity.VOLUME, way)}")
    return {
        "kind": taken,
        "kind_seen": kind is not None,
        "vent": entry.said("vent") or "",
        "capacity_l": size if tank else None,
        "setpoint_c": entry.said("setpoint"),
        "input_kw": entry.said("input"),
        "control_setting": (entry.said("control_setting") or "")[:80],
        "maker": (entry.said("make") or entry.said("maker") or "")[:80],
        "model": (entry.said("model") or "")[:80],
        "serial": (entry.said("serial") or "")[:80],
        "location": (entry.said("location") or "")[:120],
        "installed_on": when.on,
        "install_certainty": InstallCertainty(when.certainty),
        "install_margin_years": when.margin_years,
        "flush_history": _flush_history(flush),
        "last_flush_year": flush.on.year if flush and flush.on else None,
        "in_care_since": way.today,
        "note": "; ".join(notes)[:500],
    }


def _flush_history(when: day_said.When | None) -> FlushHistory:
    if when is None:
        return FlushHistory.UNKNOWN
    if when.never:
        return FlushHistory.NEVER
    return FlushHistory.ABOUT if when.on else FlushHistory.UNKNOWN


class _Register:
    """Customers and sites by likeness: those on record, and those of the rows before."""

    def __init__(self, decided: Mapping[int, bool]) -> None:
        self._decided = decided
        self.by_account: dict[str, Household] = {}
        self.by_name: dict[str, list[Household]] = {}
        self._heaters: Counter[tuple[int, str, float]] = Counter()
        for customer in Customer.objects.all():
            self._add(
                Household(customer.code, {}, customer.pk, phones={_digits(customer.phone)} - {""}),
                customer.name,
                customer.code,
            )
        by_pk = {own.pk: own for own in self.by_account.values()}
        for site in Site.objects.all():
            known = Household(likeness(site.street, site.town), {}, site.pk)
            by_pk[site.customer_id].sites.setdefault(known.key, known)
        for site_id, kind, capacity in Heater.objects.in_service().values_list("site_id", "kind", "capacity_l"):
            self._heaters[site_id, kind, round(capacity or 0.0)] += 1

    def _add(self, household: Household, name: str, account: str) -> Household:
        if account:
            self.by_account[account] = household
        self.by_name.setdefault(said.plainly(name), []).append(household)
        return household

    def customer(self, entry: Entry, detail: dict[str, Cell]) -> Household:
        """The customer of a row: by the account, else by the name; a person with other accounts is another."""
        account, name = entry.said("account") or "", entry.said("customer") or _street(entry)
        if household := self.by_account.get(account):
            return household
        phones = {_digits(entry.said(which) or "") for which in ("phone", "second_phone")} - {""}
        place = self._place(entry)
        alike = self.by_name.get(said.plainly(name), [])
        if account:
            alike = [other for other in alike if not other.values.get("code") and other.pk is None]
            alike = [other for other in alike if place in other.sites or phones & other.phones]
        if alike:
            best = next((other for other in alike if place in other.sites or phones & other.phones), alike[0])
            if (same := self._is_same(entry, best, phones, place, detail)) and account and best.pk is None:
                best.values["code"], self.by_account[account] = account, best
            if same:
                best.phones |= phones
                return best
        values = {
            "code": account[:40],
            "name": name[:160],
            "phone": entry.said("phone") or entry.said("second_phone") or "",
            "second_phone": (entry.said("second_phone") or "") if entry.said("phone") else "",
            "email": entry.said("email") or "",
        }
        return self._add(Household(account or said.plainly(name), values, phones=phones), name, account)

    def _is_same(self, entry: Entry, best: Household, phones: set[str], place: str, detail: dict[str, Cell]) -> bool:
        """Whether the customer of a row is the one of that name; a person is asked where the two have nothing else in
        common, and what nobody answers is taken for the same."""
        if not phones or not best.phones or phones & best.phones or place in best.sites:
            return True
        said_so = self._decided.get(entry.number)
        where = next(iter(best.sites), "")
        about = f"the same name, another telephone{f' and not at {where}' if where else ''}"
        if said_so is None:
            detail[DOUBTFUL] = about
        else:
            detail["decided"] = "the same customer" if said_so else "another customer of that name"
        return said_so is not False

    def site(self, customer: Household, entry: Entry) -> Household:
        """The site of a row, among its customer's."""
        key = self._place(entry)
        if household := customer.sites.get(key):
            return household
        address = entry.said("address") or said.Address("")
        values = {
            "name": (entry.said("customer") or _street(entry))[:160],
            "street": _street(entry)[:200],
            "town": (address.town or entry.said("town") or "")[:120],
            "state": (address.state or entry.said("state") or "")[:40],
            "postcode": (address.postcode or entry.said("postcode") or "")[:20],
            "softened": bool(entry.said("softener")),
            "people": entry.said("people"),
            "static_pressure_kpa": entry.said("pressure"),
            "hazard": "Dog." if any(_DOG.search(said.plainly(note)) for note in entry.notes) else "",
            "access": "; ".join(entry.notes)[:240],
        }
        household = Household(key, values)
        household.values["well"] = bool(entry.said("well"))
        household.values["at"] = entry.said("longitude"), entry.said("latitude")
        customer.sites[key] = household
        return household

    def _place(self, entry: Entry) -> str:
        address = entry.said("address") or said.Address("")
        return likeness(_street(entry), address.town or entry.said("town") or "")

    def has(self, site: Household, heater: Mapping[str, Cell]) -> bool:
        """Whether such a heater is on record there, so that a list sent twice adds nothing."""
        if site.pk is None:
            return False
        at = (site.pk, heater["kind"].value, round(heater["capacity_l"] or 0.0))
        if self._heaters[at] <= 0:
            return False
        self._heaters[at] -= 1
        return True


_DOG = re.compile(r"\b(dog|hund|dogs)\b")
_SHORT = {
    "street": "st", "strasse": "str", "road": "rd", "avenue": "ave", "lane": "ln", "drive": "dr", "court": "ct",
    "place": "pl", "highway": "hwy", "boulevard": "blvd", "north": "n", "south": "s", "east": "e", "west": "w",
}  # fmt: skip
_DIGITS = re.compile(r"\D")


def likeness(street: str, town: str) -> str:
    """What an address is told by, however it is spelt."""
    words = re.findall(r"\w+", said.plainly(f"{street} {town}"))
    return " ".join(_SHORT.get(one, one) for one in words)


def _digits(phone: str) -> str:
    return _DIGITS.sub("", phone)[-9:]


def apply(
    table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY
) -> dict[str, list[int]]:
    """Make what was planned, in one transaction. Returns: what was made, ids by table."""
    rows = [row for row in planned if row.action is RowAction.CREATE]
    made: dict[str, list[int]] = {}
    with transaction.atomic():
        customers = _once(row.values["customer"] for row in rows)
        codes = _codes(Customer, "C", "code")
        records = [{**household.values, "code": household.values["code"] or next(codes)} for household in customers]
        made["customers"] = _place_in(customers, created(Customer, records, origin))
        made["customers"] += _in_service_again(Customer, (row.values["customer"].pk for row in rows), origin)
        progress(1, 4)
        zones = _zones(rows, made, origin)
        sites = _once(row.values["site"] for row in rows)
        owner = {id(row.values["site"]): row.values["customer"].pk for row in rows}
        codes, towns, of = _codes(Site, "S", "code"), Towns(), supplied()
        places = [
            {
                "code": next(codes),
                "customer_id": owner[id(household)],
                "zone_id": _zone(household, zones, of),
                **{name: value for name, value in household.values.items() if name not in _NOT_KEPT},
                **_located(household, towns),
            }
            for household in sites
        ]
        made["sites"] = _place_in(sites, created(Site, places, origin))
        made["sites"] += _in_service_again(Site, (row.values["site"].pk for row in rows), origin)
        progress(2, 4)
        made["heaters"] = _heaters(rows, origin)
        progress(3, 4)
        made["tests"] = _tests(rows, zones)
        statistics.refresh(Customer, Site, Heater, Part)
    progress(4, 4)
    return made


_NOT_KEPT = {"well", "at"}


def _located(household: Household, towns: Towns) -> dict[str, object]:
    """Where a site is: as the list says, else the middle of its town or postcode."""
    longitude, latitude = household.values["at"]
    if longitude is None or latitude is None:
        return towns.place(household.values["town"], household.values["postcode"])
    return {"longitude": longitude, "latitude": latitude, "located_by": ""}


def _in_service_again(model: type[Model], ids: Iterable[int], origin: Origin) -> list[int]:
    """Those of these records that were archived, as after a list was taken out again; they are not any longer."""
    wanted = set(ids)
    # Few are archived, and a file may name tens of thousands: a query would hold every key.
    archived = model._default_manager.filter(archived_at__isnull=False).values_list("pk", flat=True)
    found = [pk for pk in archived if pk in wanted]
    model._default_manager.filter(pk__in=found).update(archived_at=None)
    in_bulk.keep(model, found, in_bulk.CHANGED, origin.by, origin.file)
    return found


def _once(households: Iterable[Household]) -> list[Household]:
    """Those that are to be made, each once, in their order."""
    return [
        household
        for household in {id(household): household for household in households}.values()
        if household.pk is None
    ]


def _place_in(households: list[Household], keys: list[int]) -> list[int]:
    for household, pk in zip(households, keys, strict=True):
        household.pk = pk
    return keys


def _codes(model: type[Model], letter: str, name: str) -> Iterator[str]:
    """Codes that nobody has, from the highest of theirs on."""
    taken = model._default_manager.filter(**{f"{name}__regex": rf"^{letter}-\d+$"}).values_list(name, flat=True)
    number = max((int(one.partition("-")[2]) for one in taken), default=0)
    while True:
        number += 1
        yield f"{letter}-{number:04d}"


def _zone(household: Household, zones: Mapping[tuple[str, bool], int], of: dict[str, int]) -> int:
    """The water of a site: a well's own, else that of its postcode or town."""
    town, well = household.values["town"], household.values["well"]
    return (None if well else zone_of(town, household.values["postcode"], of)) or zones[town, well]


def _zones(rows: list[PlannedRow], made: dict[str, list[int]], origin: Origin) -> dict[tuple[str, bool], int]:
    """The water that was said to supply a town; else one for each town, and one for the wells of each: they are joined
    or divided once tests say so."""
    wanted = {
        (household.values["town"], household.values["well"]) for household in _once(row.values["site"] for row in rows)
    }
    of = supplied()
    found = {(town, well): of[said.plainly(town)] for town, well in wanted if not well and said.plainly(town) in of}
    new = []
    for town, well in sorted(wanted - set(found)):
        name = f"{town or 'Our district'}{', wells' if well else ''}"
        code = re.sub(r"[\W_]+", "-", said.plainly(name)).strip("-")[:40] or "district"
        if there := Zone.objects.filter(code=code).first():
            found[town, well] = there.pk
            continue
        supply = Supply.WELL if well else Supply.MAINS
        (pk,) = created(Zone, [{"code": code, "name": name[:120], "supply": supply}], origin)
        found[town, well] = pk
        new.append(pk)
    made["zones"] = new
    return found


def _heaters(rows: list[PlannedRow], origin: Origin) -> list[int]:
    tags = _codes(Heater, "H", "tag")
    records, entry_of = [], []
    for row in rows:
        for record, own in row.values["heaters"]:
            records.append({"tag": next(tags), "site_id": row.values["site"].pk, **record})
            entry_of.append(own)
    made = created(Heater, records, origin)
    parts: list[dict[str, Cell]] = []
    for pk, record, one in zip(made, records, entry_of, strict=True):
        valve = one.said("relief_valve")
        parts.append({"heater_id": pk, "kind": PartKind.RELIEF_VALVE, "fitted_on": valve.on if valve else None})
        if (rod := one.said("anode")) and record["kind"].is_tank:
            parts.append(
                {
                    "heater_id": pk,
                    "kind": PartKind.ANODE,
                    "alloy": rod.alloy or "",
                    "diameter_mm": rod.diameter_mm,
                    "fitted_on": rod.fitted_on or (record["installed_on"] if rod.original else None),
                    "count": 0 if rod.alloy == Alloy.NONE else 1,
                }
            )
        if one.said("expansion_tank"):
            volume = one.said("expansion_tank_l")
            parts.append({"heater_id": pk, "kind": PartKind.EXPANSION_TANK, "volume_l": volume})
    created(Part, parts, origin)
    return made


def _tests(rows: list[PlannedRow], zones: Mapping[tuple[str, bool], int]) -> list[int]:
    """What the list says of a site's hardness, as a test of that site."""
    records = {}
    for row in rows:
        site, hardness = row.values["site"], row.values["entry"].said("hardness")
        if hardness is None or site.pk in records or "town" not in site.values:
            continue
        zone = zones[site.values["town"], site.values["well"]]
        records[site.pk] = WaterTest(
            zone_id=zone, site_id=site.pk, taken_on=row.values["heaters"][0][0]["in_care_since"], method=TEST_METHOD,
            total_hardness_mg_l=hardness,
        )  # fmt: skip
    return [test.pk for test in WaterTest.objects.bulk_create(records.values())]
