"""What money sends and takes. Amounts are strings of digits with at most two places, so that nothing is lost."""

import datetime
from decimal import Decimal
from typing import Annotated, Literal

from ninja import Schema
from pydantic import AfterValidator, ConfigDict, Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.core.follow_up import FollowUp
from aquifer.core.money import rounded
from aquifer.core.vocabulary import Component
from aquifer.money.models import QuoteState
from aquifer.wire import Day, Version

Id = Annotated[int, Field(ge=1, le=2**62)]
Money = Annotated[Decimal, AfterValidator(rounded)]
Amount = Annotated[Decimal, Field(ge=0, le=Decimal("9999999.99"), decimal_places=2), AfterValidator(rounded)]
Share = Annotated[Decimal, Field(ge=0, le=1, decimal_places=2)]
Text = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True, pattern=r"^[^\x00]*$")]
Key = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True, pattern=r"^[^\x00]*$")]


class _In(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class MoneySettingsSaid(_In):
    currency: Annotated[str, StringConstraints(min_length=1, max_length=8, pattern=r"^[^\x00]*$")]
    hour_cost: Amount
    quotes_last_days: Annotated[int, Field(ge=1, le=365)]


class MoneySettingsIn(MoneySettingsSaid):
    """What is not said of warranties and leaks stays as it is."""

    part_warranty_months: Annotated[int | None, Field(ge=0, le=120)] = None
    work_warranty_days: Annotated[int | None, Field(ge=0, le=365)] = None
    leak_damage: Amount | None = None
    version: Version | None = None


class MoneySettingsOut(MoneySettingsSaid):
    """Amounts are told as strings."""

    part_warranty_months: int
    work_warranty_days: int
    leak_damage: Annotated[Amount, Field(description="What a leak into finished rooms does to a house.")]
    version: int


class PriceSaid(_In):
    key: Key
    words: Text
    price: Amount


class PriceIn(PriceSaid):
    cost: Amount = Decimal(0)
    version: Annotated[Version | None, Field(description="0: the book had no such line.")] = None


class PriceOut(PriceSaid):
    cost: Amount
    id: int
    version: int


class ContractPlanSaid(_In):
    name: Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True, pattern=r"^[^\x00]*$")]
    yearly: Amount
    includes: list[Component]
    call_out: bool
    parts_off: Share


class ContractPlanIn(ContractPlanSaid):
    version: Annotated[Version | None, Field(description="0: there was no plan of that name.")] = None


class ContractPlanOut(ContractPlanSaid):
    id: int
    version: int
    sites: int = Field(description="On this plan today.")


class MoneyOut(TypedDict):
    settings: MoneySettingsOut
    prices: list[PriceOut]
    plans: list[ContractPlanOut]
    missing: Annotated[list[str], Field(description="What the program asks the book for, and it does not know.")]


class ContractIn(_In):
    plan_id: Id | None = Field(description="None ends the contract in force.")
    on: Day


class ContractOut(TypedDict):
    plan_id: int | None
    plan: str
    begins_on: datetime.date | None


class QuoteLineIn(_In):
    key: Key
    words: Text
    quantity: Annotated[Decimal, Field(gt=0, le=9999, decimal_places=2)]
    price: Amount | None


class QuoteLineOut(QuoteLineIn):
    """Amounts are told as strings."""


class QuoteOut(TypedDict):
    id: int
    version: int
    state: QuoteState
    steps: list[QuoteState]
    what: FollowUp
    why: list[str]
    raised_on: datetime.date
    sent_on: datetime.date | None
    answered_on: datetime.date | None
    valid_until: datetime.date | None
    warranty_until: Annotated[datetime.date | None, Field(description="The part is ours to stand for: no charge.")]
    done_on: datetime.date | None
    heater_id: int
    tag: str
    site_id: int
    site: str
    customer: str
    phone: str
    lines: list[QuoteLineOut]
    total: Money


class StageOut(TypedDict):
    quotes: int
    total: Money


class QuotesOut(TypedDict):
    currency: str
    stages: dict[QuoteState, StageOut]
    quotes: list[QuoteOut]


class QuoteLinesIn(_In):
    version: int
    lines: Annotated[list[QuoteLineIn], Field(min_length=1, max_length=40)]


class QuoteStepIn(_In):
    version: int
    to: QuoteState


class WorthOut(TypedDict):
    charged: Money
    included: Annotated[Money, Field(description="What contracts pay for, at list price.")]
    cost: Money
    left: Money
    unpriced: list[str]


class VisitLineOut(TypedDict):
    words: str
    amount: Money
    included: Money
    priced: bool


class VisitWorthOut(WorthOut):
    appointment_id: int
    plan: str
    is_warranty: Annotated[bool, Field(description="We come because of our own work: nothing is charged.")]
    lines: list[VisitLineOut]


class DayWorthOut(TypedDict):
    on: datetime.date
    currency: str
    total: WorthOut
    visits: list[VisitWorthOut]


class TenYearsWayOut(Schema):
    """One way to go on with a tank, over ten years."""

    name: Literal["as_it_is", "yearly", "new", "later"]
    services: float
    repairs: float
    heaters: float
    damage: float
    energy: float
    worth_left: float = Field(description="What a heater that is bought meanwhile is still worth; taken off the total.")
    failures: float = Field(description="How many tanks leak, on average.")
    total: float
    low: float = Field(description="Eight of ten futures cost between this ...")
    high: float = Field(description="... and this.")
    renewed_in: int | None = Field(description="Years until it is renewed as planned.")


class TenYearsOut(TypedDict):
    currency: str
    missing: Annotated[list[str], Field(description="What the price book has no price for; it counts as nothing.")]
    energy_kwh: float | None
    drift_a_year: Annotated[float, Field(description="More energy for each year that deposit is left in it, a share.")]
    bills_compared: Annotated[int, Field(description="Cleanings with bills of a year before and after.")]
    service: float
    repair: float
    heater: float
    damage: Annotated[float, Field(description="What a leak does to the house here, on average.")]
    damage_from: Annotated[
        Literal["asked", "place", "usual"],
        Field(
            description="As it was asked for; by where it stands, as on record; or as usual, as nobody wrote it down."
        ),
    ]
    leak_path: Annotated[str, Field(description="Where its water would run, in words; empty where that is not known.")]
    courses: list[TenYearsWayOut]
