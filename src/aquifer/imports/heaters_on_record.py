"""The heaters in service by who has them and where they stand, as job books and bills name them."""

import re
from dataclasses import dataclass

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Task
from aquifer.customers.models import Site
from aquifer.formats import said
from aquifer.heaters.models import Heater
from aquifer.imports import job_columns
from aquifer.imports.office_list import likeness

TANKS = {Task.FLUSH, Task.ANODE_INSPECTION, Task.ANODE_REPLACEMENT, Task.LOOK_OVER}
TANKLESS = {Task.DESCALE, Task.UPKEEP}
"""What is done to the one kind and not to the other."""


@dataclass(frozen=True)
class Which:
    """Which of a house's heaters is said to be meant."""

    number: int = 0
    among: int = 0
    """Of how many; 0 where only the number is said."""
    kind: HeaterKind | None = None
    litres: float | None = None


ANY = Which()
Meant = tuple[Heater | None, list[Heater]]
"""The heater that is meant, and all that it may be where that is not sure."""


class HeatersOnRecord:
    """The heaters in service by who has them and where they stand."""

    def __init__(self) -> None:
        self._by_place: dict[tuple[str, str], list[Heater]] = {}
        self._by_name: dict[str, list[Heater]] = {}
        self._by_code: dict[str, list[Heater]] = {}
        self._streets: dict[int, list[str]] = {}
        self._names: dict[int, list[str]] = {}
        self._by_start: dict[str, list[tuple[str, set[str], Heater]]] = {}
        self._by_site: dict[int, list[Heater]] = {}
        self._by_beginning: dict[str, list[tuple[list[str], list[str], Heater]]] = {}
        sites = {site.pk: site for site in Site.objects.select_related("customer").filter(archived_at__isnull=True)}
        self._whose = {pk: f"{site.customer.name} · {site.street}".strip(" ·")[:200] for pk, site in sites.items()}
        for heater in Heater.objects.in_service().order_by("tag"):
            site = sites[heater.site_id]
            at = (said.plainly(site.customer.name), likeness(site.street, ""))
            names_of, streets = _words_of(at[0]), [*_words_of(at[1]), *_words_of(heater.location)]
            self._streets[heater.site_id], self._names[heater.site_id] = streets, names_of
            self._by_code.setdefault(said.plainly(site.customer.code), []).append(heater)
            for beginning in {word[:_BEGINNING] for word in names_of}:
                self._by_beginning.setdefault(beginning, []).append((names_of, streets, heater))
            self._by_site.setdefault(heater.site_id, []).append(heater)
            self._by_place.setdefault(at, []).append(heater)
            self._by_place.setdefault(("", at[1]), []).append(heater)
            names = {at[0], at[0].rpartition(" ")[2]}
            self._by_start.setdefault(_start(at[1]), []).append((at[1], names, heater))
            for name in names:
                self._by_name.setdefault(name, []).append(heater)

    def of_account(self, code: str, tasks: set[Task], says_tankless: bool, which: Which) -> Meant:
        """The same of a customer's number, alone or beside the name, where all of theirs stand in one place."""
        heaters = self._numbered(code)
        if len({heater.site_id for heater in heaters}) != 1:
            return None, []
        return _fitting(heaters, tasks, says_tankless, which)

    def of_name_and_place(self, text: str, tasks: set[Task], says_tankless: bool, which: Which) -> Meant:
        """The same of a cell that has a name and some of the address without anything between them, where they fit one
        place alone: "Hadley Sorrel Ln"."""
        heaters = self._told_together(text)
        return _fitting(heaters, tasks, says_tankless, which) if heaters else (None, [])

    def _told_together(self, text: str) -> list[Heater]:
        words = _words_of(likeness(text, ""))
        units = {number for found in _UNITS.findall(text) for number in found if number}
        found: dict[int, list[Heater]] = {}
        for word in (one for one in words if len(one) >= _BEGINNING):
            for names, streets, heater in self._by_beginning.get(word[:_BEGINNING], []):
                known = {*names, *streets, *units}
                rest = [one for one in words if one not in known]
                if word in names and not rest and heater not in found.setdefault(heater.site_id, []):
                    found[heater.site_id].append(heater)
        if len(found) > 1:
            # Of several houses of theirs the one whose address is said.
            rests = {site: [word for word in words if word not in self._names[site]] for site in found}
            said_of = {site: sum(word in self._streets[site] for word in rest) for site, rest in rests.items()}
            most = max(said_of.values())
            found = {site: own for site, own in found.items() if most and said_of[site] == most}
        return next(iter(found.values())) if len(found) == 1 else []

    def has_place_of_somebody(self, text: str) -> bool:
        """Whether a cell has somebody's name and something of where they live."""
        return bool(self._told_together(text))

    def _numbered(self, code: str) -> list[Heater]:
        plain = said.plainly(code)
        if found := self._by_code.get(plain):
            return found
        first, _, behind = plain.partition(" ")
        before, _, last = plain.rpartition(" ")
        for number, rest in ((first, behind), (last, before)):
            words = {word for word in _words_of(rest) if len(word) >= _BEGINNING}
            found = [
                heater
                for heater in self._by_code.get(number.strip(".,:;-#()"), [])
                if any(name.startswith(word) for word in words for name in self._names[heater.site_id])
            ]
            if found:
                return found
        return []

    def beside(self, heater: Heater) -> list[Heater]:
        """All heaters of its house, itself among them."""
        return self._by_site[heater.site_id]

    def whose(self, heater: Heater) -> str:
        """Who has a heater, and where it stands."""
        return self._whose[heater.site_id]

    def houses_of(self, name: str) -> int:
        """How many places there are of somebody of this name."""
        return len({heater.site_id for heater in self._by_name.get(said.plainly(name), [])})

    def has_customer(self, name: str) -> bool:
        """Whether a cell names a customer of theirs, by the last name alone, too."""
        return said.plainly(said.person(name)) in self._by_name

    def has_account(self, code: str) -> bool:
        """Whether a cell is a customer's number."""
        return bool(self._numbered(code))

    def has_place(self, address: str) -> bool:
        """Whether a cell tells where one of them stands."""
        street = likeness(said.address(address).street, "")
        return ("", street) in self._by_place or bool(self._begins(street, ""))

    def _begins(self, street: str, name: str) -> list[Heater]:
        """Those at the only site whose address goes on where this one ends: "12 Mill" for 12 Mill Lane, and not
        "12 Mill Road"; where somebody is named only of theirs."""
        alike = [
            heater
            for whole, names, heater in (self._by_start.get(_start(street), []) if street else [])
            if f"{whole} ".startswith(f"{street} ") and (not name or name in names)
        ]
        return alike if len({heater.site_id for heater in alike}) == 1 else []

    def _shortened(self, name: str, street: str) -> list[Heater]:
        """Those at the only site of somebody whose name has all words of this one, however short, in a street that is
        called so: "Pike Elem." in "School Rd" is Pike Elementary, 1 School Road. Who has no name is nobody."""
        words, ways = _words_of(name), [word for word in _words_of(street) if len(word) > 2 or word.isdigit()]
        longest = max(words, key=len, default="")
        if len(longest) < _BEGINNING:
            # Too short for a beginning: the whole name, in a street that is called so.
            known = self._by_name.get(name, []) if ways else []
            if len(words) > 1 and not ways:
                # "Le Gué" for the only one whose name has both.
                of = self._by_beginning.get(longest, [])
                known = [heater for names, _, heater in of if all(word in names for word in words)]
            whole = [heater for heater in known if _is_street(ways, street, self._streets[heater.site_id])]
            return whole if len({heater.site_id for heater in whole}) == 1 else []
        alike = [
            heater
            for names, streets, heater in self._by_beginning.get(longest[:_BEGINNING], [])
            if _all_in(words, names, in_short=bool(ways)) and _is_street(ways, street, streets)
        ]
        return alike if len({heater.site_id for heater in alike}) == 1 else []

    def of(self, customer: str, address: str, tasks: set[Task], says_tankless: bool, which: Which = ANY) -> Meant:
        """The heater that is meant, and all that it may be where that is not sure. Parameters: says_tankless, whether
        the book calls it so; which, that it is the second of three, or of which kind, where it says so."""
        street = likeness(said.address(address).street, "")
        name = said.plainly(customer)
        heaters = self._by_place.get((name, street)) or self._by_place.get(("", street)) or self._begins(street, name)
        if not street:
            # A book that never says where knows its customers, by their last names too, as long as there is but one.
            heaters = self._by_name.get(name, [])
            if len({heater.site_id for heater in heaters}) > 1:
                return None, []
        heaters = heaters or self._shortened(name, street)
        return _fitting(heaters, tasks, says_tankless, which) if heaters else (None, [])


