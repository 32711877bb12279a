"""Computing forecasts and storing them.

A forecast is superseded, and kept for a while, when what went into it has changed: then it can be held against what was
found. One that only aged a day is replaced.
"""

import datetime
from collections.abc import Collection, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from django.db import connection, transaction
from django.db.models import Count
from django.utils import timezone

from aquifer.core import MODEL_VERSION
from aquifer.core.forecast import ComponentForecast, Context, FleetForecast, dates, forecast
from aquifer.core.learning import ZoneBelief
from aquifer.core.parameters import DAYS_PER_YEAR, HORIZON_YEARS
from aquifer.core.vocabulary import Component, DecidedBy, Method
from aquifer.forecasts import calibrations
from aquifer.forecasts.columns import (
    Block,
    Days,
    Lists,
    Numbers,
    Same,
    Words,
    Written,
    write_columns,
)
from aquifer.forecasts.inputs import FleetInputs, People, load
from aquifer.forecasts.models import DUE_ON, Due, Forecast, ZoneLearning
from aquifer.heaters.models import Heater
from aquifer.prepared import FEW, Prepared, asked, lock, remove, without_loops
from aquifer.visits import hours

KEEP_DAYS = 400
"""Superseded forecasts are kept this long, so that a year's forecasts can be held against what was found."""
LEAST_OF_A_PARTITION = 36_000
"""Heaters that one job forecasts, so that it has something to read ahead. Assumption: some ten seconds of work."""
TOGETHER = 9000
"""Heaters that are forecast together: whole zones, few enough to stay in a processor's cache."""


def recompute_all(as_of: datetime.date | None = None) -> int:
    """Calibrate on the base, forecast every heater in service and store it; returns how many heaters."""
    day = as_of or timezone.localdate()
    begin(day)
    return sum(recompute_zones(zones, day) for zones in partitions())


def begin(as_of: datetime.date) -> None:
    """What comes before the base is forecast anew: it is calibrated, and what was kept long enough is dropped."""
    calibrations.renew(as_of)
    hours.renew(as_of)
    Forecast.objects.filter(superseded_at__lt=timezone.now() - datetime.timedelta(days=KEEP_DAYS)).delete()
    Due.objects.filter(heater__archived_at__isnull=False).delete()


def recompute_some(zone_ids: Collection[int]) -> int:
    """Forecast the heaters of some zones, in parts as those of the base; returns how many heaters."""
    return sum(recompute_zones(part) for part in partitions(zone_ids))


def partitions(among: Collection[int] | None = None, least: int | None = None) -> list[list[int]]:
    """The zones of the base, or some of them, in parts that can be forecast anywhere, by any number of workers, to the
    same bytes: the parts depend on the base alone. Parameters: least, heaters of a part; only the last has fewer."""
    least = least or LEAST_OF_A_PARTITION
    parts: list[list[int]] = [[]]
    heaters = 0
    heater_query_set = Heater.objects.in_service()
    if among is not None:
        heater_query_set = heater_query_set.filter(site__zone_id__in=among)
    sizes = heater_query_set.values_list("site__zone_id").annotate(n=Count("pk")).order_by("site__zone_id")
    for zone_id, size in sizes:
        if heaters >= least:
            parts.append([])
            heaters = 0
        parts[-1].append(zone_id)
        heaters += size
    return [part for part in parts if part]


def recompute_zones(zone_ids: Iterable[int], as_of: datetime.date | None = None) -> int:
    """Forecast the heaters of some zones and store them, with what they teach of their zones; returns how many."""
    calibration, people = calibrations.in_force()
    wanted, heaters = list(zone_ids), 0
    # What is learned of a zone is its own, so pieces of a part come to the same as the whole.
    pieces = partitions(wanted, TOGETHER) if len(wanted) > 1 else [wanted]
    for inputs in _read_ahead(pieces, as_of or timezone.localdate(), people):
        found = forecast(inputs.fleet, Context(calibration=calibration))
        with transaction.atomic():
            store(inputs, inputs.eased(found.components))
            _store_zones(inputs, found)
        heaters += int(inputs.heater_ids.size)
    return heaters


