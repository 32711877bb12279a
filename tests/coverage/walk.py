"""A person who enters one thing through the API as the pages do, and looks for it wherever it should come back."""

import datetime
import json
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from aquifer.heaters.models import Heater
from aquifer.visiting import report
from aquifer.visits.models import Visit
from tests.visits.test_readings import answer
from tests.visits.test_report import recorded


@dataclass
class Entry:
    """One entry of the inventory: how it is entered, and the words by which it is found again."""

    enter: Callable[["Walk"], Any]
    shows: tuple[str, ...]
    """On the page of the heater or its site, in the log, or in the report."""
    out: tuple[str, str]
    """In which file, and by which words."""
    uses: tuple[str, str]
    """Where it changes something, and by which words: guide, log, heater, site, report, stock, open."""


@dataclass
class Walk:
    as_role: Callable[[str], Any]
    base: dict[str, Any]
    at: Heater = field(init=False)
    """The heater that is walked about."""
    last: Visit | None = None

    def __post_init__(self) -> None:
        self.planner = self.as_role("planner")
        self.at = self.base["heaters"][0]

    def heater(self, kind: str = "gas_tank", **fields: Any) -> None:
        """A new heater, through the form."""
        body = {
            "tag": f"W-{Heater.objects.count()}", "site_id": self.base["sites"][0].pk, "kind": kind,
            "installed_on": f"{datetime.date.today().year - 7}-05-01", **fields,
        }  # fmt: skip
        answered = self.planner.post("heaters", body)
        assert answered.status_code == 201, answered.json()
        self.at = Heater.objects.select_related("site").get(pk=answered.json()["id"])

    def part(self, kind: str, **fields: Any) -> None:
        body = {"kind": kind, "fitted_on": "2025-06-02", **fields}
        answered = self.planner.post(f"heaters/{self.at.pk}/parts", body)
        assert answered.status_code == 201, answered.json()

    def feature(self, kind: str, condition: str, of_site: bool = False, **fields: Any) -> None:
        body = {"kind": kind, "condition": condition, "heater_id": None if of_site else self.at.pk, **fields}
        answered = self.planner.post(f"sites/{self.at.site_id}/features", body)
        assert answered.status_code == 201, answered.json()

    def site(self, **fields: Any) -> None:
        now = self.planner.get(f"sites/{self.at.site_id}").json()["site"]
        body = {"name": now["name"], "zone_id": now["zone_id"], **fields}
        answered = self.planner.patch(f"sites/{self.at.site_id}", body)
        assert answered.status_code == 200, answered.json()

    def visit(self, *findings: dict[str, Any], noted: str = "", **answers: Any) -> None:
        """What a technician taps; double underscores stand for points."""
        steps = [answer(name.replace("__", "."), value) for name, value in answers.items()]
        if noted:
            steps.append({"kind": "noted", "step": "arrival.look", "why": noted, "name": "another_day"})
        self.last = recorded(self.as_role, self.at, *findings, steps=steps)

    def found(self, where: str) -> str:
        """Everything that a place tells, as text."""
        pk, site = self.at.pk, self.at.site_id
        if where == "report":
            assert self.last is not None
            return _text(report.content(self.last) | {"photographs": []})
        if where == "office report":
            assert self.last is not None
            return _text(report.content(self.last, office=True) | {"photographs": []})
        if where == "guide":
            return _text(self.as_role("technician").get(f"heaters/{pk}/guide?component=relief_valve").json())
        path = {
            "heater": f"heaters/{pk}", "log": f"heaters/{pk}/log", "site": f"sites/{site}",
            "open": "open-ends?limit=200", "stock": f"stock/{datetime.date.today()}",
            "outlook": "outlook?limit=100",
        }[where]  # fmt: skip
        return _text(self.planner.get(path).json())

    def taken(self, name: str) -> str:
        """A file that is taken out, as text."""
        answered = self.planner.raw.get(f"/api/{name}")
        assert answered.status_code == 200, name
        data = b"".join(answered.streaming_content) if answered.streaming else answered.content
        return data.decode("utf-8-sig")

    def check(self, entry: Entry) -> None:
        """Enter it and find it: shown, taken out, used."""
        entry.enter(self)
        pages = "".join(self.found(where) for where in ("heater", "log", "site"))
        pages += self.found("office report") if self.last else ""
        for words in entry.shows:
            assert words in pages, f"not shown: {words}"
        file, words = entry.out
        assert words in self.taken(file), f"not in {file}: {words}"
        where, words = entry.uses
        assert words in self.found(where), f"not in {where}: {words}"


def _text(told: Any) -> str:
    return json.dumps(told, ensure_ascii=False, default=str)


def verdict(guide: dict[str, Any], name: str, value: Any) -> set[str]:
    """What the rules of a guide say of one answer, as a device finds it."""
    said = set()
    for moment in guide["on_site_rules"]:
        words = []
        for one in moment["answers"]:
            if one["field"] != name:
                words.append(None)
            elif one["above"] is not None:
                words.append("above" if value > one["above"] else "below")
            else:
                words.append(str(value).lower() if isinstance(value, bool) else str(value))
        if any(words):
            said |= {case["verdict"] for case in moment["cases"] if case["at"] == words}
    return said
