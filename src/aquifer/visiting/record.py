"""Recording a visit: its findings, the parts it changed and the forecast it moved, all or nothing, and once."""

import dataclasses
import datetime
from collections.abc import Mapping

from django.db import IntegrityError, transaction
from django.db.models import Max, Q

from aquifer import changed
from aquifer.accounts import sign_offs
from aquifer.accounts.models import Role, User
from aquifer.company.models import Company
from aquifer.core.doubles import entered_before, facts
from aquifer.core.equipment import parts_of
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.observations import BY_FIELD
from aquifer.core.planning.parts import wants
from aquifer.core.procedures.library import FITTED, library
from aquifer.core.procedures.visit import Stand
from aquifer.core.reasons import Found, Standing, moved
from aquifer.core.units import Quantity, figure, worded
from aquifer.core.vocabulary import (
    LOOKED_AT,
    Component,
    ExpansionTankPin,
    Method,
    Removed,
    RodGrade,
    Task,
    ValveOutcome,
)
from aquifer.errors import Conflict, Invalid, NotAllowed, NotFound
from aquifer.forecasts.log import probe_least_mm
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, LeftAs, Part, PartKind
from aquifer.money.tasks import raise_quotes
from aquifer.open_ends.keep import hold
from aquifer.open_ends.models import OpenEnd, OpenEndKind, OpenEndState
from aquifer.rounds.done import complete_appointment
from aquifer.stock.lists import fitted
from aquifer.stock.use import NAMES, take
from aquifer.transactions import retried
from aquifer.visiting import apart, event_log
from aquifer.visiting.findings import findings_of
from aquifer.visiting.heater import of_visit
from aquifer.visits import doubles, pressure, readings
from aquifer.visits.models import Amendment, Event, EventKind, Finding, Visit, VisitSession
from aquifer.visits.schemas import AmendmentIn, FindingIn, MovedKept, ValveReplacementIn, VisitIn
from aquifer.visits.words import WORK, finding_words, units_shown

Value = str | float | bool
_STATE = {
    Component.SEDIMENT: "depth_mm",
    Component.SCALE: "thickness_mm",
    Component.ANODE: "fraction_left",
    Component.RELIEF_VALVE: "probability_stuck",
    Component.EXPANSION_TANK: "acceptance_l",
    Component.TANK: "failure_within_12_months",
}
_PARTS = {
    Component.ANODE: PartKind.ANODE,
    Component.RELIEF_VALVE: PartKind.RELIEF_VALVE,
    Component.EXPANSION_TANK: PartKind.EXPANSION_TANK,
}
_REPLACEMENTS = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)


@retried
def record_visit(payload: VisitIn, by: User, today: datetime.date, device: str = "") -> tuple[Visit, bool]:
    """Record a visit and move its heater's forecast.

    Returns: the visit, and whether it had been recorded before: a visit sent twice, or by two devices, is one.
    Raises: Invalid naming the field, NotAllowed, NotFound, Conflict if the id belongs to another visit.
    """
    try:
        with transaction.atomic():
            # The lock makes a second device's visit wait for the first's forecast.
            heater = of_visit(payload.heater_id, lock=True)
            # Also somebody who waited for the lock: a device that had joined this visit recorded it meanwhile.
            if existing := _existing(payload, heater):
                return existing, True
            session = _session(payload)
            steps, answers, stood = event_log.record(session)
            findings = _findings(payload, answers, steps)
            planned = [Component(one) for one in session.components] if session else []
            supervisor = _supervisor(payload, by, sign_offs.work_of((Task(one.task) for one in findings), planned))
            _check(findings, payload.on, heater, today)
            _learn(heater, stood, answers)
            visit = Visit.objects.create(
                client_id=session.client_id if session else payload.client_id,
                heater=heater,
                on=payload.on,
                recorded_by=by,
                supervised_by=supervisor,
                technician=by.name,
                device=device[:200],
                note=payload.note,
                steps=steps,
                readings=answers,
                signature=payload.signature.model_dump(mode="json") if payload.signature else None,
                ending=stood.ending if stood else "",
                return_on=_promised(payload, stood),
                **event_log.spent(session),
            )
            if session is not None:
                session.visit = visit
                session.save(update_fields=["visit"])
            _raise_open_end(visit, heater, stood, by, today)
            _leave_for_another_day(visit, heater, by, today)
            _hold(visit, heater, by, today)
            _ask_about_archive(visit, heater, by, today)
            _ask_about_double(visit, heater, findings, by, today)
            _ask_about_licences(visit, heater, findings, by, supervisor, today)
            _ask_about_valve(visit, heater, findings, by, today)
            _fit_told(heater, answers, visit.on)
            visit.moved = _found(visit, heater, findings)
            _off_the_truck(visit, by)
            visit.save(update_fields=["moved"])
            complete_appointment(heater.pk, visit.on)
            changed.zone(heater.site.zone_id)
            raise_quotes.defer(visit_id=visit.pk)
    except IntegrityError:
        # Both copies of a visit sent twice passed the first look; the unique id let one of them in.
        if existing := _existing(payload, of_visit(payload.heater_id)):
            return existing, True
        raise
    return visit, False