def _read_ahead(pieces: list[list[int]], as_of: datetime.date, people: People) -> Iterator[FleetInputs]:
    """The heaters of some zones, piece by piece: the next is read by a connection of its own while the one before is
    forecast and stored, since most of either is waiting for the database."""

    def read(zone_ids: list[int]) -> FleetInputs:
        return load(as_of, Heater.objects.in_service().filter(site__zone_id__in=zone_ids), people)

    if len(pieces) < 2 or connection.in_atomic_block:
        # Nobody else sees what a transaction wrote.
        yield from map(read, pieces)
        return
    with ThreadPoolExecutor(1, "read-ahead") as reader:
        coming = reader.submit(read, pieces[0])
        try:
            for following in pieces[1:]:
                inputs, coming = coming.result(), reader.submit(read, following)
                yield inputs
            yield coming.result()
        finally:
            # The proxy leads to the connection of whoever asks, so it is asked there.
            reader.submit(lambda: connection.close())


def recompute_zone(zone_id: int) -> int:
    """The same for one zone: what one heater showed says something of all."""
    return recompute_zones([zone_id])


def recompute_heaters(heater_ids: Iterable[int]) -> None:
    """Store new forecasts of a few heaters at once, each against its zone as it was last computed; one that is out of
    service has none.

    What they say of the zone itself reaches its other heaters with the zone's own job.
    """
    calibration, people = calibrations.in_force()
    inputs = load(timezone.localdate(), np.array(sorted(heater_ids), dtype=np.int64), people)
    zones, until = _learned_zones(inputs)
    prior_evidence = inputs.before(until) if zones else None
    found = forecast(inputs.fleet, Context(calibration=calibration, zones=zones, prior_evidence=prior_evidence))
    store(inputs, inputs.eased(found.components))


_TAUGHT = Prepared(
    ZoneLearning.objects.filter(model_version=MODEL_VERSION),
    *("zone_id", "component", "logs", "last_finding"),
    by="zone_id",
)


def _learned_zones(inputs: FleetInputs) -> tuple[dict[Component, ZoneBelief], int]:
    """What the zones of these heaters taught before, by their numbers in the fleet, and the newest finding in it."""
    numbers = np.unique(inputs.fleet.heaters.zone)
    wanted = inputs.zone_ids[numbers].tolist()
    by_component: dict[Component, dict[int, list[float]]] = {}
    until = None
    for zone_id, component, logs, last_finding in _TAUGHT.rows(wanted):
        by_component.setdefault(Component(component), {})[zone_id] = logs
        until = last_finding if until is None else min(until, last_finding)
    return {
        component: ZoneBelief(numbers, np.array([logs[zone_id] for zone_id in wanted]))
        for component, logs in by_component.items()
        if len(logs) == len(wanted)
    }, until or 0


def _store_zones(inputs: FleetInputs, found: FleetForecast) -> None:
    now = timezone.now()
    newest = np.zeros(inputs.zone_ids.size, dtype=np.int64)
    np.maximum.at(newest, inputs.fleet.heaters.zone, inputs.last_finding)
    rows = [
        ZoneLearning(
            zone_id=int(inputs.zone_ids[number]),
            component=component,
            logs=np.maximum(logs, -1e6).round(5).tolist(),
            last_finding=int(newest[number]),
            model_version=MODEL_VERSION,
            computed_at=now,
        )
        for component, belief in found.zones.items()
        for number, logs in zip(belief.zone.tolist(), belief.logs, strict=True)
    ]
    ZoneLearning.objects.bulk_create(
        rows,
        update_conflicts=True,
        unique_fields=["zone", "component"],
        update_fields=["logs", "last_finding", "model_version", "computed_at"],
    )


def store(inputs: FleetInputs, forecasts: list[ComponentForecast]) -> None:
    """Write the forecasts of the heaters that ``inputs`` were loaded for, or nothing at all."""
    now = timezone.now()
    ids = inputs.heater_ids.tolist()
    with transaction.atomic():
        # A lock on the heaters, in one order, keeps two recomputations of a zone from superseding each other's rows.
        lock(Heater, ids)
        _clear(inputs, now)
        write_columns(Forecast, *(_block(inputs, forecast, now) for forecast in forecasts))
        remove(Due, "heater", ids)
        _write_due(inputs, forecasts)


