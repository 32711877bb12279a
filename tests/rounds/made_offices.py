"""Offices with a crew, houses, heaters that want something, and a telephone, made by chance; and what must be true of
any plan of theirs, found from the records alone: nothing of the planning's own code is used.

What is due at a heater is put down here as the forecasts would have it, so that it is known; no forecast is computed.
"""

import datetime
import random
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import combinations, pairwise

from aquifer.accounts.models import Role, User
from aquifer.core.kinds import HeaterKind
from aquifer.customers.models import Customer, Site
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.rounds import read
from aquifer.rounds.models import Absence, Appointment, Closed, CrewMember, Loan, Service
from aquifer.travel.service import Point, times
from aquifer.water.models import Zone

DAY = datetime.timedelta(days=1)
WEEK = 7 * DAY
OPEN = {"planned", "kept", "offered", "promised"}
FIRM = OPEN - {"planned"}
YEARLY = {"relief_valve", "expansion_tank"}
LICENCE = {
    HeaterKind.GAS_TANK: "gas", HeaterKind.GAS_TANKLESS: "gas", HeaterKind.CONDENSING_TANKLESS: "gas",
    HeaterKind.ELECTRIC_TANK: "electrical", HeaterKind.HEAT_PUMP_TANK: "electrical",
    HeaterKind.ELECTRIC_TANKLESS: "electrical",
}  # fmt: skip
QUARTER_DAYS = 91
"""A household that was seen this quarter is not visited again only to keep its place in the year."""


@dataclass
class Office:
    """What there is, and what was asked for on the telephone: whatever happens, that is not lost."""

    rng: random.Random
    today: datetime.date
    crew: list[CrewMember] = field(default_factory=list)
    sites: list[Site] = field(default_factory=list)
    asked: dict[int, list[str]] = field(default_factory=dict)
    """Visits somebody rang for, by their numbers, with what was said each time."""
    moved: set[int] = field(default_factory=set)
    """Visits that a person put elsewhere: they may be near another."""
    planner: User | None = None

    def served(self, service: Service, on: datetime.date) -> None:
        """It is done: its next time is as far away as such services last."""
        years = 1 if service.component in YEARLY else 2
        again = on + years * 365 * DAY
        Forecast.objects.filter(heater=service.heater_id, component=service.component).update(
            due_on=again, latest_on=again if service.component in YEARLY else None, decided_by="cap", as_of=on,
            probability_today=0.0, reached_days=[round(730 * share) for share in (0.7, 0.8, 0.9, 1.0, 1.2, 1.5, 2.0)],
        )  # fmt: skip


def office(seed: int, today: datetime.date) -> Office:
    """One office, by chance."""
    rng = random.Random(f"plan {seed}")
    made = Office(rng, today)
    zones = [Zone.objects.create(code=f"Z{n}", name=f"Zone {n}") for n in range(rng.randint(1, 3))]
    customer = Customer.objects.create(code="C1", name="Marram Bakery")
    for number in range(rng.randint(5, 14)):
        zone = rng.choice(zones)
        located = rng.random() < 0.9
        site = Site.objects.create(
            code=f"S{number}", customer=customer, name=f"House {number}", street=f"{number + 1} Weir Street", zone=zone,
            longitude=-28.3 + rng.uniform(-0.15, 0.15) if located else None,
            latitude=-41.2 + rng.uniform(-0.12, 0.12) if located else None,
        )  # fmt: skip
        made.sites.append(site)
        for at in range(rng.choice([1, 1, 1, 2, 4])):
            _heater(made, site, f"H{number}-{at}")
        if rng.random() < 0.25:
            first = today + rng.randint(-20, 60) * DAY
            Closed.objects.create(
                site=site, first_on=first, last_on=first + rng.choice([0, 2, 6, 20]) * DAY,
                yearly=rng.random() < 0.2, why="let to guests",
            )  # fmt: skip
    _crew(made)
    return made


