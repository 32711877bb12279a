"""Offices that keep lists, made by chance: each has customers and heaters that are known, a hand in which it writes
them, and its own carelessness. Nothing here knows how a list is read."""

import csv
import datetime
import io
import random
import tomllib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

TODAY = datetime.date(2026, 12, 1)
"""As the test has it: what is told by its age hangs on the day."""
Writer = Callable[[random.Random, "Known"], str]
Dates = Callable[[datetime.date], str]
WORDS = tomllib.loads(Path(__file__).with_suffix(".toml").read_text())


@dataclass
class Known:
    """One heater as it truly is, and whose."""

    first: str
    last: str
    company: str
    number: int
    street: str
    town: str
    postcode: str
    phone: str
    kind: str
    litres: float | None
    installed: datetime.date
    setpoint_c: float
    hardness_mg_l: float
    pressure_kpa: float
    last_flush: datetime.date | None
    rod_on: datetime.date | None
    maker: str
    model: str
    serial: str
    place: str
    count: int = 1
    softened: bool | None = None

    @property
    def gallons(self) -> int:
        return round((self.litres or 0) / 3.785)


@dataclass
class Office:
    """A list as text, what stands in each of its rows, and which of that it tells at all."""

    tongue: str
    text: str
    rows: dict[int, Known]
    tells: set[str]
    header: dict[str, str]
    """What its columns are called."""


MAKERS = [("Thornfell", "TG50"), ("Brayfield", "BX-80"), ("Ostrand", "R 119"), ("Kelmarsh", "KX9")]


def _day(rng: random.Random, since: int, until: datetime.date = TODAY) -> datetime.date:
    first = datetime.date(since, 1, 1)
    return first + datetime.timedelta(days=rng.randrange((until - first).days))


def known(rng: random.Random, tongue: str) -> Known:
    """One heater, by chance."""
    words = WORDS[tongue]
    kind = rng.choice([*words["kinds"]])
    town, postcode = rng.choice(words["towns"])
    installed = _day(rng, 2000, datetime.date(2024, 1, 1))
    tank = kind.endswith("_tank")
    hard = {"us": 17.118, "gb": 1.0, "de": 17.848}[tongue] * rng.randrange(4, 26)
    maker, model = rng.choice(MAKERS)
    return Known(
        first=rng.choice(words["first_names"]), last=rng.choice(words["last_names"]),
        company=rng.choice(words["companies"]) if rng.random() < 0.15 else "",
        number=rng.randrange(1, 990), street=rng.choice(words["streets"]), town=town, postcode=postcode,
        phone=f"555555{rng.randrange(100, 199):04d}", kind=kind,
        litres=rng.choice(words["litres"]) if tank else None, installed=installed,
        setpoint_c=rng.choice((48.9, 51.7, 54.4, 60.0) if tongue == "us" else (50, 55, 60, 65)),
        hardness_mg_l=hard if tongue != "gb" else 20.0 * rng.randrange(2, 20),
        pressure_kpa=6.895 * rng.randrange(45, 95) if tongue == "us" else 10.0 * rng.randrange(25, 60),
        last_flush=_day(rng, max(installed.year + 1, 2015)) if rng.random() < 0.7 else None,
        rod_on=_day(rng, installed.year + 1) if tank and rng.random() < 0.6 else None,
        maker=maker, model=model, serial=f"{rng.choice('ABKLM')}{rng.randrange(10**5, 10**6)}",
        place=rng.choice(words["places"]), count=2 if rng.random() < 0.06 else 1, softened=rng.random() < 0.3,
    )  # fmt: skip


