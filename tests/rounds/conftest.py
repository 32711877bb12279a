import datetime

import numpy as np
import pytest

from aquifer.company.clock import week_of
from aquifer.rounds import ways
from aquifer.rounds.models import CrewMember

ALL_WEEK = [0, 1, 2, 3, 4, 5, 6]


@pytest.fixture
def today() -> datetime.date:
    return datetime.date.today()


class ElevenMinutesApart:
    """However far."""

    def minutes(self, points):
        return 11 * (1 - np.eye(len(points), dtype=int))


@pytest.fixture
def quarter_of_an_hour(monkeypatch):
    """The way of a visit: 11 min to the next, and of the way there and home, 22 min, a fifth: 15.4 min; at the third
    site, alone in its zone, 12 min and a fifth of that way: 16.4 min."""
    monkeypatch.setattr(ways, "times", ElevenMinutesApart)


@pytest.fixture
def crew(base, people):
    """Two who go out every day: the technician with gas, the lead with everything and a helper."""
    places = {"longitude": -28.27, "latitude": -41.21, "weekdays": ALL_WEEK, "lunch_minutes": 30}
    technician, lead = people["technician"], people["lead"]
    technician.licences, lead.licences = ["gas", "plumbing"], ["gas", "electrical", "plumbing"]
    technician.save()
    lead.save()
    for number, site in enumerate(base["sites"]):
        site.longitude, site.latitude = -28.28 + 0.02 * number, -41.2 - 0.01 * number
        site.save()
    pump = ["descaling pump", "jetter"]
    return [
        CrewMember.objects.create(user=technician, equipment=pump, **places),
        CrewMember.objects.create(user=lead, equipment=pump, helper="Wren Ackerby", **places),
    ]


@pytest.fixture
def next_week(today) -> datetime.date:
    return week_of(today) + datetime.timedelta(days=7)