def _session(payload: VisitIn) -> VisitSession | None:
    session = VisitSession.objects.select_related("joined", "heater").filter(client_id=payload.client_id).first()
    return session and (session.joined or session)


def _findings(payload: VisitIn, answers: Mapping[str, object], steps: list[dict[str, object]]) -> list[FindingIn]:
    """What was found, from the events where there are any; a visit that was ended early may have found nothing, and one
    at which something was read or seen has found that."""
    told = findings_of(answers, Company.current().flush_method) or payload.findings
    if not told and not steps and not readings.told(answers) and not readings.told_in_words(answers):
        raise Invalid("Record at least one finding before saving.", "visit.invalid", {"findings": "none"})
    return told


def _learn(heater: Heater, stood: Stand | None, answers: Mapping[str, object]) -> None:
    """What a heater is and how it is lit, where nobody had looked before and it was seen at this visit."""
    if not heater.kind_seen and (kind := answers.get("look.kind")) in list(HeaterKind):
        heater.kind, heater.kind_seen, heater.version = str(kind), True, heater.version + 1
        heater.save(update_fields=["kind", "kind_seen", "version"])
        return
    left = answers.get("settings.left") or answers.get("settings.found")
    if isinstance(left, str) and left and left != heater.control_setting:
        heater.control_setting, heater.version = left[:80], heater.version + 1
        heater.save(update_fields=["control_setting", "version"])
    if stood is None or heater.ignition:
        return
    (lit, *others) = sorted(stood.state.words["ignition"])
    if not others and lit != "none":
        heater.ignition = lit
        heater.save(update_fields=["ignition"])


def _raise_open_end(visit: Visit, heater: Heater, stood: Stand | None, by: User, today: datetime.date) -> None:
    """What an early end leaves open, once for a cause; a heater that runs again closes what its being off left."""
    open_now = OpenEnd.objects.filter(heater=heater, words__startswith=LEFT).exclude(state=OpenEndState.CLOSED)
    if stood is None:
        return
    ending = library().endings[stood.ending] if stood.ending else None
    if ending is None or not ending.severity:
        if not LeftAs.objects.filter(heater=heater).exists():
            for open_end in open_now:
                open_end.state = OpenEndState.CLOSED
                open_end.closed_on = today
                open_end.how_closed = f"runs again: {by.name}"
                open_end.save()
        return
    licence = f" For somebody with a {ending.licence} license." if ending.licence else ""
    words = f"{LEFT if ending.leaves != 'restored' else ''}{ending.raises}{licence}"
    if not OpenEnd.objects.filter(heater=heater, words=words).exclude(state=OpenEndState.CLOSED).exists():
        OpenEnd.objects.create(
            site_id=heater.site_id, heater=heater, severity=ending.severity, words=words, raised_on=today, raised_by=by,
            promised_on=visit.return_on, visit_client_id=visit.client_id,
        )  # fmt: skip


def _promised(payload: VisitIn, stood: Stand | None) -> datetime.date | None:
    """When the customer was told that somebody comes back. Raises: Invalid where that cannot be kept."""
    back_on = payload.return_on
    if back_on is None or stood is None or not stood.ending:
        return None
    if not payload.on <= back_on <= payload.on + MOST_PROMISED:
        latest = payload.on + MOST_PROMISED
        fault = f"{back_on} is not between {payload.on} and {latest}"
        raise Invalid("The day that was promised cannot be so.", "visit.invalid", {"return_on": fault})
    return back_on


