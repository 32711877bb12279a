"""The invented company's crew, its days off, and when some sites cannot be visited."""

import datetime

from aquifer.accounts.models import Role, User
from aquifer.core.planning.work import JETTER, PUMP
from aquifer.customers.models import Site
from aquifer.demo.district import TECHNICIANS
from aquifer.demo.surroundings import SOUTH, WEST
from aquifer.rounds.models import Absence, Closed, CrewMember
from aquifer.stock.models import Held

YARD = (WEST + 0.135, SOUTH + 0.09)
_ON_TRUCKS = {
    "hose washer": 20,
    "thread tape": 4,
    "descaler, jug of {volume_l:4}": 5,
    "drain valve 3/4 in": 1,
    "thermocouple": 2,
    "relief valve {pressure_kpa:1034}": 2,
    "anode magnesium, {length_mm:928}": 1,
}
_CREW = (
    (0, "nadia", ["gas", "plumbing"], [JETTER, PUMP], [1, 2], ""),
    (1, "technician", ["gas", "plumbing"], [PUMP, JETTER], [1, 3], "Wren Ackerby"),
    (2, "ife", ["electrical", "plumbing"], [PUMP, JETTER], [1, 2], ""),
    (4, "petra", ["gas", "electrical", "plumbing"], [PUMP], [1, 3], ""),
)
"""Which technician, the sign-in name, licences, what the truck carries, weekdays, who rides along."""


def load(today: datetime.date, password: str) -> None:
    """The crew and what keeps it from a site."""
    for number, username, licences, equipment, weekdays, helper in _CREW:
        first, last = TECHNICIANS[number].split(maxsplit=1)
        user = User.objects.filter(username=username).first()
        if user is None:
            user = User(username=username, first_name=first, last_name=last, role=Role.TECHNICIAN, licences=licences)
            user.set_password(password)
            user.save()
        longitude, latitude = YARD
        member = CrewMember.objects.create(
            user=user,
            longitude=round(longitude, 5),
            latitude=round(latitude, 5),
            weekdays=weekdays,
            equipment=equipment,
            helper=helper,
        )
        Held.objects.bulk_create(Held(part=part, member=member, quantity=count) for part, count in _ON_TRUCKS.items())
        if username == "nadia":
            leave = today + datetime.timedelta(days=70)
            Absence.objects.create(
                member=member, first_on=leave, last_on=leave + datetime.timedelta(days=11), why="leave"
            )
    year_end = datetime.date(today.year, 12, 24)
    Absence.objects.create(first_on=year_end, last_on=year_end + datetime.timedelta(days=9), why="closed at year's end")
    _closed(today)


def _closed(today: datetime.date) -> None:
    let = Site.objects.filter(occupied_share__lt=0.9)
    summer = (datetime.date(today.year, 6, 15), datetime.date(today.year, 9, 10), "let to guests")
    frozen = (datetime.date(today.year, 12, 10), datetime.date(today.year, 2, 20), "crawl space freezes")
    cold = Site.objects.filter(heaters__location="roof space", zone__code="UPL").distinct()
    for sites, (first, last, why) in ((let, summer), (cold, frozen)):
        for site in sites:
            end = last if last > first else last.replace(year=last.year + 1)
            Closed.objects.get_or_create(
                site=site, why=why, defaults={"first_on": first, "last_on": end, "yearly": True}
            )
