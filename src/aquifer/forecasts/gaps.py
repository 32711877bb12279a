"""The gaps of the base, computed anew now and then and kept to be listed."""

import datetime

import numpy as np
from django.db import transaction

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.forecast import Context
from aquifer.core.gaps import Gap as Kind
from aquifer.core.gaps import worth
from aquifer.forecasts import calibrations
from aquifer.forecasts.columns import Block, Numbers, Same, Written, write_columns
from aquifer.forecasts.inputs import load
from aquifer.forecasts.models import Gap
from aquifer.heaters.models import Heater

LEAST_DAYS = 7.0
"""Less than a week is no reason to ask anybody."""


MOST_READINGS = 3
"""Heaters of a water of which a measurement is asked beside those that are drawn: where it tells most, its zone learns
most of it, too. Assumption."""


def renew(zone_ids: list[int], as_of: datetime.date) -> int:
    """Store what each gap of the heaters of some zones is worth; returns how many gaps there are."""
    calibration, people = calibrations.in_force()
    inputs = load(as_of, Heater.objects.in_service().filter(site__zone_id__in=zone_ids), people)
    found = worth(inputs.known, inputs.profiles, inputs.fleet, Context(calibration=calibration))
    written = 0
    with transaction.atomic():
        Gap.objects.filter(heater__site__zone_id__in=zone_ids).delete()
        for kind, days in found.items():
            row = np.flatnonzero(days >= LEAST_DAYS)
            if kind is Kind.READING:
                row = _first(row, days, inputs.fleet.heaters.zone)
            columns: dict[str, Written] = {
                "heater": Numbers(inputs.heater_ids[row], ">i8"),
                "kind": Same(kind.value),
                "days": Numbers(days[row].round(1), ">f8"),
            }
            write_columns(Gap, Block(columns, row.size))
            written += row.size
    return written


def _first(row: IntArray, days: FloatArray, zone: IntArray) -> IntArray:
    """The rows of the most days in each zone."""
    ordered = row[np.lexsort((row, -days[row], zone[row]))]
    starts = np.flatnonzero(np.diff(zone[ordered], prepend=-1))
    place = np.arange(ordered.size) - np.repeat(starts, np.diff(np.append(starts, ordered.size)))
    return np.sort(ordered[place < MOST_READINGS])
