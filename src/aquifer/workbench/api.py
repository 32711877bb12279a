"""Bench over HTTP."""

from typing import Annotated

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status
from pydantic import AfterValidator, Field

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.core.bench.hand import HANDLES, Act
from aquifer.core.bench.practice import LONGEST_S, TELLINGS
from aquifer.core.bench.scenario import NOTES
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import calculators
from aquifer.core.vocabulary import Component
from aquifer.errors import NotFound
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.sized import sized
from aquifer.heaters.models import Heater, PartKind
from aquifer.money import prices
from aquifer.visits.schemas import FigureOut
from aquifer.visits.words import figure_told, units_shown
from aquifer.wire import Day, Id, Payload, Version, text
from aquifer.workbench import instrument, lives, lives_paper, practice, searching, shown, signed_off, written
from aquifer.workbench.asked import ExchangerLivesIn, ExchangerPaperIn, LivesIn, PaperIn, sides_of, tank_of
from aquifer.workbench.schemas import (
    AtBenchOut,
    EndedOut,
    ExchangerLivesOut,
    InstrumentCourseOut,
    LifeLinkOut,
    LivesOut,
    PractisedByOut,
    ScenarioOut,
    SearchedOut,
    SearchOut,
    SignedOffOut,
    TroubleOut,
    WrittenOfOut,
    WrittenOut,
)

router = Router(tags=["bench"])


@router.get("/bench/lives", response=LivesOut, auth=allowed(Action.READ), throttle=dear("computed"))
def two_lives(request: HttpRequest, asked: Query[LivesIn]) -> LivesOut:
    """Twenty years of a tank under one care beside another, with the same luck. Nothing is kept."""
    return lives.told(tank_of(asked), sides_of(asked), timezone.localdate())


@router.get("/bench/exchanger-lives", response=ExchangerLivesOut, auth=allowed(Action.READ), throttle=dear("computed"))
def two_exchanger_lives(request: HttpRequest, asked: Query[ExchangerLivesIn]) -> ExchangerLivesOut:
    """Twenty years of a tankless heater under one care beside another, with the same luck. Nothing is kept."""
    return lives.exchangers(tank_of(asked), sides_of(asked), timezone.localdate())


@router.get("/bench/lives.pdf", auth=allowed(Action.READ), throttle=dear("paper"))
def two_lives_paper(request: HttpRequest, asked: Query[PaperIn]) -> HttpResponse:
    """The same on a page for the owner: cut open beside each other, in plain words, with what energy costs."""
    today, sides = timezone.localdate(), sides_of(asked)
    told = lives.told(tank_of(asked), sides, today)
    currency = prices.read().currency
    page = lives_paper.pdf(told, sides, asked.at_year, asked.energy_price, currency, units_shown(), today)
    answer = HttpResponse(page, content_type="application/pdf")
    answer["Content-Disposition"] = 'inline; filename="two-lives.pdf"'
    return answer


@router.get("/bench/lives/link", response=LifeLinkOut, auth=allowed(Action.READ))
def two_lives_link(request: HttpRequest, asked: Query[PaperIn]) -> LifeLinkOut:
    """Where a customer sees the same without signing in; good for a year, and names nobody."""
    return {"address": shown.address(asked)}


@router.get("/bench/exchanger-lives/link", response=LifeLinkOut, auth=allowed(Action.READ))
def two_exchanger_lives_link(request: HttpRequest, asked: Query[ExchangerPaperIn]) -> LifeLinkOut:
    """The same of a tankless heater."""
    return {"address": shown.address(asked)}


def _known_handle(name: str) -> str:
    if name not in (*HANDLES, *NOTES, *TELLINGS):
        raise ValueError(f"allowed: {', '.join((*HANDLES, *NOTES, *TELLINGS))}")
    return name


class ActIn(Payload):
    """One thing that somebody did: turned, noted, or told the guide."""

    at_s: Annotated[int, Field(ge=0, le=LONGEST_S, description="Whole seconds since the door.")]
    handle: Annotated[str, AfterValidator(_known_handle)]
    to: Annotated[str, text(80)] = ""


class AtBenchIn(Payload):
    """A practice: its acts so far, and until when it is to be told."""

    scenario: Annotated[str, text(60)]
    seed: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    guided: bool = False
    acts: Annotated[list[ActIn], Field(max_length=600)] = []
    at_s: Annotated[int, Field(ge=0, le=LONGEST_S)] = 0
    harms: Annotated[int, Field(ge=0, le=100, description="How many are known: a new one stops the clock.")] = 0
    cut: Annotated[bool, Field(description="The tank is cut open.")] = False


