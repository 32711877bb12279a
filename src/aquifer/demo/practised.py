"""What the demo's apprentice practised, and what the lead lets her do alone."""

import datetime

from django.utils import timezone

from aquifer.accounts.models import SignOff, User
from aquifer.core.vocabulary import Component
from aquifer.workbench.models import Practised

_TRIES: tuple[tuple[str, bool, bool, float, list[str]], ...] = (
    ("gas_yearly", True, True, 0.95, []),
    ("gas_yearly", False, False, 0.55, ["scalded"]),
    ("gas_yearly", False, True, 0.90, []),
    ("electric_yearly", True, True, 0.92, []),
    ("electric_yearly", False, True, 0.88, []),
)
"""Scenario, with the guide, passed, share of good marks, and what went wrong; in their order."""


def load(today: datetime.date) -> None:
    """Some weeks of practice, and one thing signed off for a year."""
    apprentice, lead = (User.objects.get(username=name) for name in ("apprentice", "lead"))
    for number, (scenario, guided, passed, share, harms) in enumerate(_TRIES, start=1):
        one = Practised.objects.create(
            by=apprentice, scenario=scenario, seed=number, guided=guided, seconds=2400 + 120 * number, share=share,
            passed=passed, harms=harms,
        )  # fmt: skip
        ago = datetime.timedelta(days=7 * (len(_TRIES) + 1 - number))
        Practised.objects.filter(pk=one.pk).update(at=timezone.now() - ago)
    SignOff.objects.create(
        person=apprentice, work=Component.TANK.value, by=lead, until=today + datetime.timedelta(days=365),
        why="Rode along for a summer and looks at everything.",
    )  # fmt: skip