def _heater(made: Office, site: Site, tag: str) -> None:
    rng, today = made.rng, made.today
    kind = rng.choice(list(LICENCE))
    tank = kind.endswith("_tank")
    capacity = rng.choice([114.0, 189.0, 303.0, 400.0]) if tank else 2.0
    heater = Heater.objects.create(
        tag=tag, site=site, kind=kind, installed_on=today - 1500 * DAY, capacity_l=capacity, setpoint_c=60
    )
    wants = ["sediment", "anode", "relief_valve", "expansion_tank"] if tank else ["scale", "relief_valve"]
    rows = []
    for component in wants:
        if rng.random() < 0.3:
            continue
        due, decided, latest = rng.randint(-200, 500), "tolerance", None
        if component in YEARLY:
            due, decided = rng.randint(-60, 360), rng.choice(["cap", "first_look"])
            latest = today + due * DAY
        elif rng.random() < 0.2:
            decided, latest = "practice", today + due * DAY
        middle = max(due, 0) + rng.randint(0, 200)
        method = {"anode": "inspect", "relief_valve": "exercise", "expansion_tank": "check", "scale": "descale"}.get(
            component, rng.choice(["drain_and_pulse", "drain_and_pulse", "jetting"])
        )
        rows.append(
            Forecast(
                heater=heater,
                component=component,
                as_of=today,
                computed_at=f"{today}T03:00Z",
                model_version="made",
                heater_version=1,
                reached_days=[round(middle * share) for share in (0.2, 0.4, 0.7, 1.0, 1.4, 2.0, 3.0)],
                due_on=today + due * DAY,
                latest_on=latest,
                decided_by=decided,
                method=method,
                probability_today=rng.uniform(0.3, 0.9) if due < 0 else 0.0,
                benefit=rng.uniform(0.0, 0.3),
                over_after_service=0.02,
                rate_unit="",
                rate=[0, 0, 0],
                state_names=[],
                state_values=[],
                limit_value=1,
                factors=[],
                factor_ratios=[],
                factor_days=[],
                log_theta=0,
                log_theta_sd=1,
            )  # fmt: skip
        )
    Forecast.objects.bulk_create(rows)


def _crew(made: Office) -> None:
    rng, today = made.rng, made.today
    for number in range(rng.randint(1, 4)):
        user = User.objects.create(username=f"tech{number}", first_name=f"Tech {number}", role=Role.TECHNICIAN)
        user.licences = ["gas", *rng.sample(["electrical", "plumbing"], rng.randint(0, 2))][rng.randint(0, 1) :] or [
            "gas"
        ]
        user.save()
        begins = 30 * rng.randint(14, 18)
        lunch = rng.choice([0, 30, 40])
        member = CrewMember.objects.create(
            user=user, weekdays=sorted(rng.sample(range(7), rng.randint(3, 6))), begins=begins,
            ends=begins + 60 * rng.randint(6, 10), lunch_minutes=lunch, equipment=rng.choice(
                [["jetter", "descaling pump"], ["descaling pump"], []]
            ), helper=rng.choice(["", "", "Wren Ackerby"]), longitude=-28.3, latitude=-41.2,
        )  # fmt: skip
        made.crew.append(member)
        for _ in range(rng.randint(0, 2)):
            first = today + rng.randint(-5, 60) * DAY
            Absence.objects.create(member=member, first_on=first, last_on=first + rng.choice([0, 4, 13]) * DAY, why="x")
    if rng.random() < 0.5:
        first = today + rng.randint(0, 40) * DAY
        Absence.objects.create(first_on=first, last_on=first + rng.choice([0, 0, 6]) * DAY, why="fair")
    if len(made.crew) > 1 and rng.random() < 0.5:
        lender, borrower = rng.sample(made.crew, 2)
        for tool in lender.equipment[:1]:
            first = today + rng.randint(0, 14) * DAY
            Loan.objects.create(tool=tool, lender=lender, borrower=borrower, first_on=first, last_on=first + 2 * DAY)


def open_visits() -> list[Appointment]:
    """Whatever is still to come of the plan, in the order of its weeks."""
    found = Appointment.objects.filter(standing__in=OPEN).select_related("site", "member__user")
    return list(found.order_by("week", "on", "begins", "pk"))


def works(member: CrewMember, on: datetime.date) -> bool:
    """Whether somebody works on a day."""
    away = Absence.objects.filter(first_on__lte=on, last_on__gte=on)
    return on.weekday() in member.weekdays and not any(one.member_id in (None, member.pk) for one in away)


