"""A simulated instrument at a heater on record: what it would read, second by second, off the heater in software.

It stands in for one with a wire, behind the same interface: a name, a unit, and readings with their seconds
(``web/src/instruments``).
"""

import tomllib
from collections.abc import Callable

from aquifer.core.bench.heater import Heater, at_rest
from aquifer.core.bench.scenario import read
from aquifer.errors import NotFound
from aquifer.workbench.schemas import InstrumentCourseOut
from aquifer.workbench.written import of_heater

DRAWN_S = 480
"""For which hot water is drawn before the pressure is watched, so that it heats. Assumption: until cold water is at the
sensor."""


def _tap(heater: Heater) -> None:
    heater.tap = True


def _closed(heater: Heater) -> None:
    """Some hot water is drawn, then every faucet is shut, behind a check valve."""
    heater.tap = True
    for _ in range(DRAWN_S):
        heater.second()
    heater.tap = False


def _nothing(heater: Heater) -> None:
    """It stands as it is."""


READINGS: dict[str, tuple[str, int, int, Callable[[Heater], None], Callable[[Heater], float]]] = {
    "pressure.static_kpa": ("simulated pressure gauge", 60, 5, _nothing, lambda heater: round(heater.kpa)),
    "pressure.creep_kpa": ("simulated pressure gauge", 900, 45, _closed, lambda heater: round(heater.kpa)),
    "arrival.tap_c": ("simulated thermometer", 60, 5, _tap, lambda heater: round(heater.tap_c, 1)),
    "verify.tap_c": ("simulated thermometer", 60, 5, _tap, lambda heater: round(heater.tap_c, 1)),
}
"""By reading: the instrument, for how long and how often it reads, s; what is done before; what it shows."""


def course(heater_id: int, reading: str) -> InstrumentCourseOut:
    """What an instrument shows at a heater. Raises: NotFound; Invalid for a kind that is not simulated."""
    if reading not in READINGS:
        raise NotFound("No simulated instrument reads that.", fields={"reading": f"allowed: {', '.join(READINGS)}"})
    name, long_s, every_s, before, shows = READINGS[reading]
    told = tomllib.loads(of_heater(heater_id))
    for one in told.values():
        # A gauge behind it shows what the heat does.
        one["build"]["check_valve"] = True
    scenario = next(iter(read(told).values()))
    heater = at_rest(scenario.built(1))
    before(heater)
    seconds, values = [], []
    for second in range(long_s + 1):
        if second % every_s == 0:
            seconds.append(second)
            values.append(float(shows(heater)))
        heater.second()
    return {"instrument": name, "seconds": seconds, "values": values}
