import csv
import datetime
import io

from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Status

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.customers.models import Site
from aquifer.errors import Conflict, NotFound
from aquifer.formats.csv_table import BOM, cell
from aquifer.imports.models import ImportRun
from aquifer.projections import amounts, beside, held, plan_fit, schemas
from aquifer.projections.found import NONE_LOSING, NOTHING, Found, Losing
from aquifer.projections.models import Projection, ProjectionState
from aquifer.projections.plan_fit import PlanFitOut
from aquifer.projections.tasks import ask
from aquifer.water.models import Zone
from aquifer.wire import Id

router = Router(tags=["projections"])


@router.get("/projections", response=list[schemas.ProjectionRowOut], auth=allowed(Action.READ))
def projections(request: HttpRequest) -> list[schemas.ProjectionRowOut]:
    """All that are kept, the newest first."""
    names = dict(Zone.objects.values_list("pk", "name"))
    return [_row(one, names) for one in Projection.objects.select_related("asked_by").defer("found")]


@router.post(
    "/projections", response={201: schemas.ProjectionRowOut}, auth=allowed(Action.SET_PRACTICE), throttle=dear("job")
)
def try_decisions(request: HttpRequest, payload: schemas.ProjectionIn) -> Status[schemas.ProjectionRowOut]:
    """Have the coming years reckoned under some decisions; beside them, once a day, as the company is."""
    today, names = timezone.localdate(), dict(Zone.objects.values_list("pk", "name"))
    for one in payload.decisions:
        if one.zone_id is not None and one.zone_id not in names:
            raise NotFound("There is no such zone.", fields={"decisions": "no such zone"})
        if one.list_id is not None and not _can_be_tried(one.list_id):
            raise Conflict(
                "Only a list that was checked, and not brought in yet, can be taken over.", "projection.no_list",
                {"decisions": "no such list"},
            )  # fmt: skip
    decisions = [one.model_dump(mode="json") for one in payload.decisions]
    plain = Projection.objects.filter(asked_on=today, years=payload.years, decisions=[])
    there = plain.exclude(state=ProjectionState.FAILED).first()
    if there is None:
        there = ask(Projection(asked_on=today, years=payload.years, asked_by=who(request)))
    if decisions:
        there = ask(
            Projection(
                name=payload.name, asked_on=today, years=payload.years, asked_by=who(request), decisions=decisions
            )
        )
    return Status(201, _row(there, names))


@router.get("/projections/held", response=schemas.HeldOut, auth=allowed(Action.READ))
def projections_held(request: HttpRequest) -> schemas.HeldOut:
    """Every year that was told and has passed, against what came."""
    return held.read(timezone.localdate())


@router.get("/projections/{projection_id}", response=schemas.ProjectionOut, auth=allowed(Action.READ))
def projection(request: HttpRequest, projection_id: Id) -> schemas.ProjectionOut:
    """One of them, with what its futures come to; empty until it is ready."""
    return _whole(_of(projection_id))


@router.get("/projections/{projection_id}/beside/{other_id}", response=schemas.BesideOut, auth=allowed(Action.READ))
def projection_beside(request: HttpRequest, projection_id: Id, other_id: Id) -> schemas.BesideOut:
    """What the other comes to over this one, with the same luck."""
    return beside.compare(_of(projection_id), _of(other_id))