MOST_PROMISED = datetime.timedelta(days=90)
"""Later than this nobody leaves a customer without hot water. Assumption."""


ANOTHER_DAY = "another_day"
"""The name of a note that asks for something to be done on another day."""


def _leave_for_another_day(visit: Visit, heater: Heater, by: User, today: datetime.date) -> None:
    """What was noted for another day is on the list until somebody closes it."""
    for one in visit.steps:
        if one["kind"] == EventKind.NOTED and one.get("name") == ANOTHER_DAY and not one.get("taken_back"):
            OpenEnd.objects.create(
                site_id=heater.site_id, heater=heater, severity="defect", words=one["why"], raised_on=today,
                raised_by=by, visit_client_id=visit.client_id,
            )  # fmt: skip


def _hold(visit: Visit, heater: Heater, by: User, today: datetime.date) -> None:
    """What was seen and is not right stays on the list until it is seen right; a later visit has the last word."""
    looks = {name: str(value) for name, value in readings.in_words(visit).items() if name in BY_FIELD}
    later = Visit.objects.filter(heater=heater, on__gt=visit.on).prefetch_related("amendments")
    seen_since = {name for one in later for name in readings.in_words(one)} if looks else set()
    hold(heater, {name: one for name, one in looks.items() if name not in seen_since}, by, today, visit.client_id)


def _ask_about_archive(visit: Visit, heater: Heater, by: User, today: datetime.date) -> None:
    """Who stood before a heater that the office had put out of service is believed, and the office looks at it."""
    if heater.archived_at is None:
        return
    OpenEnd.objects.create(
        site_id=heater.site_id, heater=heater, kind=OpenEndKind.TO_ASK, severity="defect",
        words=f"{by.name} visited {heater.tag}, which is archived: put it back in service, or say what became of it.",
        raised_on=today, raised_by=by, visit_client_id=visit.client_id,
    )  # fmt: skip


def _ask_about_double(visit: Visit, heater: Heater, findings: list[FindingIn], by: User, today: datetime.date) -> None:
    """What says the same as a visit a few days before or after it is kept, and the office looks which of them was. Who
    was led step by step was there."""
    if visit.steps:
        return
    told = [(Task(one.task), {name: getattr(one, name, None) for name in doubles.FOUND}) for one in findings]
    before = entered_before(visit.on, facts(told), doubles.on_record([heater.pk]).get(heater.pk, []))
    if before is not None:
        this = f"{visit.on.day} {visit.on:%B %Y}"
        days = f"Two visits of {this}" if before == visit.on else f"The visits of {before.day} {before:%B} and {this}"
        OpenEnd.objects.create(
            site_id=heater.site_id, heater=heater, kind=OpenEndKind.TO_ASK, severity="note",
            words=f"{days} to {heater.tag} say the same: was one entered twice? Amend the one that was not.",
            raised_on=today, raised_by=by, visit_client_id=visit.client_id,
        )  # fmt: skip


def _ask_about_licences(
    visit: Visit, heater: Heater, findings: list[FindingIn], by: User, supervisor: User | None, today: datetime.date
) -> None:
    """Licensed work that nobody at the visit holds a license for, and an apprentice's under somebody who tapped
    nothing, is kept and put before the office."""
    licensed = [_LICENSED[task] for one in findings if (task := Task(one.task)) in _LICENSED]
    if not licensed:
        return
    people = [by, *([supervisor] if supervisor else [])]
    if not any("plumbing" in user.licences_held for user in people):
        words = f"{by.name} recorded a {licensed[0]} without a plumbing license: look at it."
    elif supervisor and not Event.objects.filter(session__visit=visit, by=supervisor).exists():
        words = f"{by.name} recorded a {licensed[0]} under {supervisor.name}, who tapped nothing: ask them."
    else:
        return
    OpenEnd.objects.create(
        site_id=heater.site_id, heater=heater, kind=OpenEndKind.TO_ASK, severity="defect", words=words,
        raised_on=today, raised_by=by,
    )  # fmt: skip