def _dates(tongue: str) -> list[Dates]:
    month = WORDS[tongue]["months"]
    both = [
        lambda on: on.isoformat(),
        lambda on: f"{month[on.month - 1]} {on.year}",
        lambda on: f"{month[on.month - 1][:3]} '{on:%y}" if tongue != "de" else f"{on.month}/{on.year}",
        lambda on: str(on.year),
        lambda on: f"{on.month:02d}/{on.year}",
        lambda on: f"{on.year}-{on.month:02d}",
        lambda on: f"'{on:%y}",
    ]
    own: dict[str, list[Dates]] = {
        "us": [
            lambda on: f"{on.month}/{on.day}/{on:%y}",
            lambda on: f"{on.month:02d}/{on.day:02d}/{on.year}",
            lambda on: f"{on.month}-{on.day}-{on.year}",
            lambda on: f"{month[on.month - 1]} {on.day}, {on.year}",
            lambda on: f"{on.month}/{on:%y}",
            lambda on: f"{month[on.month - 1]}-{on:%y}",
            lambda on: f"{TODAY.year - on.year} yrs ago" if on.year < TODAY.year else f"{on.month}/{on.year}",
        ],
        "gb": [
            lambda on: f"{on.day:02d}/{on.month:02d}/{on.year}",
            lambda on: f"{on.day}-{on:%b}-{on:%y}",
            lambda on: f"{on.day} {on:%B} {on.year}",
            lambda on: f"{month[on.month - 1]}-{on:%y}",
            lambda on: f"{on.day}.{on.month}.{on:%y}",
        ],
        "de": [
            lambda on: f"{on.day:02d}.{on.month:02d}.{on.year}",
            lambda on: f"{on.day}.{on.month}.{on:%y}",
            lambda on: f"{on.day}. {month[on.month - 1]} {on.year}",
            lambda on: f"{on.month}.{on.year}",
            lambda on: f"{month[on.month - 1][:3]}. {on:%y}",
            lambda on: f"{on.month:02d}/{on:%y}",
            # A week that begins in one year and ends in the next is of either.
            lambda on: (
                f"KW {on.isocalendar().week}/{on.year}" if 1 < on.isocalendar().week < 52 else f"{on.month}/{on.year}"
            ),
        ],
    }
    return both + own[tongue]


def _figure(value: float, tongue: str, places: int = 0) -> str:
    text = f"{value:.{places}f}"
    return text.replace(".", ",") if tongue == "de" else text


def _names(rng: random.Random, tongue: str) -> Writer:
    ways: list[Writer] = [
        lambda _, one: f"{one.first} {one.last}",
        lambda _, one: f"{one.last}, {one.first}",
        lambda _, one: f"{one.last.upper()}, {one.first.upper()}",
        lambda _, one: f"{one.first} {one.last}".lower() if tongue == "us" else f"{one.first} {one.last}",
    ]
    way = rng.choice(ways)
    return lambda other, one: one.company or way(other, one)


def _address(one: Known, tongue: str) -> str:
    return f"{one.street} {one.number}" if tongue == "de" else f"{one.number} {one.street}"


def _where(rng: random.Random, tongue: str) -> list[tuple[str, Writer]]:
    """One column or three."""
    if rng.random() < 0.5:
        return [
            ("street", lambda _, one: _address(one, tongue)),
            ("town", lambda _, one: one.town),
            ("postcode", lambda _, one: one.postcode),
        ]
    ways: dict[str, list[Writer]] = {
        "us": [
            lambda _, one: f"{_address(one, tongue)}, {one.town} {one.postcode}",
            lambda _, one: f"{_address(one, tongue)}, {one.town}",
            lambda _, one: f"{_address(one, tongue)}, {one.town}, XX {one.postcode}",
        ],
        "gb": [lambda _, one: f"{_address(one, tongue)}, {one.town}"],
        "de": [
            lambda _, one: f"{_address(one, tongue)}, {one.postcode} {one.town}",
            lambda _, one: f"{_address(one, tongue)}, {one.town}",
        ],
    }
    return [("address", rng.choice(ways[tongue]))]


def _phones(rng: random.Random) -> Writer:
    ways: list[Writer] = [
        lambda _, one: one.phone,
        lambda _, one: f"{one.phone[:3]}-{one.phone[3:6]}-{one.phone[6:]}",
        lambda _, one: f"({one.phone[:3]}) {one.phone[3:6]}-{one.phone[6:]}",
        lambda _, one: f"{one.phone[:3]}.{one.phone[3:6]}.{one.phone[6:]}",
        lambda _, one: f"{one.phone[:3]} {one.phone[3:6]} {one.phone[6:]}",
    ]
    return rng.choice(ways)


