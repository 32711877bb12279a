import datetime

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from aquifer.accounts.access import Action, allowed
from aquifer.company.models import Company
from aquifer.core import MODEL_VERSION, units
from aquifer.core.vocabulary import FlushMethod, Practice

router = Router(tags=["company"])


class UnitOut(Schema):
    label: str
    factor: float
    offset: float
    decimals: int


class CompanyOut(Schema):
    name: str
    today: datetime.date
    is_demo: bool
    model_version: str
    practice: Practice
    flush_method: FlushMethod
    tolerance: float
    units: dict[units.Quantity, UnitOut]
    timezone: str = Field(description="In which the day of a visit is told.")


@router.get("/company", response=CompanyOut, auth=allowed(Action.READ))
def company(request: HttpRequest) -> dict[str, object]:
    """What every screen needs to know: the units to show, today's date, the practice followed."""
    ours = Company.current()
    return {
        "name": ours.name,
        "today": timezone.localdate(),
        "is_demo": settings.DEMO,
        "model_version": MODEL_VERSION,
        "practice": ours.practice,
        "flush_method": ours.flush_method,
        "tolerance": ours.tolerance,
        "timezone": settings.TIME_ZONE,
        "units": units.table(units.System(ours.units), units.HardnessUnit(ours.hardness_unit)),
    }