def _fitting(heaters: list[Heater], tasks: set[Task], says_tankless: bool, which: Which) -> Meant:
    """Of a place's heaters the one that such things are done to, and all of those where there are several."""
    wanted = True if tasks & TANKS else False if tasks & TANKLESS else None
    if says_tankless and any(not HeaterKind(heater.kind).is_tank for heater in heaters):
        wanted = False
    fitting = [heater for heater in heaters if wanted is None or HeaterKind(heater.kind).is_tank is wanted] or heaters
    if which.number and which.among in (len(fitting), 0) and which.number <= len(fitting):
        return fitting[which.number - 1], []
    of_kind = [heater for heater in fitting if which.kind == heater.kind]
    fitting = of_kind or fitting
    litres = which.litres or 0.0
    of_size = [heater for heater in fitting if abs((heater.capacity_l or 0.0) - litres) < SAME_SIZE * litres]
    fitting = of_size or fitting
    return fitting[0], fitting if len(fitting) > 1 else []


SAME_SIZE = 0.05
"""Share of a size by which two may differ and be one: litres and gallons are both rounded. Assumption."""
_UNITS = re.compile(r"#\s?(\d{1,2})\b|\b(\d{1,2})-(\d{1,2})$")
"""The numbers of flats or heaters, behind a name: "#4 #5", "1-3"."""
_BEGINNING = 4
"""Letters of a word by which a longer one is known; a shorter may begin anybody's. Assumption."""


