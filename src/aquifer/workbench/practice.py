"""Practice over HTTP: where it stands after its acts, and what of it is kept when it ends."""

from collections import OrderedDict
from collections.abc import Iterable, Mapping, Sequence
from copy import deepcopy
from dataclasses import asdict
from threading import Lock

from django.db.models import Q

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.core.bench.grading import Grade, graded
from aquifer.core.bench.guided import Guided, guided
from aquifer.core.bench.hand import Act
from aquifer.core.bench.heater import LOOSE_KG_L
from aquifer.core.bench.practice import CONSEQUENCES, LONGEST_S, Consequence, Harm, Practice, begun, handles_of
from aquifer.core.bench.scenario import Scenario, written
from aquifer.core.bench.seen import inside, seen
from aquifer.core.procedures.library import library, practices_followed
from aquifer.core.units import worded
from aquifer.core.vocabulary import Removed
from aquifer.errors import Invalid, NotFound
from aquifer.forecasts.models import PractisedLook
from aquifer.visits.words import units_shown
from aquifer.workbench.models import Practised
from aquifer.workbench.schemas import (
    AtBenchOut,
    BenchStepOut,
    GradeOut,
    HarmOut,
    InsideOut,
    PractisedByOut,
    ScenarioOut,
    SeenOut,
    ToReadOut,
)
from aquifer.workbench.written import known_scenarios

KEPT = 48
"""Practices under way whose last seconds are kept ready: without, each act would be reckoned from the door."""

_kept: OrderedDict[tuple[str, int, tuple[Act, ...]], Practice] = OrderedDict()
_lock = Lock()


def scenario_named(name: str) -> Scenario:
    """Raises: NotFound."""
    known = known_scenarios()
    scenario = known.get(name)
    if scenario is None:
        raise NotFound("There is no such scenario.", fields={"scenario": f"allowed: {', '.join(known)}"})
    return scenario


def stood(scenario: Scenario, seed: int, acts: Sequence[Act], at_s: int, harms: int = LONGEST_S) -> Practice:
    """Where a practice stands at a second, or where more goes wrong than so many before.

    Raises: Invalid naming the act that cannot be.
    """
    done = tuple(acts)
    practice = _nearest(scenario, seed, done, at_s)
    for place in range(len(practice.acts), len(done)):
        act = done[place]
        if act.at_s < practice.now_s:
            raise Invalid("Acts come in the order of their seconds.", fields={f"acts.{place}.at_s": "earlier"})
        practice.until(act.at_s)
        try:
            practice.act(act)
        except ValueError as error:
            raise Invalid(f"That cannot be done: {error}.", fields={f"acts.{place}": str(error)}) from error
    # What is known to have gone wrong stops nothing; what goes wrong anew stops the clock.
    practice.until(at_s, max(harms, 0))
    with _lock:
        _kept[_key(scenario), seed, done] = deepcopy(practice)
        _kept.move_to_end((_key(scenario), seed, done))
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return practice


def _key(scenario: Scenario) -> str:
    """One that was written anew is another heater."""
    return written(scenario)


def _nearest(scenario: Scenario, seed: int, acts: tuple[Act, ...], at_s: int) -> Practice:
    """A practice that is kept ready, with most of the acts and not beyond the second at which the next is due."""
    with _lock:
        for count in range(len(acts), -1, -1):
            kept = _kept.get((_key(scenario), seed, acts[:count]))
            due = acts[count].at_s if count < len(acts) else at_s
            if kept is not None and kept.now_s <= due:
                return deepcopy(kept)
    return begun(scenario, seed)


def told(practice: Practice, is_guided: bool, is_cut: bool) -> AtBenchOut:
    """A practice as a page draws it. Parameters: is_cut, the tank is cut open."""
    return {
        "at_s": practice.now_s,
        "acts": len(practice.acts),
        "is_over": practice.now_s >= LONGEST_S,
        "seen": SeenOut.from_orm(seen(practice)),
        "inside": InsideOut.from_orm(inside(practice.heater)) if is_cut else None,
        "harms": harms_told(practice.harms, CONSEQUENCES),
        "refusals": [{"act": act, "says": says} for act, says in practice.refusals.items()],
        "drew": practice.drew,
        "guide": guide_told(_beside(practice)) if is_guided else None,
    }


def _beside(practice: Practice) -> Guided:
    try:
        return guided(practice, practices_followed(Company.current().step_practices))
    except ValueError as error:
        raise Invalid(f"The guide cannot be told that: {error}.", fields={"acts": str(error)}) from error


def harms_told(harms: Iterable[Harm], of: Mapping[str, Consequence]) -> list[HarmOut]:
    """What went wrong. Parameters: of, what can, by its name."""
    return [
        {
            "name": harm.name,
            "says": of[harm.name].says,
            "at_s": harm.at_s,
            "act": harm.act,
            "read": _step(of[harm.name].read),
        }
        for harm in harms
    ]


