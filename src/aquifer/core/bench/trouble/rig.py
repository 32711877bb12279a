"""A heater with something wrong: how its valves and covers stand, what is unfit in it, and what a look, a meter or a
hand shows of that.

It knows neither a guide nor the weights of its complaints: what shows follows from the way that current, gas, air and
water take to where they are looked at. Minutes go by with every deed; deeds and seed alone decide all that shows.
"""

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from aquifer.core.bench.boiler import ATMOSPHERE_KPA
from aquifer.core.bench.heater import RELIEF_KPA
from aquifer.core.bench.layers import HEAT_KJ_KG_K
from aquifer.core.units import Quantity, figure

COLD_C, ROOM_C = 12.0, 20.0
"""Of the supply and of the room. Assumption."""
SET_C, BELOW_SET_C = 60.0, 6.0
"""At which the control stands, and how far the water cools before it calls. Trade practice."""
LITRES, UPPER_SHARE = 190.0, 0.33
"""Of a usual tank, and what of it lies above the upper thermostat. Trade practice."""
HOT_C = 43.0
"""What people call hot at a faucet. Trade practice."""
SCALDS_C = 49.0
"""120 degF, from which on a burn takes minutes, then less. Trade practice."""
EMPTIES_MIN, FILLS_MIN = 25.0, 12.0
"""How long a tank runs out by a hose, and fills by a 3/4 in branch. Trade practice."""
LOSES_K_MIN = 0.008
"""How fast a tank cools that nobody heats. Handbook: some 0.5 K an hour."""
EMPTY = 0.02
"""Share of a tank's height that stays below its drain. Assumption."""
STEP_MIN = 0.5
"""Numerical."""
SWELLS = 0.0166
"""Share by which water grows from 12 to 60 degC. Physical constant."""
EXPANSION_L = 8.0
"""Of the tank that takes it in. Trade practice."""
SWEATS_BELOW_C = 24.0
"""Water colder than this makes a jacket sweat in a damp room. Assumption."""


Line = Literal["house", "electric", "gas", "air", "water"]


@dataclass(frozen=True)
class Point:
    """Where a hand, an eye or an instrument can be."""

    name: str
    title: str
    line: Line
    """What it lies along."""
    deeds: Mapping[str, float]
    """What can be done there, with the minutes that it takes."""


@dataclass(frozen=True)
class Fault:
    """Something unfit, in words that name it."""

    says: str
    mended_by: tuple[str, str] | None
    """Point and deed; None where it is not for a visit to mend."""
    may_wait: bool = False
    """Who leaves it off, safe and told, has done right too."""
    runs: bool = False
    """The heater works with it."""


class Hurt(Exception):
    """Somebody or something is hurt by a deed. Its text is the consequence's name."""


class Refused(Exception):
    """A hand cannot do that now."""


HOUSE = Point("house", "The house", "house", {"say what goes off": 1, "ask what was drawn": 1, "say what was done": 2})
FAUCET = Point("faucet", "Hot faucet", "water", {"run it till cold": 6, "read it": 2, "open it": 0.2, "shut it": 0.2})
OTHER_FAUCET = Point("other_faucet", "The faucet beside it", "water", {"run it": 2, "fill two glasses": 2})
FIXTURE = Point("fixture", "Cartridge and mixer", "water", {"feel for a crossover": 2, "renew the cartridge": 15})
COLD = Point("cold", "Cold valve", "water", {"shut": 0.5, "open": 0.5, "does hot run on": 3})
SOUND = Point("sound", "What is heard", "house", {"ask and listen": 2})
CLOCK = Point("clock", "Wait", "house", {"5 minutes": 5, "15 minutes": 15, "an hour": 60})

COMMON = {
    "cartridge": Fault("the cartridge of one faucet", ("fixture", "renew the cartridge"), runs=True),
    "crossover": Fault("cold crosses over at a fixture", ("fixture", "renew the cartridge"), runs=True),
}
"""Faults that are not the heater's."""