def _ask_about_valve(visit: Visit, heater: Heater, findings: list[FindingIn], by: User, today: datetime.date) -> None:
    """A relief valve that passes less than its heater puts in, or does not reach the water, protects nobody: it is put
    before the office."""
    least_mm, said = probe_least_mm(heater), []
    for one in findings:
        if not isinstance(one, ValveReplacementIn):
            continue
        if one.rating_kw and heater.input_kw and one.rating_kw < heater.input_kw:
            said.append(
                f"The new relief valve passes {figure(Quantity.POWER, one.rating_kw)}, the heater puts in "
                f"{figure(Quantity.POWER, heater.input_kw)}: fit one that passes it."
            )
        if one.probe_length_mm and least_mm and one.probe_length_mm < least_mm:
            said.append(
                f"The new relief valve's probe has {figure(Quantity.LENGTH, one.probe_length_mm)}, and "
                f"{figure(Quantity.LENGTH, least_mm)} reach the water: fit a longer one."
            )
    for words in said:
        OpenEnd.objects.create(
            site_id=heater.site_id, heater=heater, severity="danger", words=worded(words, units_shown()),
            raised_on=today, raised_by=by, visit_client_id=visit.client_id,
        )  # fmt: skip


_LICENSED = {
    Task.RELIEF_VALVE_REPLACEMENT: "relief valve renewed",
    Task.EXPANSION_TANK_REPLACEMENT: "expansion tank renewed",
}
LEFT = "Left as it is: "
"""How an open issue begins that says why a heater is not running."""


def _found(
    visit: Visit, heater: Heater, findings: list[FindingIn], amendment: Amendment | None = None
) -> list[MovedKept]:
    """Append findings and answer with what they moved."""
    before = _standings(heater.pk)
    first = (visit.findings.aggregate(last=Max("sequence"))["last"] or 0) + 1
    for sequence, finding in enumerate(findings, first if amendment else 0):
        _append(visit, heater, sequence, finding, amendment)
    ids = {heater.pk} if heater.archived_at is None else set()
    if any(Task(one.task) is Task.PRESSURE_TEST for one in findings) and pressure.keep(
        [heater.site_id], amendment.by if amendment else visit.recorded_by
    ):
        ids |= set(Heater.objects.in_service().filter(site=heater.site_id).values_list("pk", flat=True))
    if ids:
        changed.heaters(sorted(ids))
    return _moved(before, _standings(heater.pk), findings)


@retried
def amend(visit_id: int, payload: AmendmentIn, by: User, today: datetime.date) -> list[MovedKept]:
    """Put something right in a visit's record, or add to it, once; what was recorded stays and is told with it.

    Returns: what it moved in the forecast. Raises: NotFound, Invalid naming the field.
    """
    with transaction.atomic():
        visit = Visit.objects.select_for_update(of=("self",)).select_related("heater__site").filter(pk=visit_id).first()
        if visit is None:
            raise NotFound("There is no such visit.")
        if Amendment.objects.filter(client_id=payload.client_id).exists():
            return []
        findings = [*payload.findings, *findings_of(payload.answers, Company.current().flush_method)]
        read = {**readings.checked(payload.answers), **readings.told_in_words(payload.answers)}
        if not findings and not read:
            raise Invalid("Say what is put right or added.", "visit.invalid", {"findings": "none"})
        _check(findings, visit.on, visit.heater, today)
        amendment = Amendment.objects.create(
            client_id=payload.client_id, visit=visit, by=by, why=payload.why, readings=read
        )
        _fit_told(visit.heater, payload.answers, visit.on)
        _hold(visit, visit.heater, by, today)
        moved = _found(visit, visit.heater, findings, amendment)
        amendment.moved = moved
        amendment.save(update_fields=["moved"])
        changed.zone(visit.heater.site.zone_id)
        raise_quotes.defer(visit_id=visit.pk)
    return moved


def findings_not_in_record(visit: Visit, payload: VisitIn) -> list[str]:
    """What was told and is not in a visit's record, in words: another device saw otherwise, or more."""
    session = VisitSession.objects.filter(visit=visit).first()
    answered = event_log.answers(event_log.in_effect(apart.in_order(session))) if session else {}
    findings = [*payload.findings, *findings_of(answered, Company.current().flush_method)]
    known = {(finding.task, finding.item): finding for finding in visit.findings.filter(correction__isnull=True)}
    told, units = [], units_shown()
    for one in findings:
        values = {k: v for k, v in one.model_dump(exclude={"task"}).items() if v is not None and v is not False}
        there = known.get((one.task, values.get("item", "")))
        if there is None or (one.task not in _REPLACEMENTS and any(getattr(there, k) != v for k, v in values.items())):
            told.append(finding_words(Finding(task=one.task, **({} if one.task in _REPLACEMENTS else values)), units))
    return list(dict.fromkeys(told))