def _step(name: str) -> ToReadOut:
    """A step of the trade to be read again."""
    units, procedure = units_shown(), library().procedures[name.partition(".")[0]]
    step = library().steps[name]
    return {
        "title": procedure.title,
        "do": worded(step.do, units),
        "why": worded(step.why, units),
        "caution": worded(step.caution, units),
    }


def guide_told(guided: Guided) -> BenchStepOut:
    """The guide's present step, in the company's units."""
    units, now = units_shown(), guided.stand.now
    if now is None:
        return {
            "step": "", "title": "", "do": "", "why": "", "caution": "", "expect": "", "part": "",
            "deviations": [], "held": [], "left": 0, "done": guided.done,
        }  # fmt: skip
    return {
        "step": now.id,
        "title": guided.library.procedures[now.procedure].title,
        "do": worded(now.step.do, units),
        "why": worded(now.step.why, units),
        "caution": worded(now.step.caution, units),
        "expect": worded(now.step.expect, units),
        "part": now.step.part,
        "deviations": [{"choice": choice, "says": worded(says, units)} for choice, says in guided.deviations],
        "held": [
            {"rule": held.rule, "says": worded(held.says, units), "out_says": worded(held.out_says, units)}
            for held in guided.held
        ],
        "left": len(guided.stand.left),
        "done": guided.done,
    }


def grade_told(grade: Grade) -> GradeOut:
    """A grade, in the company's units."""
    units = units_shown()
    return {
        "passed": grade.passed,
        "share": grade.share,
        "marks": [
            {
                "name": mark.name,
                "good": mark.good,
                "must": mark.must,
                "says": worded(mark.says, units),
                "read": None if mark.good else _step(mark.read),
            }
            for mark in grade.marks
        ],
    }


def ended(
    by: User, scenario: Scenario, seed: int, acts: Sequence[Act], at_s: int, is_guided: bool, looked: bool
) -> tuple[Practised, Practice, Grade]:
    """A practice that its person ends is graded and kept. Raises: Invalid as ``stood``."""
    practice = stood(scenario, seed, acts, at_s)
    grade = graded(practice)
    kept = Practised.objects.create(
        by=by,
        scenario=scenario.name,
        seed=seed,
        guided=is_guided,
        seconds=practice.now_s,
        share=grade.share,
        passed=grade.passed and not looked,
        looked_inside=looked,
        harms=[harm.name for harm in practice.harms],
        acts=[asdict(act) for act in acts],
    )
    _teach(by, practice)
    return kept, practice, grade


LEAST_MM = 0.5
"""Of less an eye says nothing. Assumption."""


def _teach(by: User, practice: Practice) -> None:
    """What was graded by eye tells of the eye, whether it was passed or not."""
    build, noted = practice.began.build, practice.notes.get("removed", "")
    litres = practice.heater.removed_kg / LOOSE_KG_L
    depth_mm = litres / (build.litres / 1000 / build.height_m)
    if noted in list(Removed) and depth_mm >= LEAST_MM:
        PractisedLook.objects.create(by=by, depth_mm=round(depth_mm, 1), removed=noted)


def offered(by: User) -> list[ScenarioOut]:
    """The scenarios, with how its person did in each."""
    tries: dict[str, list[Practised]] = {}
    for one in Practised.objects.filter(by=by).defer("acts"):
        tries.setdefault(one.scenario, []).append(one)
    return [
        {
            "name": scenario.name,
            "title": scenario.title,
            "says": scenario.says,
            "kind": scenario.kind,
            "tries": len(mine := tries.get(scenario.name, [])),
            "passed_free": next((try_.at for try_ in mine if try_.passed and not try_.guided), None),
            "passed_guided": next((try_.at for try_ in mine if try_.passed and try_.guided), None),
            "best_share": max((try_.share for try_ in mine), default=None),
            "handles": [{"name": name, "to": list(to)} for name, to in handles_of(scenario.built(1).fuel).items()],
            "asks": list(scenario.asks),
            "within_min": scenario.within_min,
        }
        for scenario in known_scenarios().values()
    ]


def by_person() -> list[PractisedByOut]:
    """How everybody did, who practised or is an apprentice: what each passed without the guide."""
    people = User.objects.filter(Q(is_active=True, role="apprentice") | Q(practised__isnull=False)).distinct()
    rows = {user.pk: user for user in people.order_by("first_name", "username")}
    tries: dict[int, list[Practised]] = {pk: [] for pk in rows}
    for one in Practised.objects.filter(by__in=rows).defer("acts"):
        tries[one.by_id].append(one)
    return [
        {
            "user_id": pk,
            "name": person.name,
            "role": person.get_role_display().lower(),
            "tries": len(tries[pk]),
            "passed": sorted({one.scenario for one in tries[pk] if one.passed and not one.guided}),
            "last_at": tries[pk][0].at if tries[pk] else None,
            "harms": sum(len(one.harms) for one in tries[pk][:10]),
        }
        for pk, person in rows.items()
    ]