_WAYS = {"st", "str", "rd", "ave", "av", "ln", "dr", "ct", "pl", "hwy", "blvd", "way", "cl", "gr", "sq", "ter", "cir"}
"""What streets are called in short: Mill Rd is not Mill Ln."""


def _is_street(ways: list[str], street: str, there: list[str]) -> bool:
    """Whether an address has all words that are asked for, and is not another way of that name."""
    asked, own = _WAYS & {*_words_of(street)}, _WAYS & {*there}
    return all(way in there for way in ways) and (not asked or not own or bool(asked & own))


def _words_of(text: str) -> list[str]:
    return re.findall(r"[^\W_]+", said.plainly(text))


def _all_in(words: list[str], names: list[str], in_short: bool) -> bool:
    """Whether each word is one of the names, the first letter of one, or in short the beginning of one: where nothing
    says the street, Smith is not Smithson."""
    return all(
        any(
            name == word
            or (in_short and len(word) >= _BEGINNING and name.startswith(word))
            or (len(word) == 1 and name.startswith(word))
            for name in names
        )
        for word in words
    )


def _start(street: str) -> str:
    """The number of a house and the first word of its street."""
    words = street.split()
    number, names = [one for one in words if one[0].isdigit()], [one for one in words if not one[0].isdigit()]
    return f"{number[0]} {names[0]}" if number and names else ""


def on_record() -> job_columns.OnRecord:
    """Whom and which places the register knows."""
    heaters = HeatersOnRecord()

    def is_customer(cell: str) -> bool:
        return heaters.has_customer(cell) or heaters.has_place_of_somebody(cell)

    return job_columns.OnRecord(is_customer, heaters.has_place, heaters.has_account)