@router.get("/bench/scenarios", response=list[ScenarioOut], auth=allowed(Action.READ))
def bench_scenarios(request: HttpRequest) -> list[ScenarioOut]:
    """Heaters to practise on."""
    return practice.offered(who(request))


class FilledIn(Payload):
    heater_id: Id | None = Field(None, description="None is a usual tank.")


@router.get("/bench/calculators", response=list[FigureOut], auth=allowed(Action.READ))
def bench_calculators(request: HttpRequest, asked: Query[FilledIn]) -> list[FigureOut]:
    """Every calculator, filled in for a usual tank; or those of a heater, filled in with what is known of it."""
    units = units_shown()
    if asked.heater_id is None:
        return [figure_told(filled, units) for filled in calculators.filled(calculators.USUAL, "bench")]
    heater = Heater.objects.in_service().select_related("site").filter(pk=asked.heater_id).first()
    if heater is None:
        raise NotFound("There is no such heater, or it was archived.", fields={"heater_id": "no such heater"})
    forecasts = {Component(one.component): one for one in Forecast.objects.current().filter(heater=heater)}
    parts = {PartKind(part.kind): part for part in heater.parts.filter(removed_on__isnull=True)}
    filleds = calculators.filled(sized(heater, forecasts, parts), "bench")
    kind = HeaterKind(heater.kind)
    return [figure_told(filled, units) for filled in filleds if filled.calculator.fits(kind)]


@router.get("/bench/people", response=list[PractisedByOut], auth=allowed(Action.KEEP_PEOPLE))
def bench_people(request: HttpRequest) -> list[PractisedByOut]:
    """Who passed what."""
    return practice.by_person()


@router.post("/bench/practice", response=AtBenchOut, auth=allowed(Action.PRACTISE), throttle=dear("computed"))
def bench_practice(request: HttpRequest, body: AtBenchIn) -> AtBenchOut:
    """Where a practice stands after its acts. Nothing is kept."""
    scenario = practice.scenario_named(body.scenario)
    one = practice.stood(scenario, body.seed, _acts(body), body.at_s, body.harms)
    return practice.told(one, body.guided, body.cut)


@router.post("/bench/practised", response={201: EndedOut}, auth=allowed(Action.PRACTISE))
def bench_practised(request: HttpRequest, body: AtBenchIn) -> Status[EndedOut]:
    """A practice ends: it is graded and kept. One at which the tank was cut open passes nothing."""
    scenario = practice.scenario_named(body.scenario)
    _, one, grade = practice.ended(
        who(request), scenario, body.seed, _acts(body), body.at_s, body.guided, looked=body.cut
    )
    return Status(201, {"practice": practice.told(one, body.guided, True), "grade": practice.grade_told(grade)})


def _acts(body: AtBenchIn) -> list[Act]:
    return [Act(act.at_s, act.handle, act.to) for act in body.acts]


class DeedIn(Payload):
    """One thing that was done, noted, or told the guide."""

    at_s: Annotated[int, Field(ge=0, le=LONGEST_S, description="Whole seconds since the door.")]
    handle: Annotated[str, text(40)]
    to: Annotated[str, text(80)] = ""


class SearchIn(Payload):
    """A search for a fault: what was done so far, and until when it is to be told."""

    trouble: Annotated[str, text(60)]
    seed: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    guided: bool = False
    acts: Annotated[list[DeedIn], Field(max_length=400)] = []
    at_s: Annotated[int, Field(ge=0, le=LONGEST_S)] = 0


@router.get("/bench/troubles", response=list[TroubleOut], auth=allowed(Action.READ))
def bench_troubles(request: HttpRequest) -> list[TroubleOut]:
    """Complaints to look into."""
    return searching.offered(who(request))


@router.post("/bench/search", response=SearchOut, auth=allowed(Action.PRACTISE), throttle=dear("computed"))
def bench_search(request: HttpRequest, body: SearchIn) -> SearchOut:
    """Where a search stands after its acts. Nothing is kept."""
    search = searching.stood(searching.trouble_named(body.trouble), body.seed, _deeds(body), body.at_s)
    return searching.told(search, body.guided)


