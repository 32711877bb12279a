"""What the lead of the demo had reckoned of the years ahead, and the calls of the years before, from which the months
ahead are carried on."""

import datetime
import math
import random

from aquifer.accounts.models import User
from aquifer.company.clock import week_of
from aquifer.customers.models import Site
from aquifer.projections.models import Projection
from aquifer.projections.tasks import USUAL_YEARS, ask, reckon_months
from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember, Reason

TRIED: list[tuple[str, list[dict[str, str | float]]]] = [
    ("", []),
    ("Yearly for everybody", [{"kind": "practice", "word": "annual"}]),
    ("Softener campaign", [{"kind": "softeners", "value": 250.0, "share": 0.3}]),
    ("One fewer, the 30 worst tanks now", [{"kind": "crew", "value": -1.0}, {"kind": "replace", "value": 30.0}]),
]


def load(today: datetime.date) -> None:
    """Asked for; the workers live the years."""
    lead = User.objects.get(username="lead")
    for name, decisions in TRIED:
        ask(Projection(name=name, asked_on=today, asked_by=lead, years=USUAL_YEARS, decisions=decisions))
    reckon_months.defer()


CALLS_MONTHS = 44
CALLS = (
    (Reason.EMERGENCY, 2.2, ("no hot water since this morning", "water on the floor of the closet")),
    (Reason.COMPLAINT, 3.4, ("runs out sooner than it did", "rumbles when it heats", "smells of eggs")),
    (Reason.CALL_BACK, 0.9, ("drips where you were", "not as hot as before you came")),
    (Reason.ESTIMATE, 1.3, ("asks what a new one would cost",)),
)
"""Of each a month in the mean, and what was said. Invented."""


def calls(today: datetime.date) -> None:
    """Calls that nobody had planned, more of them in winter and some more every year."""
    luck, sites = random.Random(41), list(Site.objects.order_by("pk"))
    crew = list(CrewMember.objects.filter(active=True).order_by("pk"))
    made = []
    for on in (today - datetime.timedelta(days=number) for number in range(1, round(CALLS_MONTHS * 30.4))):
        if on.weekday() > 4:
            continue
        for reason, a_month, said in CALLS:
            winter = 1 + 0.45 * math.cos(2 * math.pi * (on.timetuple().tm_yday - 20) / 365)
            if luck.random() < a_month / 21.7 * winter * 1.06 ** (-(today - on).days / 365):
                site, begins = luck.choice(sites), luck.randrange(480, 960, 15)
                made.append(
                    Appointment(
                        site=site, week=week_of(on), on=on, member=luck.choice(crew), begins=begins, minutes=60,
                        reason=reason, said=luck.choice(said), standing=AppointmentStatus.DONE,
                    )
                )  # fmt: skip
    Appointment.objects.bulk_create(made)
