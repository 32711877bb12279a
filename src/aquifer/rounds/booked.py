"""What a planning leaves where it is: visits that a person kept, promised or was asked for, the hours that they take,
and what they are for."""

import datetime
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from django.db.models import Q

from aquifer.company.clock import week_of
from aquifer.core.arrays import FloatArray
from aquifer.core.first_round import SAFETY
from aquifer.core.planning import promises, season
from aquifer.core.planning.level import YEAR_WEEKS
from aquifer.core.planning.work import ALLOWANCE, TWO_PEOPLE
from aquifer.rounds import crew
from aquifer.rounds.crew import whole_hours
from aquifer.rounds.models import FIRM, Appointment, AppointmentStatus, CrewMember, Service

STAYS = Q(standing__in=FIRM) | Q(standing=AppointmentStatus.PLANNED, asked_minutes__gt=0)
"""What somebody asked for is never the planning's to drop, even where it has lost its day."""
Key = tuple[int, str]
"""A heater and a component of it."""


def staying(first_week: datetime.date, weeks: int) -> list[Appointment]:
    """Visits of these weeks that stay, in the order of their weeks."""
    last = first_week + datetime.timedelta(days=7 * weeks)
    return list(Appointment.objects.filter(STAYS, week__gte=first_week, week__lt=last).order_by("week", "pk"))


def needs_of(appointment: Appointment) -> frozenset[str]:
    """What a visit takes, a second pair of hands among it."""
    return frozenset(appointment.needs) | ({TWO_PEOPLE} if appointment.people > 1 else frozenset())


def seen_to(first_week: datetime.date, today: datetime.date) -> dict[Key, datetime.date]:
    """The last day on which what a visit that stays is for will be done; one query.

    A plan that begins later leaves the weeks before it as they are: what is planned in them is seen to as well, unless
    its day went by.
    """
    before = Q(standing=AppointmentStatus.PLANNED, week__lt=first_week) & (Q(on__isnull=True) | Q(on__gte=today))
    visits = Appointment.objects.filter(STAYS | before, week__gte=week_of(today))
    rows = Service.objects.filter(appointment__in=visits).values_list(
        "heater_id", "component", "appointment__on", "appointment__week"
    )
    when: dict[Key, datetime.date] = {}
    for heater_id, component, on, week in rows:
        when[heater_id, component] = max(when.get((heater_id, component), datetime.date.min), on or week)
    return when


@dataclass(frozen=True)
class Hours:
    """The crew's hours, and what of them is left, (members, w)."""

    whole: FloatArray
    left: FloatArray
    booked: FloatArray
    """Hours that the visits which stay take of each week, their ways included, (w,)."""


def hours(
    who: Sequence[CrewMember],
    held: Sequence[frozenset[str]],
    visits: Iterable[Appointment],
    way: Mapping[int, float],
    whole: FloatArray,
    first_week: datetime.date,
) -> Hours:
    """What visits that stay take: of whoever they are with, else of who may do them and has most left that week.

    Parameters: held, what each of the crew may; way, hours to each site and from it; whole, the hours that there are.
    More than there are leaves none: what a person put there stays, and nothing is planned beside it.
    """
    row = {member.pk: at for at, member in enumerate(who)}
    left, booked = whole.copy(), np.zeros(whole.shape[1])
    for one in sorted(visits, key=lambda visit: visit.member_id is None):
        week = (one.week - first_week).days // 7
        takes = one.minutes / 60 + way[one.site_id]
        booked[week] += takes
        able = [at for at, has in enumerate(held) if needs_of(one) <= has]
        if one.member_id in row:
            able = [row[one.member_id]]
        while takes > 1e-9 and able:
            # A long one may be given to several in the reckoning; its day shows whether it can be done.
            most = max(able, key=lambda at: left[at, week])
            given = min(takes, float(left[most, week]))
            if given <= 0:
                break
            left[most, week] -= given
            takes -= given
    return Hours(whole, left, booked)


def next_year(visits: Sequence[Appointment], way: Mapping[int, float], first_week: datetime.date) -> FloatArray:
    """Hours that the safety services of visits which stay ask of next year's weeks, their visits with them,
    (YEAR_WEEKS,). Parameters: way, hours to each site and from it."""
    yearly = Service.objects.filter(appointment__in=[one.pk for one in visits], component__in=SAFETY)
    comes_again = set(yearly.values_list("appointment_id", flat=True))
    asked = np.zeros(YEAR_WEEKS)
    for one in visits:
        if one.pk in comes_again:
            asked[(one.week - first_week).days // 7 % YEAR_WEEKS] += one.minutes / 60 + way[one.site_id]
    return asked


def clashes(
    who: Sequence[CrewMember],
    held: Sequence[frozenset[str]],
    visits: Sequence[Appointment],
    first_week: datetime.date,
    weeks: int,
    today: datetime.date,
) -> list[tuple[datetime.date, list[int]]]:
    """Weeks in which the visits that stay pass all hours that the crew works, each with the fewest that do so together,
    by their sites."""
    if not visits:
        return []
    sets = sorted({needs_of(one) for one in visits}, key=sorted)
    at = {needs: number for number, needs in enumerate(sets)}
    groups = season.Groups(
        kind=np.array([at[needs_of(one)] for one in visits]),
        people=np.ones(len(visits), dtype=np.int64),
        setup=np.repeat(np.array([[one.minutes / 60] for one in visits]), weeks, axis=1),
        allowed=np.ones((len(visits), weeks), dtype=bool),
        promised=np.array([(one.week - first_week).days // 7 for one in visits]),
    )
    # The whole of their days: what is usually left free for what nobody foresees was filled by a person.
    hours = crew.hours_by_week(who, first_week, weeks, today, whole_hours)
    found = promises.too_many(groups, season.Crew(tuple(sets), tuple(held), hours))
    return [
        (first_week + datetime.timedelta(days=7 * week), [visits[number].site_id for number in which])
        for week, which in found
    ]


def room(visits: Iterable[Appointment], who: Sequence[CrewMember], longest: float) -> dict[int, float]:
    """Hours of services that each visit may take up besides its own, by its number.

    None where it is as long as a visit may be, where its day is full, or where who comes after it was promised a time
    that it would pass. Parameters: longest, hours that a visit may last.
    """
    days: dict[tuple[int | None, datetime.date | None], list[Appointment]] = defaultdict(list)
    for one in visits:
        days[one.member_id, one.on].append(one)
    members = {member.pk: member for member in who}
    found: dict[int, float] = {}
    for (member_id, on), own in days.items():
        free = longest
        if on is not None and member_id in members:
            day = ALLOWANCE * whole_hours(members[member_id]) - sum(one.minutes for one in own) / 60
            # Those of one day share what it leaves.
            free = day / len(own)
        for one in own:
            found[one.pk] = max(min(longest - one.minutes / 60, free, *(_until(one, later) for later in own)), 0.0)
    return found


def _until(one: Appointment, later: Appointment) -> float:
    """By how many hours a visit may end later until a promise after it on the same day is missed."""
    if one.begins is None or later.begins is None or later.latest is None or later.begins <= one.begins:
        return np.inf
    return (later.latest - later.begins) / 60