def able(member: CrewMember, on: datetime.date) -> set[str]:
    """What somebody may and has with him on a day."""
    tools = set(member.equipment)
    for loan in Loan.objects.filter(first_on__lte=on, last_on__gte=on):
        if loan.lender_id == member.pk:
            tools.discard(loan.tool)
        if loan.borrower_id == member.pk:
            tools.add(loan.tool)
    return tools | set(member.user.licences)


def takes(service: Service) -> set[str]:
    """What nobody does this service without."""
    needs = {LICENCE[HeaterKind(service.heater.kind)]}
    if service.method == "jetting":
        needs.add("jetter")
    if service.component == "scale" or service.method == "acid_soak":
        needs.add("descaling pump")
    return needs


def faults(made: Office, weeks_from: datetime.date) -> Iterator[str]:
    """Everything that must not be in any plan that nobody has overruled. Parameters: weeks_from, since when the plan is
    of the office's own making."""
    visits = [one for one in open_visits() if one.week + 6 * DAY >= made.today]
    yield from _lost(made)
    yield from _twice(made, visits)
    yield from _of_each(made, visits)
    yield from _days(made, visits)
    yield from _hours(made, [one for one in visits if one.week >= weeks_from])


def faults_of_any(made: Office) -> Iterator[str]:
    """Everything that must not be whatever a person or the day has done to a plan: its days may be too full, and
    promises missed, where that was told."""
    visits = [one for one in open_visits() if one.week + 6 * DAY >= made.today]
    yield from _lost(made)
    yield from _twice(made, visits)
    yield from _of_each(made, visits)


def _lost(made: Office) -> Iterator[str]:
    listed = {one["id"] for one in read.unplaced(made.today, made.today)["rows"]}
    for pk, said in made.asked.items():
        one = Appointment.objects.filter(pk=pk).first()
        if one is None:
            yield f"visit {pk}, for which somebody rang ({said}), is gone"
        elif one.standing in OPEN and (one.on or one.week + 6 * DAY) < made.today and pk not in listed:
            yield f"visit {pk}, for which somebody rang ({said}), is left in the week of {one.week} and not told of"
        elif missing := [words for words in said if words not in one.said]:
            yield f"of visit {pk} it is no longer known why: {one.said!r} without {missing}"


def _twice(made: Office, visits: list[Appointment]) -> Iterator[str]:
    when: dict[tuple[int, str], list[Appointment]] = defaultdict(list)
    for one in visits:
        for service in one.services.all():
            when[service.heater_id, service.component].append(one)
    for (heater, component), of in when.items():
        for before, after in pairwise(sorted(of, key=_day)):
            near = (_day(after) - _day(before)).days < QUARTER_DAYS - 7 and not {before.pk, after.pk} & made.moved
            if component not in YEARLY or near:
                yield f"{component} of heater {heater} is to be done at {before.pk} on {_day(before)} and again at " + (
                    f"{after.pk} on {_day(after)}"
                )


def _day(visit: Appointment) -> datetime.date:
    return visit.on or visit.week


def _of_each(made: Office, visits: list[Appointment]) -> Iterator[str]:
    for one in visits:
        services = list(one.services.select_related("heater"))
        if not services and not one.asked_minutes and one.standing == "planned":
            yield f"visit {one.pk} is for nothing"
        lacking = set().union(*(takes(service) for service in services)) - set(one.needs)
        if lacking:
            yield f"visit {one.pk} is for what takes {lacking} beside {one.needs}"
        if any(s.method == "jetting" and s.heater.capacity_l >= 250 for s in services) and one.people < 2:
            yield f"visit {one.pk} takes two, and one is planned"
        wanted = round(60 * (0.3 + sum(service.hours for service in services)))
        least = wanted if not one.asked_minutes else wanted + one.asked_minutes - 18
        if services and abs(one.minutes - min(least, 600)) > 2:
            yield f"visit {one.pk} takes {least} minutes, and {one.minutes} are planned"
        shut = [one.site.closed.all()[n].holds_on for n in range(one.site.closed.count())]
        by_itself = one.standing == "planned" and one.pk not in made.moved and not one.asked_minutes
        if by_itself and one.on and any(holds(one.on) for holds in shut):
            yield f"visit {one.pk} is on {one.on}, when the house is closed"
        if by_itself and not one.on:
            days = [one.week + n * DAY for n in range(7)]
            days = [day for day in days if day >= made.today and any(works(member, day) for member in made.crew)]
            if days and all(any(holds(day) for holds in shut) for day in days):
                yield f"visit {one.pk} is in the week of {one.week}, when the house is closed"


