"""What the lead of the demo had reckoned of the years ahead."""

import datetime

from aquifer.accounts.models import User
from aquifer.projections.models import Projection
from aquifer.projections.tasks import USUAL_YEARS, ask

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