def _sizes(rng: random.Random, tongue: str) -> Writer:
    if tongue == "us":
        return rng.choice(
            [
                lambda _, one: str(one.gallons) if one.litres else "",
                lambda _, one: f"{one.gallons} gal" if one.litres else "-",
                lambda _, one: f"{one.gallons}gal." if one.litres else "",
                lambda _, one: f"{one.gallons}g" if one.litres else "n/a",
            ]
        )
    return rng.choice(
        [
            lambda _, one: str(int(one.litres)) if one.litres else "",
            lambda _, one: f"{int(one.litres)} l" if one.litres else "-",
            lambda _, one: f"{int(one.litres)} L" if one.litres else "",
            lambda _, one: f"{int(one.litres)} {'Liter' if tongue == 'de' else 'litres'}" if one.litres else "",
        ]
    )


def _temperatures(rng: random.Random, tongue: str) -> Writer:
    fahrenheit = tongue == "us" and rng.random() < 0.85
    unit = rng.choice(["", "", "F" if fahrenheit else "C", "°F" if fahrenheit else " °C"])
    if not fahrenheit and tongue == "us":
        unit = "C"
    return lambda _, one: f"{round(one.setpoint_c * 1.8 + 32) if fahrenheit else round(one.setpoint_c)}{unit}"


def _hardnesses(rng: random.Random, tongue: str, header: str) -> Writer:
    if tongue == "us":
        unit = rng.choice(["", "", " gr", " gpg", "gpg"])
        return lambda _, one: f"{one.hardness_mg_l / 17.118:.0f}{unit}"
    if tongue == "gb":
        unit = rng.choice([" mg/l", " ppm", ""] if any(word in header for word in ("mg", "ppm")) else [" mg/l", " ppm"])
        return lambda _, one: f"{one.hardness_mg_l:.0f}{unit}"
    unit = rng.choice(["", " °dH"] if "dH" in header else [" °dH", "°dH", " dH"])
    return lambda _, one: f"{one.hardness_mg_l / 17.848:.0f}{unit}"


def _pressures(rng: random.Random, tongue: str, header: str) -> Writer:
    if tongue == "us":
        unit = rng.choice(["", " psi", "#", " lbs"])
        return lambda _, one: f"{one.pressure_kpa / 6.895:.0f}{unit}"
    unit = rng.choice(["", " bar"] if "bar" in header else [" bar"])
    return lambda _, one: f"{_figure(one.pressure_kpa / 100, tongue, 1)}{unit}"


def _heater(rng: random.Random, tongue: str) -> list[tuple[str, Writer]]:
    """What it is and how large, in one column or two; some write how many beside it."""
    size = _sizes(rng, tongue)

    def kind(other: random.Random, one: Known) -> str:
        return other.choice(WORDS[tongue]["kinds"][one.kind])

    if rng.random() < 0.3:
        unit = rng.choice(
            [" gal", "g", " gallon"] if tongue == "us" else [" l", " L", " Liter" if tongue == "de" else " litre"]
        )

        def both(other: random.Random, one: Known) -> str:
            if not one.litres:
                return f"{one.count} x {kind(other, one)}" if one.count > 1 else kind(other, one)
            large = f"{one.gallons if tongue == 'us' else int(one.litres)}{unit}"
            counted = f"{one.count} x {large}" if one.count > 1 else large
            return f"{counted} {kind(other, one)}"

        return [("kind", both)]

    def sized(other: random.Random, one: Known) -> str:
        text = size(other, one)
        if one.count > 1 and one.litres:
            return f"{one.count} x {text}"
        one.count = 1
        return text

    return [("kind", kind), ("size", sized)]


def _installed(rng: random.Random, tongue: str, date: Dates) -> Writer:
    """A day as this office writes it; of some nobody is sure."""
    doubt = rng.choice([0.0, 0.0, 0.2])
    unsure: list[Callable[[int], str]] = [
        lambda year: f"{year}?", lambda year: f"~{year}", lambda year: f"ca. {year}", lambda year: f"about {year}",
    ]  # fmt: skip
    way = rng.choice(unsure[:3] if tongue == "de" else unsure)
    return lambda other, one: way(one.installed.year) if other.random() < doubt else date(one.installed)