_TABLE = Forecast._meta.db_table
_AGED = f"""
    DELETE FROM {_TABLE} AS old
    USING unnest(%s::bigint[], %s::bigint[], %s::bigint[]) AS now (heater, version, finding)
    WHERE old.heater_id = ANY(%s::bigint[]) AND old.superseded_at IS NULL
    AND old.heater_id = now.heater AND old.heater_version = now.version
    AND old.last_finding = now.finding AND old.model_version = '{MODEL_VERSION}'"""  # noqa: S608
_ANOTHER = (
    f"UPDATE {_TABLE} SET superseded_at = %s::timestamptz WHERE heater_id = ANY(%s::bigint[]) AND superseded_at IS NULL"  # noqa: S608, E501
)


def _clear(inputs: FleetInputs, now: datetime.datetime) -> None:
    """Supersede the current forecasts whose inputs changed; delete those that only aged."""
    ids = inputs.heater_ids.tolist()
    is_few = len(ids) <= FEW
    aged = [ids, inputs.versions.tolist(), inputs.last_finding.tolist(), ids]
    if is_few:
        asked(_AGED, aged, is_few)
    else:
        with without_loops():
            asked(_AGED, aged, is_few)
    asked(_ANOTHER, [now.isoformat(), ids], is_few)


def _write_due(inputs: FleetInputs, forecasts: list[ComponentForecast]) -> None:
    """The short rows by which lists are ordered."""
    n = inputs.heater_ids.size
    due_on = {name: np.full(n, np.datetime64("NaT", "D")) for name in DUE_ON.values()}
    worth = np.zeros(n)
    for component in forecasts:
        if component.component in DUE_ON:
            due_on[DUE_ON[component.component]][component.row] = dates(inputs.as_of, component.due_years)
            worth[component.row] = np.maximum(worth[component.row], component.benefit)
    columns: dict[str, Written] = {name: Days(days) for name, days in due_on.items()}
    columns["first_on"] = Days(np.fmin.reduce(list(due_on.values())))
    columns["worth"] = Numbers(worth.round(5), ">f8")
    write_columns(Due, Block({"heater": Numbers(inputs.heater_ids, ">i8"), **columns}, n))


def _block(inputs: FleetInputs, forecast: ComponentForecast, now: datetime.datetime) -> Block:
    """The rows of one component."""
    row = forecast.row
    days = np.rint(forecast.reached_years * DAYS_PER_YEAR)
    beyond = days > HORIZON_YEARS * DAYS_PER_YEAR
    states = np.concatenate([forecast.state[name] for name in forecast.state], axis=1)
    figures = {
        "probability_today": forecast.probability_today,
        "benefit": forecast.benefit,
        "over_after_service": forecast.over_after_service,
        "limit_value": forecast.limit,
        "log_theta": forecast.log_theta,
        "log_theta_sd": forecast.log_theta_sd,
    }
    return Block(
        {
            "heater": Numbers(inputs.heater_ids[row], ">i8"),
            "heater_version": Numbers(inputs.versions[row], ">i4"),
            "last_finding": Numbers(inputs.last_finding[row], ">i8"),
            "reached_days": Lists(np.where(beyond, -1, days).astype(np.int64), is_whole=True),
            "due_on": Days(dates(inputs.as_of, forecast.due_years)),
            "latest_on": Days(dates(inputs.as_of, forecast.latest_years)),
            "decided_by": Words(forecast.decided_by, [member.value for member in DecidedBy]),
            "method": Words(forecast.method, [member.value for member in Method]),
            **{name: Numbers(values.round(5), ">f8") for name, values in figures.items()},
            "rate": Lists(forecast.rate.round(5)),
            "state_names": Same(list(forecast.state)),
            "state_values": Lists(states.round(4)),
            "factors": Same(list(forecast.factors)),
            "factor_ratios": Lists(np.exp(forecast.log_factors).round(4)),
            "factor_days": Lists(np.rint(forecast.factor_days)),
            "component": Same(forecast.component.value),
            "rate_unit": Same(forecast.unit),
            "model_version": Same(MODEL_VERSION),
            "as_of": Same(inputs.as_of),
            "computed_at": Same(now),
        },
        row.size,
    )