@router.post("/bench/searched", response={201: SearchedOut}, auth=allowed(Action.PRACTISE))
def bench_searched(request: HttpRequest, body: SearchIn) -> Status[SearchedOut]:
    """A search ends: it is graded and kept."""
    trouble = searching.trouble_named(body.trouble)
    search, grade = searching.ended(who(request), trouble, body.seed, _deeds(body), body.at_s, body.guided)
    return Status(201, {"search": searching.told(search, body.guided), "grade": practice.grade_told(grade)})


def _deeds(body: SearchIn) -> list[Act]:
    return [Act(act.at_s, act.handle, act.to) for act in body.acts]


class WrittenIn(Payload):
    text: Annotated[str, Field(min_length=1, max_length=50_000, description="TOML, a table for each.")]


class OfHeaterIn(Payload):
    heater_id: Id


@router.get("/bench/written", response=list[WrittenOut], auth=allowed(Action.KEEP_PEOPLE))
def bench_written(request: HttpRequest) -> list[WrittenOut]:
    """Heaters to practise on that the company wrote itself, with their truth."""
    return written.listed()


@router.put("/bench/written", response=list[WrittenOut], auth=allowed(Action.KEEP_PEOPLE))
def write_own(request: HttpRequest, body: WrittenIn) -> list[WrittenOut]:
    """Keep heaters to practise on, each a table; one of a name that is known takes its place."""
    written.write(who(request), body.text)
    return written.listed()


class CourseIn(Payload):
    heater_id: Id
    reading: Annotated[str, text(60)]


@router.get(
    "/bench/instrument", response=InstrumentCourseOut, auth=allowed(Action.RECORD_VISIT), throttle=dear("computed")
)
def simulated_instrument(request: HttpRequest, asked: Query[CourseIn]) -> InstrumentCourseOut:
    """What a simulated instrument reads at a heater of the demo; an own base has none."""
    if not settings.DEMO:
        raise NotFound("There are no simulated instruments but in the demo.")
    return instrument.course(asked.heater_id, asked.reading)


@router.get("/bench/written/of-heater", response=WrittenOfOut, auth=allowed(Action.KEEP_PEOPLE))
def written_of_heater(request: HttpRequest, asked: Query[OfHeaterIn]) -> WrittenOfOut:
    """A heater on record as one to practise on: without name or street, to be changed and kept."""
    return {"text": written.of_heater(asked.heater_id)}


@router.delete("/bench/written/{name}", response=list[WrittenOut], auth=allowed(Action.KEEP_PEOPLE))
def take_own_out(request: HttpRequest, name: Annotated[str, text(60)]) -> list[WrittenOut]:
    """It is practised no more."""
    written.take_out(name)
    return written.listed()


class SignOffIn(Payload):
    """Somebody may do some work alone."""

    person_id: Id
    work: Component
    until: Day | None = Field(None, description="The last day; none is for good.")
    why: Annotated[str, text(300)] = ""


class AskedIn(Payload):
    work: Component
    passes: Annotated[int, Field(ge=0, le=20)]
    visits: Annotated[int, Field(ge=0, le=50)]
    version: Version | None = None


@router.get("/bench/signed-off", response=SignedOffOut, auth=allowed(Action.READ))
def bench_signed_off(request: HttpRequest) -> SignedOffOut:
    """Who may do what alone, and how far the others are."""
    return signed_off.page(timezone.localdate())


@router.post("/bench/signed-off", response={201: SignedOffOut}, auth=allowed(Action.KEEP_PEOPLE))
def sign_off(request: HttpRequest, payload: SignOffIn) -> Status[SignedOffOut]:
    """Let somebody do some work alone; answered with all that stands then."""
    signed_off.sign_off(who(request), payload.person_id, payload.work, payload.until, payload.why)
    return Status(201, signed_off.page(timezone.localdate()))


@router.put("/bench/signed-off/asked", response=SignedOffOut, auth=allowed(Action.KEEP_PEOPLE))
def ask_before_sign_off(request: HttpRequest, payload: AskedIn) -> SignedOffOut:
    """Ask for so many practices and supervised visits from now on."""
    signed_off.ask(payload.work, payload.passes, payload.visits, payload.version)
    return signed_off.page(timezone.localdate())


@router.delete("/bench/signed-off/{sign_off_id}", response=SignedOffOut, auth=allowed(Action.KEEP_PEOPLE))
def take_sign_off_back(request: HttpRequest, sign_off_id: Id) -> SignedOffOut:
    """From now on it is done under supervision again."""
    signed_off.take_back(who(request), sign_off_id)
    return signed_off.page(timezone.localdate())