@router.get("/projections/{projection_id}/table.csv", auth=allowed(Action.READ), throttle=dear("paper"))
def projection_table(request: HttpRequest, projection_id: Id) -> HttpResponse:
    """Its figures as a table: a line for each and year."""
    told = _whole(_of(projection_id))
    lines = io.StringIO()
    writer = csv.writer(lines)
    writer.writerow(["what", "until", "low", "middle", "high"])
    for series in told["series"]:
        for until, fan in zip(told["until"], series["by_year"], strict=True):
            writer.writerow([series["name"], until.isoformat(), fan["low"], fan["middle"], fan["high"]])
    for group in told["groups"]:
        for row in group["rows"]:
            for name, value in (("hours", row["hours"]), ("income", row["income"]), ("cost", row["cost"])):
                writer.writerow([cell(f"{name} a year by {group['by']}: {row['name']}"), "", "", value, ""])
    answer = HttpResponse(BOM + lines.getvalue(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="years-ahead-{projection_id}.csv"'
    return answer


@router.get("/sites/{site_id}/plan-fit", response=PlanFitOut, auth=allowed(Action.READ))
def plan_fit_of(request: HttpRequest, site_id: Id) -> PlanFitOut:
    """What a site would pay and leave without a plan and on each, over the coming years of its heaters."""
    site = Site.objects.filter(pk=site_id, archived_at__isnull=True).first()
    if site is None:
        raise NotFound("There is no such site.")
    return plan_fit.of_site(site, timezone.localdate())


@router.delete("/projections/{projection_id}", response={204: None}, auth=allowed(Action.SET_PRACTICE))
def drop_projection(request: HttpRequest, projection_id: Id) -> Status[None]:
    """Drop what was tried; what is being reckoned stops."""
    _of(projection_id).delete()
    return Status(204, None)


def _of(projection_id: int) -> Projection:
    found = Projection.objects.select_related("asked_by").filter(pk=projection_id).first()
    if found is None:
        raise NotFound("There is no such projection.")
    return found


def _row(one: Projection, zones: dict[int, str]) -> schemas.ProjectionRowOut:
    return {
        "id": one.pk,
        "name": one.name,
        "asked_on": one.asked_on,
        "asked_by": one.asked_by.get_full_name() or one.asked_by.username if one.asked_by else "",
        "years": one.years,
        "state": ProjectionState(one.state),
        "error": one.error,
        "parts_left": one.parts.filter(found__isnull=True).count() if one.state == ProjectionState.WORKING else 0,
        "decisions": [_decision(told, zones) for told in one.decisions],
    }


def _can_be_tried(list_id: int) -> bool:
    run = ImportRun.objects.defer("data").filter(pk=list_id).first()
    return run is not None and run.can_be_tried


def _decision(told: dict[str, object], zones: dict[int, str]) -> schemas.DecisionOut:
    one = schemas.DecisionIn.model_validate(told)
    named = (
        None
        if one.list_id is None
        else ImportRun.objects.filter(pk=one.list_id).values_list("file_name", flat=True).first()
    )
    return {
        "kind": one.kind,
        "value": one.value,
        "word": one.word,
        "zone_id": one.zone_id,
        "zone": zones.get(one.zone_id, "") if one.zone_id is not None else "",
        "share": one.share,
        "list_name": "" if one.list_id is None else named or "a list that is gone",
    }


def _whole(one: Projection) -> schemas.ProjectionOut:
    row = _row(one, dict(Zone.objects.values_list("pk", "name")))
    found: Found = one.found or NOTHING
    return {
        **row,
        "heaters": found["heaters"],
        "until": [datetime.date.fromisoformat(day) for day in found["until"]],
        "currency": found["currency"],
        "missing": found["missing"],
        "crew_hours": found["crew_hours"],
        "joining": found["joining"],
        "leaving": found["leaving"],
        "calls_a_year": found["calls_a_year"],
        "accepted": found["accepted"],
        "softened": found["softened"],
        "replaced": found["replaced"],
        "taken_over": found["taken_over"],
        "series": [
            {"name": name, "by_year": [schemas.fan_of(*fan) for fan in zip(*values, strict=True)]}
            for name, values in found["series"].items()
        ],
        "groups": [{"by": by, "rows": rows} for by, rows in found["groups"].items()],
        "losing": _losing(found.get("losing", NONE_LOSING)),
        "season": None if one.decisions else held.season_planned(one.asked_on),
    }


def _losing(losing: Losing) -> schemas.LosingOut:
    """With what each site is called and the plan that it is on today; those that left meanwhile are left out."""
    ids = [row["site_id"] for row in losing["rows"]]
    in_service = Count("heaters", filter=Q(heaters__archived_at__isnull=True))
    sites = Site.objects.filter(pk__in=ids, archived_at__isnull=True).annotate(standing=in_service).in_bulk()
    on_plan = amounts.plans(timezone.localdate())
    rows: list[schemas.LosingSiteOut] = [
        {
            "site_id": site.pk,
            "site": f"{site.name}, {site.street}" if site.street else site.name,
            "plan": on_plan.get(site.pk, amounts.SitePlan()).name,
            "heaters": getattr(site, "standing"),  # noqa: B009
            "hours": row["hours"],
            "income": row["income"],
            "cost": row["cost"],
        }
        for row in losing["rows"]
        if (site := sites.get(row["site_id"])) is not None
    ]
    return {"of": losing["of"], "sites": losing["sites"], "rows": rows}
