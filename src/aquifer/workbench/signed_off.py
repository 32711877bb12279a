"""Who may do what alone: what was practised and done under supervision, what is asked for, and the lead's word."""

import datetime
from collections import Counter

from django.db import IntegrityError, transaction
from django.db.models import Q
from django.utils import timezone

from aquifer.accounts import sign_offs
from aquifer.accounts.models import Role, SignOff, User
from aquifer.core.vocabulary import LOOKED_AT, Component, Task
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.history import versions
from aquifer.visits.models import Visit
from aquifer.workbench.models import Asked, Practised
from aquifer.workbench.schemas import AskedOut, SignedOffOut, SignedOffPersonOut, SignedOffWorkOut
from aquifer.workbench.written import known_scenarios

USUAL_PASSES, USUAL_VISITS = 2, 3
"""Practices and supervised visits before somebody does it alone, until the company says its own. Assumption."""
LONGEST = datetime.timedelta(days=5 * 366)
"""A sign-off is looked at again by then. Assumption."""


def practised_in() -> dict[Component, list[str]]:
    """The scenarios in which each work is practised; looking a heater over is part of all."""
    known = known_scenarios().values()
    return {work: [one.name for one in known if work is Component.TANK or work in one.due] for work in Component}


def asked_for() -> dict[Component, tuple[int, int]]:
    """How many practices and supervised visits are asked for, for each work. What no scenario has is not asked for."""
    told = {one.work: (one.passes, one.visits) for one in Asked.objects.all()}
    practised = practised_in()
    usual = {work: (USUAL_PASSES if practised[work] else 0, USUAL_VISITS) for work in Component}
    return {work: told.get(work.value, usual[work]) for work in Component}


def ask(work: Component, passes: int, visits: int, read: int | None = None) -> None:
    """Ask for so many from now on; who was signed off stays so.

    Parameters: read, the version that the edit started from.
    Raises: Invalid if no scenario has that work; Conflict if somebody asked for something else since.
    """
    if passes and not practised_in()[work]:
        said = "no heater of the bench has this work: ask for supervised visits alone"
        raise Invalid("It cannot be practised yet.", "sign_off.not_practised", {"passes": said})
    versions.write(Asked, {"work": work.value}, read, {"passes": passes, "visits": visits})


def page(today: datetime.date) -> SignedOffOut:
    """Everybody who works under supervision, or was signed off, and how far they are; a fixed number of queries."""
    people = {user.pk: user for user in _people()}
    held = {(one.person_id, one.work): one for one in sign_offs.in_force(today).select_related("by")}
    passes, visits = _passes(people), _visits(people)
    rows = dict(Asked.objects.values_list("work", "pk"))
    known = versions.versions(Asked, rows.values())
    practised = practised_in()
    return {
        "asked": [
            _asked(work, *told, known.get(rows.get(work, 0), 0), bool(practised[work]))
            for work, told in asked_for().items()
        ],
        "people": [_person(user, held, passes, visits) for user in people.values()],
    }


def sign_off(by: User, person_id: int, work: Component, until: datetime.date | None, why: str) -> SignOff:
    """Somebody may do some work alone, until a last day or for good.

    Raises: NotFound, Conflict where they may already, Invalid for a day that is over or too far off, and where less
    was done than is asked for and nobody says why it is enough.
    """
    today = timezone.localdate()
    person = User.objects.filter(pk=person_id, is_active=True).first()
    if person is None:
        raise NotFound("There is no such account in use.")
    if not sign_offs.works_under_supervision(person):
        raise Conflict(f"{person.name} works without supervision as it is.", "sign_off.not_needed")
    if until is not None and not today < until <= today + LONGEST:
        raise Invalid("A last day lies ahead, within five years.", "sign_off.until", {"until": "after today"})
    if not why.strip() and (missing := _missing(person, work)):
        raise Invalid(f"{missing}: say why it is enough.", "sign_off.why", {"why": missing})
    # One that ended by its day makes room for another.
    SignOff.objects.filter(person=person, work=work.value, ended_at=None, until__lt=today).update(
        ended_at=timezone.now(), ended_by=by
    )
    try:
        with transaction.atomic():
            return SignOff.objects.create(person=person, work=work.value, by=by, until=until, why=why.strip())
    except IntegrityError:
        raise Conflict(f"{person.name} is signed off for it already.", "sign_off.held") from None


def take_back(by: User, sign_off_id: int) -> None:
    """From now on it is done under supervision again. Raises: NotFound."""
    ended = SignOff.objects.filter(pk=sign_off_id, ended_at=None).update(ended_at=timezone.now(), ended_by=by)
    if not ended:
        raise NotFound("That sign-off is not in force.")


def _people() -> list[User]:
    supervised = Q(role=Role.APPRENTICE) | Q(is_new=True) | Q(sign_offs__isnull=False)
    users = User.objects.filter(supervised, is_active=True).exclude(role=Role.PLANNER)
    return list(users.distinct().order_by("first_name", "username"))


def _passes(people: dict[int, User]) -> Counter[tuple[int, Component]]:
    """Practices passed without the guide and with the tank shut, by person and work."""
    of = {work: set(names) for work, names in practised_in().items()}
    tries = Practised.objects.filter(by__in=people, passed=True, guided=False).values_list("by_id", "scenario")
    return Counter((by, work) for by, scenario in tries for work in Component if scenario in of[work])


def _visits(people: dict[int, User]) -> Counter[tuple[int, Component]]:
    """Supervised visits at which some work was done, by person and work."""
    told = Visit.objects.filter(recorded_by__in=people, supervised_by__isnull=False)
    rows = told.values_list("pk", "recorded_by_id", "findings__task")
    return Counter(
        (by, work)
        for _, by, work in {
            (visit, by, LOOKED_AT.get(Task(task), Component.TANK) if task else Component.TANK)
            for visit, by, task in rows
        }
    )


def _missing(person: User, work: Component) -> str:
    people = {person.pk: person}
    passes, visits = asked_for()[work]
    done, seen = _passes(people)[person.pk, work], _visits(people)[person.pk, work]
    lines = []
    if done < passes:
        lines.append(f"{done} of {passes} practices passed")
    if seen < visits:
        lines.append(f"{seen} of {visits} supervised visits")
    return " and ".join(lines)


def _asked(work: Component, passes: int, visits: int, version: int, can_practise: bool) -> AskedOut:
    return {"work": work, "passes": passes, "visits": visits, "can_practise": can_practise, "version": version}


def _person(
    user: User,
    held: dict[tuple[int, str], SignOff],
    passes: Counter[tuple[int, Component]],
    visits: Counter[tuple[int, Component]],
) -> SignedOffPersonOut:
    return {
        "user_id": user.pk,
        "name": user.name,
        "role": user.get_role_display().lower(),
        "is_new": user.is_new,
        "supervised": sign_offs.works_under_supervision(user),
        "work": [
            _work(work, held.get((user.pk, work.value)), passes[user.pk, work], visits[user.pk, work])
            for work in Component
        ],
    }


def _work(work: Component, held: SignOff | None, passes: int, visits: int) -> SignedOffWorkOut:
    return {
        "work": work,
        "sign_off_id": held.pk if held else None,
        "until": held.until if held else None,
        "by": held.by.name if held else "",
        "why": held.why if held else "",
        "passes": passes,
        "visits": visits,
    }
