"""Searches for a fault over HTTP: where one stands after its acts, and what of it is kept when it ends."""

from collections.abc import Sequence
from dataclasses import asdict

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.core.bench.grading import Grade
from aquifer.core.bench.hand import Act
from aquifer.core.bench.practice import LONGEST_S
from aquifer.core.bench.trouble.graded import graded
from aquifer.core.bench.trouble.guided import guided
from aquifer.core.bench.trouble.search import HURTS, Search, folded
from aquifer.core.bench.trouble.trouble import Trouble
from aquifer.core.procedures.library import practices_followed
from aquifer.core.units import worded
from aquifer.errors import Invalid, NotFound
from aquifer.visits.words import units_shown
from aquifer.workbench.models import Practised
from aquifer.workbench.practice import guide_told, harms_told
from aquifer.workbench.schemas import BenchStepOut, SearchOut, TroubleOut
from aquifer.workbench.written import known_troubles


def trouble_named(name: str) -> Trouble:
    """Raises: NotFound."""
    known = known_troubles()
    trouble = known.get(name)
    if trouble is None:
        raise NotFound("There is no such complaint.", fields={"trouble": f"allowed: {', '.join(known)}"})
    return trouble


def stood(trouble: Trouble, seed: int, acts: Sequence[Act], at_s: int) -> Search:
    """Where a search stands at a second. Raises: Invalid saying what cannot be."""
    try:
        return folded(trouble, seed, acts, at_s)
    except ValueError as error:
        raise Invalid(f"That cannot be done: {error}.", fields={"acts": str(error)}) from error


def told(search: Search, is_guided: bool) -> SearchOut:
    """A search as a page shows it, in the company's units."""
    units = units_shown()
    return {
        "at_s": search.now_s,
        "acts": len(search.acts),
        "is_over": search.now_s >= LONGEST_S,
        "shown": [
            {"act": one.act, "at_s": one.at_s, "point": one.point, "deed": one.deed, "says": worded(one.says, units)}
            for one in search.shown
        ],
        "harms": harms_told(search.harms, HURTS),
        "refusals": [{"act": act, "says": says} for act, says in search.refusals.items()],
        "cause": search.cause,
        "guide": _beside(search) if is_guided else None,
    }


def _beside(search: Search) -> BenchStepOut:
    try:
        return guide_told(guided(search, practices_followed(Company.current().step_practices)))
    except ValueError as error:
        raise Invalid(f"The guide cannot be told that: {error}.", fields={"acts": str(error)}) from error


def ended(
    by: User, trouble: Trouble, seed: int, acts: Sequence[Act], at_s: int, is_guided: bool
) -> tuple[Search, Grade]:
    """A search that its person ends is graded and kept. Raises: Invalid as ``stood``."""
    search = stood(trouble, seed, acts, at_s)
    grade = graded(search)
    Practised.objects.create(
        by=by,
        scenario=trouble.name,
        seed=seed,
        guided=is_guided,
        seconds=search.now_s,
        share=grade.share,
        passed=grade.passed,
        looked_inside=False,
        harms=[harm.name for harm in search.harms],
        acts=[asdict(act) for act in acts],
    )
    return search, grade


def offered(by: User) -> list[TroubleOut]:
    """The complaints, with how its person did in each."""
    tries: dict[str, list[Practised]] = {}
    known = known_troubles()
    for one in Practised.objects.filter(by=by, scenario__in=known).defer("acts"):
        tries.setdefault(one.scenario, []).append(one)
    return [_offered(trouble, tries.get(trouble.name, [])) for trouble in known.values()]


def _offered(trouble: Trouble, mine: list[Practised]) -> TroubleOut:
    rig = trouble.rig(1)
    return {
        "name": trouble.name,
        "title": trouble.title,
        "says": trouble.says,
        "kind": trouble.kind,
        "tries": len(mine),
        "passed_free": next((try_.at for try_ in mine if try_.passed and not try_.guided), None),
        "passed_guided": next((try_.at for try_ in mine if try_.passed and try_.guided), None),
        "best_share": max((try_.share for try_ in mine), default=None),
        "within_min": trouble.within_min,
        "points": [
            {"name": one.name, "title": one.title, "line": one.line, "deeds": list(one.deeds)} for one in rig.points
        ],
        "causes": [{"name": name, "says": fault.says} for name, fault in rig.faults.items()],
    }
