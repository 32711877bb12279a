"""What may be asked of two lives."""

from typing import Annotated

from pydantic import Field, model_validator

from aquifer.core.bench.lives import CareName
from aquifer.core.kinds import HeaterKind
from aquifer.wire import Id, Payload
from aquifer.workbench import lives


class LivedIn(Payload):
    """A new heater on a water, a zone's or one of some hardness, and its care: a figure a life, in their order."""

    kind: HeaterKind
    capacity_l: Annotated[float, Field(ge=5, le=2000)] = 190
    people: Annotated[float, Field(ge=0.5, le=50)] = 4
    zone_id: Id | None = None
    hardness_mg_l: Annotated[float, Field(ge=0, le=900)] | None = None
    seed: Annotated[int, Field(ge=1, le=10_000)] | None = Field(None, description="None is ordinary luck.")
    care: Annotated[list[CareName], Field(min_length=1, max_length=2)]
    softened: Annotated[list[bool], Field(max_length=2)] = []
    setpoint_c: Annotated[list[Annotated[float, Field(ge=40, le=85)]], Field(max_length=2)] = []


class LivesIn(LivedIn):
    """The same of a tank."""

    kind: HeaterKind = HeaterKind.GAS_TANK

    @model_validator(mode="after")
    def _one_tank(self) -> "LivesIn":
        if not self.kind.is_tank:
            raise ValueError("a tankless heater has no bed, rod or wall to watch; choose a tank")
        return self


class ExchangerLivesIn(LivedIn):
    """The same of a tankless heater."""

    kind: HeaterKind = HeaterKind.GAS_TANKLESS

    @model_validator(mode="after")
    def _one_exchanger(self) -> "ExchangerLivesIn":
        if self.kind.is_tank:
            raise ValueError("a tank has a life of its own; choose a tankless heater")
        return self


AtYear = Annotated[int, Field(ge=1, le=20, description="In which the heaters are cut open.")]
EnergyPrice = Annotated[float | None, Field(ge=0, le=1000, description="Of a kWh.")]


class PaperIn(LivesIn):
    """The same, and what the page is for."""

    at_year: AtYear = 10
    energy_price: EnergyPrice = None


class ExchangerPaperIn(ExchangerLivesIn):
    """The same of a tankless heater."""

    at_year: AtYear = 10
    energy_price: EnergyPrice = None


def sides_of(asked: LivedIn) -> list[lives.Side]:
    """The two lives that are asked for."""
    softened, setpoints = [*asked.softened, False, False], [*asked.setpoint_c, 60.0, 60.0]
    return [lives.Side(care, softened[n], setpoints[n]) for n, care in enumerate(asked.care)]


def tank_of(asked: LivedIn) -> lives.Asked:
    """The heater, and where it stands."""
    return lives.Asked(asked.kind, asked.capacity_l, asked.people, asked.zone_id, asked.hardness_mg_l, asked.seed)