def _existing(payload: VisitIn, heater: Heater) -> Visit | None:
    known = Q(client_id=payload.client_id) | Q(session__joiners__client_id=payload.client_id)
    visit = Visit.objects.filter(known).first()
    if visit and visit.heater_id != heater.pk:
        raise Conflict("This visit's id belongs to a visit at another heater.", "visit.id_taken")
    return visit


def _supervisor(payload: VisitIn, by: User, work: list[Component]) -> User | None:
    if not sign_offs.works_under_supervision(by):
        return None
    qualified = User.objects.filter(is_active=True, is_new=False, role__in=[Role.TECHNICIAN, Role.LEAD])
    supervisor = qualified.filter(pk=payload.supervised_by).first() if payload.supervised_by else None
    if supervisor is None and (lacking := sign_offs.lacking(by, work, payload.on)):
        work_words = ", ".join(WORK[one] for one in lacking)
        raise NotAllowed(
            f"You are not signed off yet for {work_words}: say under whom you worked.",
            "visit.needs_supervisor",
            {"supervised_by": "name a technician or the lead"},
        )
    return supervisor


def _check(findings: list[FindingIn], on: datetime.date, heater: Heater, today: datetime.date) -> None:
    wrong: dict[str, str] = {}
    if on > today:
        wrong["on"] = f"{on} is in the future"
    if heater.installed_on and on < heater.installed_on:
        wrong["on"] = f"{on} is before the heater was installed ({heater.installed_on})"
    kind = HeaterKind(heater.kind)
    for position, finding in enumerate(findings):
        task = Task(finding.task)
        if not kind.is_tank and task in (Task.FLUSH, Task.ANODE_INSPECTION, Task.ANODE_REPLACEMENT):
            wrong[f"findings.{position}.task"] = "a tankless heater has no tank floor and no rod; it is descaled"
        if not KINDS[kind].has_exchanger and task is Task.DESCALE:
            wrong[f"findings.{position}.task"] = (
                "a tank is flushed; only a tankless heater or an indirect tank's coil is descaled"
            )
    if wrong:
        raise Invalid("Not recorded. " + "; ".join(f"{k}: {v}" for k, v in wrong.items()), "visit.invalid", wrong)


def _append(
    visit: Visit, heater: Heater, sequence: int, finding: FindingIn, amendment: Amendment | None = None
) -> None:
    task = Task(finding.task)
    kind = _PARTS.get(LOOKED_AT[task]) if task in LOOKED_AT else None
    part = Part.objects.filter(heater=heater, kind=kind, removed_on__isnull=True).first() if kind else None
    values = {k: v for k, v in finding.model_dump(exclude={"task"}).items() if v is not None}
    # A finding of the same thing is put right; of another thing, it is added.
    corrects = (
        visit.findings.filter(task=task, item=values.get("item", ""), correction__isnull=True).first()
        if amendment
        else None
    )
    if kind and task in _REPLACEMENTS:
        if corrects is not None and corrects.part is not None:
            # It was fitted once: what is known of it is put right.
            part = _put_right(corrects.part, values)
        else:
            part = _fit(heater, kind, part, visit.on, values)
        values = {}
    Finding.objects.create(
        visit=visit, heater=heater, part=part, on=visit.on, sequence=sequence, task=task, amendment=amendment,
        corrects=corrects, **values,
    )  # fmt: skip


def _fit(heater: Heater, kind: PartKind, old: Part | None, on: datetime.date, values: dict[str, Value]) -> Part:
    """The new part: what was said of it, and as the old one what somebody compared."""
    alike = values.pop("alike", False)
    kept = {name: getattr(old, name) for name in _ALIKE} if old and alike else {}
    if old:
        old.removed_on = max(on, old.fitted_on or on)
        old.save(update_fields=["removed_on"])
    return Part.objects.create(heater=heater, kind=kind, fitted_on=on, **{**kept, **values})