class Rig(ABC):
    """What every heater has: water in, water out, and a house about it."""

    points: ClassVar[tuple[Point, ...]] = (HOUSE, SOUND, FAUCET, OTHER_FAUCET, FIXTURE, COLD, CLOCK)
    faults: ClassVar[Mapping[str, Fault]] = COMMON

    def __init__(self, fault: str, seed: int) -> None:
        self.random = np.random.default_rng([seed, *fault.encode()])
        self.unfit = {fault}
        self.renewed: list[str] = []
        """Points at which a part was put in or taken apart that was sound."""
        self.touched_unproven: bool | None = None
        """Whether a hand was at terminals that nobody had proven dead; None while none was at any."""
        self.told = self.told_after = self.is_emptied = False
        self.cold_is_open, self.tap_is_open = True, False
        self.covers_are_on = True
        """Where there are any."""
        self.supply_kpa = float(self.random.choice([345.0, 380.0, 415.0]))
        self.minutes = 0.0

    # What is so.

    def has(self, *faults: str) -> bool:
        """Whether one of these is unfit."""
        return not self.unfit.isdisjoint(faults)

    @abstractmethod
    def heats(self) -> bool:
        """Whether it would heat all of its water as it stands."""

    @abstractmethod
    def tap_c(self) -> float:
        """What comes to the fixtures, degC."""

    @abstractmethod
    def is_off(self) -> bool:
        """Whether it is left so that nobody turns it on by accident, and nothing is bare."""

    def wrong(self) -> list[str]:
        """What is not as a heater that runs is left, in words."""
        found = {"with the cold shut": not self.cold_is_open, "with a faucet open": self.tap_is_open}
        return [words for words, so in found.items() if so]

    def covers_off(self) -> str:
        self.covers_are_on = False
        return "Off."

    def covers_on(self) -> str:
        self.covers_are_on = True
        return "On."

    def pass_by(self, minutes: float) -> None:
        """Time goes by."""
        self.minutes += minutes

    def do(self, point: str, deed: str) -> str:
        """Something is done, or looked at. Returns: what it shows. Raises: Refused; Hurt; KeyError for what there is
        not."""
        return self.deeds[point, deed]()

    @property
    def deeds(self) -> dict[tuple[str, str], Callable[[], str]]:
        """Everything that can be done, by point and deed."""
        return {
            (point.name, deed): getattr(self, f"{point.name}_{deed.replace(' ', '_')}")
            for point in self.points
            for deed in point.deeds
        }

    def mended(self, point: str, deed: str) -> bool:
        """After a part was renewed, cleaned or set right there: whether it was what was wrong."""
        cured = {name for name in self.unfit if self.faults[name].mended_by == (point, deed)}
        self.unfit -= cured
        if not cured:
            self.renewed.append(point)
        return bool(cured)

    # House.

    def house_say_what_goes_off(self) -> str:
        self.told = True
        return "They know, and draw no water."

    def house_ask_what_was_drawn(self) -> str:
        return "Nothing out of the way."

    def house_say_what_was_done(self) -> str:
        self.told_after = True
        return "They heard what it was, and what it cost."

    def sound_ask_and_listen(self) -> str:
        return "Nothing but the water in the pipes."

    def clock_5_minutes(self) -> str:
        return ""

    def clock_15_minutes(self) -> str:
        return ""

    def clock_an_hour(self) -> str:
        return ""

    # Water.

    def cold_shut(self) -> str:
        self.cold_is_open = False
        return "It turns, and closes."

    def cold_open(self) -> str:
        self.cold_is_open = True
        return "Water is on."

    def cold_does_hot_run_on(self) -> str:
        if self.cold_is_open:
            raise Refused("Shut the cold first: while it is open hot runs anyway.")
        runs = self.has("crossover")
        return "With the cold shut the hot faucet runs on, cold." if runs else "It runs out and stops."

    def faucet_open_it(self) -> str:
        self.tap_is_open = True
        return self._runs()

    def faucet_shut_it(self) -> str:
        self.tap_is_open = False
        return "Shut."

    def _runs(self) -> str:
        if self.cold_is_open:
            return f"It runs, {degrees(self.delivered_c())}."
        return "It runs on, cold: it comes across." if self.has("crossover") else "It runs a little, then stops."

    def delivered_c(self) -> float:
        """At the faucet that is complained of, degC."""
        hot = self.tap_c()
        if self.has("cartridge"):
            return COLD_C + 0.45 * (hot - COLD_C)
        return COLD_C + 0.6 * (hot - COLD_C) if self.has("crossover") else hot

    def faucet_read_it(self) -> str:
        self._must_have_water()
        return f"{degrees(self.delivered_c())} at its hottest."

    def _must_have_water(self) -> None:
        if not self.cold_is_open:
            raise Refused("The cold is shut: nothing runs.")

    def other_faucet_run_it(self) -> str:
        self._must_have_water()
        if self.has("cartridge"):
            return f"That one runs right: {degrees(self.tap_c())}."
        return f"The same there: {degrees(self.delivered_c())}."

    def other_faucet_fill_two_glasses(self) -> str:
        return "Both glasses are clear."

    def fixture_feel_for_a_crossover(self) -> str:
        if self.has("crossover"):
            return "The hot pipe to it goes cold while only its cold is drawn."
        return "Its hot pipe stays warm."

    def fixture_renew_the_cartridge(self) -> str:
        self.mended("fixture", "renew the cartridge")
        return "A new cartridge is in."