def _since(rng: random.Random, tongue: str, date: Dates) -> tuple[str, Writer]:
    if rng.random() > 0.12:
        return "installed", _installed(rng, tongue, date)
    years = rng.choice(
        {"us": ["", " yrs", " y.o.", " years"], "gb": ["", " yrs", " years"], "de": ["", " J.", " Jahre"]}[tongue]
    )
    return "age", lambda _, one: f"{TODAY.year - one.installed.year}{years}"


def _whose(rng: random.Random, tongue: str) -> list[tuple[str, Writer]]:
    """Who and where: in as many columns as the office has a mind to."""
    how = rng.random()
    if how < 0.6:
        return [("name", _names(rng, tongue)), *_where(rng, tongue)]
    if how < 0.75:
        return [
            ("last", lambda _, one: one.company or one.last),
            ("first", lambda _, one: "" if one.company else one.first),
            *_where(rng, tongue),
        ]
    if how < 0.85:
        number = ("number", lambda _, one: str(one.number))
        street = ("street", lambda _, one: one.street)
        order = [street, number] if tongue == "de" else [number, street]
        town = ("town", lambda _, one: one.town)
        return [("name", _names(rng, tongue)), *order, town, ("postcode", lambda _, one: one.postcode)]
    name = _names(rng, tongue)
    between = rng.choice(["\n", "\n", " / "])

    def card(other: random.Random, one: Known) -> str:
        town = f"{one.postcode} {one.town}" if tongue == "de" else f"{one.town} {one.postcode}"
        return between.join([name(other, one), _address(one, tongue), town])

    return [("card", card)]


def _flushes(rng: random.Random, tongue: str, date: Dates, never: str) -> list[tuple[str, Writer]]:
    """When it was flushed last: in a word, as a list of days, with who came, or by a mark under each year."""
    how = rng.random()
    hand = rng.choice(["KT", "JH", "MB"])
    if how < 0.1:

        def marked(year: int) -> Writer:
            def write(other: random.Random, one: Known) -> str:
                if one.last_flush is None:
                    # Where nothing is marked nobody knows.
                    one.last_flush = datetime.date.min
                before = year < one.last_flush.year and other.random() < 0.5
                return mark if one.last_flush.year == year or before else ""

            return write

        mark = rng.choice(["x", "X", "ok", "\u2713"])
        return [(f"year {year}", marked(year)) for year in range(2015, TODAY.year + 1)]
    if how < 0.2:

        def by(_: random.Random, one: Known) -> str:
            told = date(one.last_flush) if one.last_flush else never
            return f"{told} {hand}" if one.last_flush and "ago" not in told else told

        return [("flush", by)]
    if how < 0.3 and tongue == "us":

        def several(other: random.Random, one: Known) -> str:
            if not one.last_flush:
                return never
            before = [one.last_flush.year - by for by in (2, 1) if one.last_flush.year - by > one.installed.year]
            return ", ".join(
                [*(f"{other.randrange(1, 13)}/{year % 100:02d}" for year in before), f"{one.last_flush:%-m/%y}"]
            )

        return [("flush", several)]
    return [("flush", lambda _, one: date(one.last_flush) if one.last_flush else never)]