def _fit_told(heater: Heater, answers: Mapping[str, object], on: datetime.date) -> None:
    """Parts that are told as fitted by their kind, each once a day."""
    for kind in sorted(parts_of(HeaterKind(heater.kind))):
        if answers.get(f"fitted.{kind}") is not True:
            continue
        build = str(answers.get(f"fitted_build.{kind}") or "")[:80]
        old = Part.objects.filter(heater=heater, kind=kind, removed_on__isnull=True).first()
        if old is not None and old.fitted_on == on:
            _put_right(old, {"build": build})
        else:
            _fit(heater, PartKind(kind), old, on, {"build": build})


def _off_the_truck(visit: Visit, by: User) -> None:
    """What was fitted no longer lies on the truck of who fitted it."""
    told = {f"fitted.{kind}" for kind in FITTED if visit.readings.get(f"fitted.{kind}") is True}
    renewed = set(visit.findings.filter(task__in=_REPLACEMENTS).values_list("part_id", flat=True))
    if not told and not renewed:
        return
    for part in Part.objects.filter(heater=visit.heater_id, fitted_on=visit.on, removed_on__isnull=True):
        if part.pk in renewed:
            component = next(one for one, kind in _PARTS.items() if kind == part.kind)
            (want, *_) = wants(HeaterKind(visit.heater.kind), component, 1.0, fitted(part, {}))
            take(by, want.part, part.count)
        elif f"fitted.{part.kind}" in told:
            take(by, NAMES.get(part.kind, part.kind.replace("_", " ")))


def _put_right(part: Part, values: dict[str, Value]) -> Part:
    for name, value in values.items():
        if name != "alike" and value != "":
            setattr(part, name, value)
    part.save()
    return part


_ALIKE = (
    "alloy", "diameter_mm", "length_mm", "count", "set_pressure_kpa", "set_temperature_c", "probe_length_mm",
    "rating_kw", "volume_l", "precharge_kpa",
)  # fmt: skip


def _standings(heater_id: int) -> dict[Component, Standing]:
    found = {}
    for forecast in Forecast.objects.current().filter(heater_id=heater_id):
        component = Component(forecast.component)
        days = forecast.reached_days
        found[component] = Standing(
            component,
            forecast.due_on,
            _after(forecast.as_of, days[1]),
            _after(forecast.as_of, days[5]),
            Method(forecast.method),
            forecast.state[_STATE[component]][1],
            forecast.log_theta,
            forecast.limit_value,
        )
    return found


def _after(start: datetime.date, days: int | None) -> datetime.date | None:
    return None if days is None else start + datetime.timedelta(days=days)


def _or(measured: float | None, known: float | None) -> float | None:
    """A measured 0 is a finding."""
    return known if measured is None else measured


def _moved(
    before: dict[Component, Standing], after: dict[Component, Standing], findings: list[FindingIn]
) -> list[MovedKept]:
    found: dict[Component, Found] = {}
    for finding in findings:
        task = Task(finding.task)
        component = LOOKED_AT.get(task)
        if component is None:
            continue
        known = found.get(component, Found())
        values = finding.model_dump()
        found[component] = dataclasses.replace(
            known,
            removed=Removed(values["removed"]) if values.get("removed") else known.removed,
            depth_mm=_or(values.get("depth_before_mm"), known.depth_mm),
            rod=RodGrade(values["grade"]) if values.get("grade") else known.rod,
            bare_mm=_or(values.get("bare_wire_mm"), known.bare_mm),
            outcome=ValveOutcome(values["outcome"]) if values.get("outcome") else known.outcome,
            pin=ExpansionTankPin(values["at_valve"]) if values.get("at_valve") else known.pin,
            precharge_kpa=_or(values.get("precharge_kpa"), known.precharge_kpa),
            replaced=known.replaced or task in _REPLACEMENTS,
        )
    return [
        {
            "component": one.component,
            "before_on": _iso(one.before_on),
            "after_on": _iso(one.after_on),
            "days": one.days,
            "reasons": [{"key": reason.key, "figures": dict(reason.figures)} for reason in one.reasons],
            "looked_at": one.component in found,
        }
        for one in (moved(before.get(component), after[component], found.get(component)) for component in after)
    ]


def _iso(day: datetime.date | None) -> str | None:
    return day.isoformat() if day else None