def degrees(celsius: float) -> str:
    """A temperature within a sentence."""
    return figure(Quantity.TEMPERATURE, round(celsius, 1))


def pressure(kpa: float) -> str:
    """A pressure within a sentence."""
    return figure(Quantity.PRESSURE, round(kpa))


def litres(volume: float) -> str:
    """A volume within a sentence."""
    return figure(Quantity.VOLUME, round(volume))


class TankRig(Rig):
    """A tank of hot water in two parts, over each other, and what may leak of it."""

    points: ClassVar[tuple[Point, ...]] = (
        *Rig.points[:-1],
        Point("cold_pipe", "Cold pipe at the tank", "water", {"feel it while hot runs": 3, "renew the dip tube": 25}),
        Point("drain", "Drain", "water", {
            "look": 1, "hose on": 1, "open": 0.5, "till nothing runs": 5, "shut": 0.5, "hose off": 0.5, "cap it": 1,
            "run it clear": 10,
        }),
        Point("joints", "Joints at the top", "water", {"wipe and look": 3, "remake the wet one": 8}),
        Point("relief_pipe", "End of the relief pipe", "water", {"look": 1, "renew the relief valve": 25}),
        Point("gauge", "Gauge at a hose thread", "water", {"read": 2, "watch it while it heats": 25}),
        Point("expansion_tank", "Expansion tank", "water", {"press its pin": 1, "renew it": 20}),
        Point("pan", "Under the tank", "water", {"dry paper for 15 minutes": 15}),
        CLOCK,
    )  # fmt: skip
    faults: ClassVar[Mapping[str, Fault]] = {
        **COMMON,
        "dip_tube": Fault("the dip tube has broken off", ("cold_pipe", "renew the dip tube"), runs=True),
        "joint": Fault("a joint at the top leaks", ("joints", "remake the wet one"), runs=True),
        "relief_seat": Fault("the relief valve does not hold", ("relief_pipe", "renew the relief valve"), runs=True),
        "drain_weeps": Fault("the drain does not close", ("drain", "cap it"), runs=True),
        "tank_wall": Fault("the tank itself leaks", None, may_wait=True, runs=True),
        "sweat": Fault("it sweats: nothing leaks", None, runs=True),
        "bladder": Fault("the expansion tank's bladder has torn", ("expansion_tank", "renew it"), runs=True),
    }

    def __init__(self, fault: str, seed: int) -> None:
        super().__init__(fault, seed)
        self.top_c = self.low_c = COLD_C
        self.level = 1.0
        self.has_hose = self.drain_is_open = self.is_capped = False
        self.begin()

    def begin(self) -> None:
        """Half a day goes by before anybody comes: what is hot by then follows from what is unfit. Whoever calls about
        a sweating tank has just filled it."""
        self.pass_by(2.0 if self.has("sweat") else 720.0)
        self.minutes = 0.0

    @abstractmethod
    def heating_kw(self) -> tuple[float, float]:
        """What heats the upper and the lower part now, kW."""

    def calls(self) -> bool:
        """Whether the lower part is colder than the control lets it get."""
        return self.low_c < SET_C - BELOW_SET_C

    def tap_c(self) -> float:
        return (self.top_c + self.low_c) / 2 if self.has("dip_tube") else self.top_c

    def pass_by(self, minutes: float) -> None:
        super().pass_by(minutes)
        for _ in range(round(minutes / STEP_MIN)):
            self._fill()
            upper, lower = self.heating_kw()
            self._warm(upper, lower)

    def _fill(self) -> None:
        if self.drain_is_open and not self.cold_is_open:
            # A tank lets nothing out that no air comes in for.
            if self.tap_is_open:
                self.level = max(0.0, self.level - STEP_MIN / EMPTIES_MIN)
        elif self.cold_is_open and self.tap_is_open and not self.drain_is_open and self.level < 1.0:
            self.level = min(1.0, self.level + STEP_MIN / FILLS_MIN)
            self.top_c = self.low_c = COLD_C

    def _warm(self, upper_kw: float, lower_kw: float) -> None:
        seconds = 60 * STEP_MIN
        self.top_c += upper_kw * seconds / (HEAT_KJ_KG_K * LITRES * UPPER_SHARE)
        self.low_c += lower_kw * seconds / (HEAT_KJ_KG_K * LITRES * (1 - UPPER_SHARE))
        if self.low_c > self.top_c:
            # What is warmer rises: both are one.
            self.top_c = self.low_c = UPPER_SHARE * self.top_c + (1 - UPPER_SHARE) * self.low_c
        self.top_c -= LOSES_K_MIN * STEP_MIN * (self.top_c > ROOM_C)
        self.low_c -= LOSES_K_MIN * STEP_MIN * (self.low_c > ROOM_C)

    def hot_litres(self) -> float:
        """What comes hot in one draw: water leaves at the top and cold follows at the floor, or, where the dip tube is
        gone, mixes in at once."""
        if self.delivered_c() < HOT_C:
            return 0.0
        if self.has("dip_tube"):
            return 0.12 * LITRES
        upper = LITRES * UPPER_SHARE
        return 0.95 * (upper + (LITRES - upper if self.low_c >= HOT_C else 0.0))

    def faucet_run_it_till_cold(self) -> str:
        self._must_have_water()
        if self.level < 1:
            raise Refused("The tank is not full: it spits air.")
        first, hot = self.delivered_c(), self.hot_litres()
        self.top_c = self.low_c = COLD_C
        if hot <= 0:
            return f"{degrees(first)} from the start, and no warmer."
        if self.has("dip_tube"):
            return f"{degrees(first)} at first, lukewarm at once after {litres(hot)}."
        whole = hot > 0.8 * LITRES
        return f"{degrees(first)}, then cold after {litres(hot)}: {'a whole tank' if whole else 'part of a tank'}."

    def cold_pipe_feel_it_while_hot_runs(self) -> str:
        return "The cold pipe gets warm, and the faucet cools at once." if self.has("dip_tube") else "It is cold."

    def cold_pipe_renew_the_dip_tube(self) -> str:
        self._opened()
        self.mended("cold_pipe", "renew the dip tube")
        return "A new dip tube hangs in the cold nipple."

    def _opened(self) -> None:
        """A connection of the tank is opened."""
        if self.cold_is_open or not self.tap_is_open:
            raise Hurt("flooded" if self.top_c < SCALDS_C else "scalded")

    def _burst_in(self) -> None:
        """Something below the water line is unscrewed."""
        if self.level > EMPTY:
            raise Hurt("flooded" if self.low_c < SCALDS_C else "scalded")

    def drain_look(self) -> str:
        return "It is wet below the drain." if self.has("drain_weeps") and not self.is_capped else "Dry."

    def drain_hose_on(self) -> str:
        self.has_hose = True
        return "The hose is on, its end in the floor drain."

    def drain_open(self) -> str:
        if not self.has_hose:
            raise Hurt("scalded" if self.low_c > SCALDS_C else "flooded")
        self.drain_is_open = True
        if self.cold_is_open:
            return "It runs hard, from the supply."
        return "It runs." if self.tap_is_open else "It spurts and dies: no air gets in above."

    def drain_till_nothing_runs(self) -> str:
        if not self.drain_is_open:
            raise Refused("The drain is shut.")
        if not self.cold_is_open and self.tap_is_open:
            self.pass_by(self.level * EMPTIES_MIN)
        return (
            "Nothing runs any more." if self.level <= EMPTY else "It runs on." if self.cold_is_open else "It gurgles."
        )

    def drain_run_it_clear(self) -> str:
        if not (self.drain_is_open and self.cold_is_open):
            raise Refused("It takes an open drain and the cold on.")
        self.top_c = self.low_c = COLD_C
        return "Dark at first, then cloudy, then clear."

    def drain_shut(self) -> str:
        self.drain_is_open = False
        return "Shut."

    def drain_hose_off(self) -> str:
        if self.drain_is_open and (self.level > EMPTY or self.cold_is_open):
            raise Hurt("flooded")
        self.has_hose = False
        return "The hose is off."

    def drain_cap_it(self) -> str:
        if self.has_hose:
            raise Refused("The hose is on its thread.")
        self.is_capped = True
        if self.has("drain_weeps"):
            self.mended("drain", "cap it")
        return "A cap is on its thread."

    def joints_wipe_and_look(self) -> str:
        if self.has("joint"):
            return "Wiped dry, one joint at the top is wet again first, and it runs down from there."
        return "Wiped dry, all of them stay dry."

    def joints_remake_the_wet_one(self) -> str:
        self._opened()
        self.mended("joints", "remake the wet one")
        return "The joint is made anew."

    def relief_pipe_look(self) -> str:
        return "Its end drips." if self.relief_drips() else "Its end is dry."

    def relief_drips(self) -> bool:
        """By a seat that does not hold, or because the pressure makes it open."""
        return self.has("relief_seat") or (self.peak_kpa() >= RELIEF_KPA and not self.tap_is_open)

    def relief_pipe_renew_the_relief_valve(self) -> str:
        self._opened()
        self.mended("relief_pipe", "renew the relief valve")
        return "A new valve of the same rating is in."

    def peak_kpa(self) -> float:
        """To where the pressure rises while the tank heats, in a house with a check valve. Source: Boyle, for the air
        in the expansion tank; water itself hardly gives way."""
        takes_in = SWELLS * LITRES
        if self.has("bladder"):
            return RELIEF_KPA
        absolute = self.supply_kpa + ATMOSPHERE_KPA
        return absolute * EXPANSION_L / max(EXPANSION_L - takes_in, 0.1) - ATMOSPHERE_KPA

    def gauge_read(self) -> str:
        return f"{pressure(self.supply_kpa)}." if self.cold_is_open else "Nothing."

    def gauge_watch_it_while_it_heats(self) -> str:
        if self.drain_is_open:
            raise Refused("The drain is open.")
        if not self.heats():
            return f"It stays at {pressure(self.supply_kpa)}; but nothing heats."
        top = self.peak_kpa()
        more = ", and the relief pipe drips" if top >= RELIEF_KPA else ""
        return f"From {pressure(self.supply_kpa)} it creeps to {pressure(top)}{more}."

    def expansion_tank_press_its_pin(self) -> str:
        return "Water comes out of it." if self.has("bladder") else "Air comes out of it."

    def expansion_tank_renew_it(self) -> str:
        self._opened()
        self.mended("expansion_tank", "renew it")
        return "A new one is on, charged to the house's pressure."

    def sound_ask_and_listen(self) -> str:
        return (
            "It knocks when a valve is shut, while it heats." if self.has("bladder") else super().sound_ask_and_listen()
        )

    def house_ask_what_was_drawn(self) -> str:
        return "A bath, just now: the tank was run cold." if self.has("sweat") else "Nothing out of the way."

    def pan_dry_paper_for_15_minutes(self) -> str:
        above = self.has("joint", "drain_weeps") and not self.is_capped
        sweats = self.has("sweat") and self.low_c < SWEATS_BELOW_C
        return "It is wet again." if above or sweats or self.has("tank_wall") else "It stays dry."

    def wrong(self) -> list[str]:
        found = {
            "with air in it": self.level < 1,
            "with the drain open": self.drain_is_open,
            "with the hose on": self.has_hose,
        }
        return [*super().wrong(), *(words for words, so in found.items() if so)]