def office(seed: int, tongue: str, customers: int = 30) -> Office:
    """One office's list. Parameters: tongue, us, gb or de: which words, units and order of a date it has."""
    rng, words = random.Random(seed), WORDS[tongue]
    header = {column: rng.choice(names) for column, names in words["header"].items()}
    header |= {f"year {year}": str(year) for year in range(2015, TODAY.year + 1)}
    date, flush_date, rod_date = (rng.choice(_dates(tongue)) for _ in range(3))
    never, unknown = rng.choice(words["never"]), rng.choice(words["nobody_knows"])
    yes, no = rng.choice(words["yes_no"])
    columns: list[tuple[str, Writer]] = [
        *_whose(rng, tongue),
        *_heater(rng, tongue),
        _since(rng, tongue, date),
        *_flushes(rng, tongue, flush_date, never),
    ]
    beside: list[tuple[str, Writer]] = [
        ("phone", _phones(rng)),
        ("setpoint", _temperatures(rng, tongue)),
        ("hardness", _hardnesses(rng, tongue, header["hardness"])),
        ("pressure", _pressures(rng, tongue, header["pressure"])),
        ("rod", lambda _, one: rod_date(one.rod_on) if one.rod_on else ""),
        ("serial", lambda _, one: one.serial),
        ("make", lambda _, one: f"{one.maker} {one.model}"),
        ("place", lambda _, one: one.place),
        ("softened", lambda _, one: yes if one.softened else no),
        ("notes", lambda other, _: other.choice(words["notes"])),
        ("beside", lambda other, _: other.choice(words["beside"])),
    ]
    columns += rng.sample(beside, rng.randrange(3, len(beside) + 1))
    if rng.random() < 0.5:
        # Who it is and where stands first; the rest in any order.
        at = sum(column in WHOSE for column, _ in columns)
        first, rest = columns[:at], columns[at:]
        rng.shuffle(rest)
        columns = first + rest
    if rng.random() < 0.3:
        shout = rng.choice([str.upper, lambda name: f"{name}:"])
        header = {column: shout(name) for column, name in header.items()}
    again = rng.choice([None, None, "", '"', "ditto" if tongue != "de" else "dito"])
    careless = rng.choice([0.0, 0.05, 0.15])
    lines: list[list[str]] = []
    if rng.random() < 0.4:
        title = "Water heaters" if tongue != "de" else "Warmwassergeräte"
        lines += [[title, *[""] * (len(columns) - 1)], [""] * len(columns)]
    lines.append([header[column] for column, _ in columns])
    rows: dict[int, Known] = {}
    for _ in range(customers):
        one = known(rng, tongue)
        of_above = again is not None and len(rows) > 0 and rng.random() < 0.15
        if of_above:
            above = rows[len(lines)]
            for name in OF_A_HOUSE:
                setattr(one, name, getattr(above, name))
        cells = [again or "" if of_above and column in WRITTEN_ONCE else write(rng, one) for column, write in columns]
        for at, (column, _) in enumerate(columns):
            if of_above and column in WRITTEN_ONCE:
                continue
            if column not in KEPT and not column.startswith("year") and rng.random() < careless:
                cells[at] = rng.choice(["", unknown])
                _forget(one, column)
            elif column != "card" and rng.random() < careless:
                cells[at] = f" {cells[at]} "
        lines.append(cells)
        rows[len(lines)] = one
    if rng.random() < 0.3:
        total = rng.choice(["Total", "TOTAL:", "Sum"] if tongue != "de" else ["Summe", "Gesamt"])
        lines.append([total, str(customers), *[""] * (len(columns) - 2)])
    written = io.StringIO()
    separator = rng.choice([",", ";", "\t"] if tongue == "us" else [";", ",", "\t"])
    csv.writer(written, delimiter=separator).writerows(lines)
    return Office(tongue, written.getvalue(), rows, {column for column, _ in columns}, header)


FORGOTTEN: dict[str, tuple[str, object]] = {
    "installed": ("installed", None), "age": ("installed", None), "setpoint": ("setpoint_c", None),
    "hardness": ("hardness_mg_l", None), "pressure": ("pressure_kpa", None), "phone": ("phone", ""),
    "place": ("place", ""), "softened": ("softened", None), "serial": ("serial", ""), "make": ("maker", ""),
    "rod": ("rod_on", None), "flush": ("last_flush", datetime.date.min),
}  # fmt: skip
"""What is not known where a cell does not say it."""
OF_A_HOUSE = (
    "first", "last", "company", "number", "street", "town", "postcode", "phone", "hardness_mg_l", "pressure_kpa",
    "softened",
)  # fmt: skip
WHOSE = {"name", "last", "first", "number", "card", "address", "street"}
WRITTEN_ONCE = {*WHOSE, "town", "postcode", "phone", "hardness", "pressure", "softened"}
"""Of a second heater of a house many leave empty what stands above it, or say that it is the same."""
KEPT = {*WHOSE, "town", "kind", "beside", "notes"}
"""What no office forgets, or what nothing hangs on."""


def _forget(one: Known, column: str) -> None:
    """What a cell does not say, nobody can know of it."""
    if column == "size":
        one.litres, one.count = None, 1
    elif column in FORGOTTEN:
        setattr(one, *FORGOTTEN[column])
