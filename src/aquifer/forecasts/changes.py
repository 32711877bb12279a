"""What would change a heater's dates, tried on it as it stands."""

import datetime

from aquifer.company.models import Company
from aquifer.core.alternatives import Alternative, Change, alternatives
from aquifer.core.scalding import MIX_ABOVE_C as COOLER_C
from aquifer.core.vocabulary import Component, FlushMethod
from aquifer.forecasts.calibrations import in_force
from aquifer.forecasts.inputs import load
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.schemas import AlternativeOut, ChangeOut
from aquifer.heaters.models import Heater


def read(heater: Heater, today: datetime.date) -> list[ChangeOut]:
    """Each change with what it would do to the flush or descale and to the rod; the first is as it is.

    Raises: ValueError if a changed water has no chemical equilibrium.
    """
    calibration, people = in_force()
    inputs = load(today, Heater.objects.filter(pk=heater.pk), people)
    stored = {Component(forecast.component): forecast for forecast in Forecast.objects.current().filter(heater=heater)}
    rates = {component: (forecast.log_theta, forecast.log_theta_sd) for component, forecast in stored.items()}
    proposed = stored[Component.SEDIMENT].method if Component.SEDIMENT in stored else ""
    # A tank that is left alone is only looked at: what a flush would do to it is asked of the usual one.
    flush = FlushMethod(proposed if proposed in set(FlushMethod) else Company.current().flush_method)
    tried = _changes(float(inputs.fleet.heaters.setpoint_c[0]), heater, flush)
    results = alternatives(inputs.known, inputs.profiles, inputs.fleet, rates, list(tried.values()), calibration)
    return [
        {
            "change": name,
            "setpoint_c": tried[name].setpoint_c,
            "results": [AlternativeOut.from_orm(alternative) for alternative in found],
        }
        for name, found in zip(tried, results, strict=True)
    ]


def try_one(heater: Heater, change: Change, today: datetime.date) -> list[Alternative]:
    """What one change would do, from the next service on. Raises: ValueError as ``read``."""
    calibration, people = in_force()
    inputs = load(today, Heater.objects.filter(pk=heater.pk), people)
    rates = {
        Component(forecast.component): (forecast.log_theta, forecast.log_theta_sd)
        for forecast in Forecast.objects.current().filter(heater=heater)
    }
    return alternatives(inputs.known, inputs.profiles, inputs.fleet, rates, [change], calibration)[0]


def _changes(setpoint_c: float, heater: Heater, proposed: FlushMethod) -> dict[str, Change]:
    found = {"as_it_is": Change(flush_method=proposed)}
    if not heater.site.softened:
        found["softener"] = Change(softened=True, flush_method=proposed)
    if setpoint_c > COOLER_C + 1:
        found["cooler"] = Change(setpoint_c=COOLER_C, flush_method=proposed)
    for method in FlushMethod:
        if method is not proposed:
            found[method.value] = Change(flush_method=method)
    return found