def _days(made: Office, visits: list[Appointment]) -> Iterator[str]:
    """Each round walked: who works, what they may, the ways, the promises, the pause, the day's end."""
    rounds: dict[tuple[int, datetime.date], list[Appointment]] = defaultdict(list)
    for one in visits:
        if one.on and one.member_id and one.begins is not None:
            rounds[one.member_id, one.on].append(one)
    for (_, on), calls in rounds.items():
        member = calls[0].member
        assert member is not None
        if on < made.today:
            continue
        if not works(member, on):
            yield f"{member} is away on {on} and has {len(calls)} visits"
            continue
        yield from _walked(member, on, calls)


def _walked(member: CrewMember, on: datetime.date, calls: list[Appointment]) -> Iterator[str]:
    yard = Point(member.longitude or 0.0, member.latitude or 0.0)
    free, place, gaps = member.begins, yard, []
    for one in calls:
        assert one.begins is not None
        here = _place(one.site, yard)
        lacking = set(one.needs) - able(member, on)
        if lacking:
            yield f"visit {one.pk} on {on} takes {lacking}, which {member} has not"
        if one.people > 1 and not member.helper:
            yield f"visit {one.pk} on {on} takes two, and {member} goes alone"
        way = 0 if None in (here, place) or here == place else int(times().minutes([place, here])[0, 1])
        if one.begins < free + way:
            yield f"visit {one.pk} on {on} begins at {one.begins}, and {member} is there at {free + way}"
        if one.earliest is not None and one.latest is not None and not one.earliest <= one.begins <= one.latest:
            yield f"visit {one.pk} was promised between {one.earliest} and {one.latest} and begins at {one.begins}"
        gaps.append((free, one.begins, way))
        free, place = one.begins + one.minutes, here
    home = 0 if place is None else int(times().minutes([place, yard])[0, 1])
    gaps.append((free, member.ends, home))
    if free + home > member.ends:
        yield f"{member} is home at {free + home} on {on}, after {member.ends}"
    pause = member.lunch_minutes
    # Before the way to the next visit, on it, or there.
    if pause and not any(
        max(since, member.lunch_earliest) <= min(until - pause, member.lunch_latest) and until - since - way >= pause
        for since, until, way in gaps
    ):
        yield f"{member} has no pause on {on}: {gaps}"


def _place(site: Site, yard: Point) -> Point | None:
    """None where nobody knows it: no way can be told."""
    return None if site.longitude is None or site.latitude is None else Point(site.longitude, site.latitude)


def _hours(made: Office, visits: list[Appointment]) -> Iterator[str]:
    """No week asks more of any part of the crew than that part works; what was promised alone may."""
    of_week: dict[datetime.date, list[Appointment]] = defaultdict(list)
    for one in visits:
        of_week[one.week].append(one)
    for week, own in of_week.items():
        days = [week + n * DAY for n in range(7) if week + n * DAY >= made.today]
        hours = {
            member.pk: sum(member.ends - member.begins - member.lunch_minutes for day in days if works(member, day))
            for member in made.crew
        }
        for size in range(1, len(made.crew) + 1):
            for part in combinations(made.crew, size):
                only = [one for one in own if _who(made, one) <= {member.pk for member in part}]
                firm = sum(one.minutes for one in only if one.standing in FIRM or one.asked_minutes)
                wanted, there = sum(one.minutes for one in only), sum(hours[member.pk] for member in part)
                if wanted > max(there, firm):
                    yield f"in the week of {week} {wanted} minutes are planned for {part}, who work {there}"


def _who(made: Office, one: Appointment) -> set[int]:
    if one.member_id:
        return {one.member_id}
    usual = {
        member.pk for member in made.crew
        if set(one.needs) <= {*member.equipment, *member.user.licences} and (one.people < 2 or member.helper)
    }  # fmt: skip
    return usual or {member.pk for member in made.crew}
