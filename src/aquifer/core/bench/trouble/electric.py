"""An electric tank: from the panel by the limit and two thermostats to two elements, of which one heats at a time."""

from collections.abc import Mapping
from typing import ClassVar

from aquifer.core.bench.trouble.rig import SET_C, Fault, Hurt, Point, Refused, TankRig
from aquifer.core.units import Quantity, figure

VOLTS, KW = 240.0, 4.5
"""Of the usual circuit and element. Trade practice."""
OHMS = VOLTS**2 / (1000 * KW)
"""Across a sound element, ohm. Source: Ohm's law."""
SCORCHED_OHMS = 22.0
"""Of a terminal that has burnt: it lets a meter by and no load. Assumption."""
LIMIT_C = 77.0
"""170 degF, at which the red button comes out. Trade practice."""


class ElectricRig(TankRig):
    points: ClassVar[tuple[Point, ...]] = (
        *TankRig.points[:-1],
        Point("breaker", "Breaker", "electric", {
            "look": 0.5, "volts": 2, "off": 0.5, "off and locked": 1, "see that the heater is dead": 1,
            "off and on again": 0.5, "on": 0.5,
        }),
        Point("covers", "Covers", "electric", {"off": 2, "on": 2}),
        Point("terminals", "Terminals", "electric", {"prove them dead": 3}),
        Point("wiring", "Wiring", "electric", {"look": 1, "renew the burnt end": 15}),
        Point("limit", "Red reset", "electric", {"press": 0.5, "volts behind it": 2}),
        Point("upper_thermostat", "Upper thermostat", "electric", {"does it cut off": 3, "renew": 15}),
        Point("upper_element", "Upper element", "electric", {"volts": 2, "ohms": 4, "renew": 15}),
        Point("lower_element", "Lower element", "electric", {"volts": 2, "ohms": 4, "renew": 15}),
        TankRig.points[-1],
    )  # fmt: skip
    faults: ClassVar[Mapping[str, Fault]] = {
        **TankRig.faults,
        "breaker_tripped": Fault("the breaker had tripped", ("breaker", "off and on again")),
        "limit_tripped": Fault("the limit had tripped, wet from above", ("limit", "press")),
        "thermostat_stuck": Fault("the upper thermostat sticks", ("upper_thermostat", "renew")),
        "wire_burnt": Fault("a wire's end has burnt", ("wiring", "renew the burnt end"), may_wait=True),
        "upper_open": Fault("the upper element is open", ("upper_element", "renew")),
        "lower_open": Fault("the lower element is open", ("lower_element", "renew")),
    }

    def __init__(self, fault: str, seed: int) -> None:
        self.breaker_is_on = fault != "breaker_tripped"
        self.is_locked = self.is_proven = False
        self.limit_is_out = fault in ("limit_tripped", "thermostat_stuck")
        self.burnt: set[str] = set()
        super().__init__(fault, seed)
        # In one house of four the panel's labels are wrong.
        self.is_mislabelled = bool(self.random.random() < 0.25) and self.breaker_is_on

    # Current.

    def _behind_limit(self, under_load: bool) -> float:
        if self.limit_is_out:
            return 0.0
        at = VOLTS if self.breaker_is_on else 0.0
        return at * OHMS / (OHMS + SCORCHED_OHMS) if self.has("wire_burnt") and under_load else at

    def _upper_calls(self) -> bool:
        return self.has("thermostat_stuck") or self.top_c < SET_C - 6

    def is_open(self, element: str) -> bool:
        return self.has(f"{element}_open") or element in self.burnt

    def heating_kw(self) -> tuple[float, float]:
        if self._behind_limit(under_load=True) < 0.9 * VOLTS:
            return 0.0, 0.0
        if self._upper_calls():
            if self.is_open("upper"):
                return 0.0, 0.0
            self._glow("upper", 0.72)
            return KW, 0.0
        if self.calls() and not self.is_open("lower"):
            self._glow("lower", 0.14)
            return 0.0, KW
        return 0.0, 0.0

    def _glow(self, element: str, height: float) -> None:
        if self.level < height:
            self.burnt.add(element)
            raise Hurt("element_burnt")

    def pass_by(self, minutes: float) -> None:
        super().pass_by(minutes)
        if self.top_c > LIMIT_C:
            self.limit_is_out = True

    def heats(self) -> bool:
        elements = not (self.is_open("upper") or self.is_open("lower"))
        return elements and self._behind_limit(under_load=True) > 0.9 * VOLTS and not self.has("thermostat_stuck")

    def _touched(self) -> None:
        """Hands are at the terminals."""
        if self.covers_are_on:
            raise Refused("The covers are on.")
        self.touched_unproven = bool(self.touched_unproven) or not self.is_proven
        if self.breaker_is_on:
            raise Hurt("shock")

    def _volts(self, volts: float) -> str:
        if self.covers_are_on:
            raise Refused("The covers are on.")
        return f"{figure(Quantity.VOLTAGE, round(volts))}."

    # What is done.

    def breaker_look(self) -> str:
        if self.breaker_is_on:
            return "On."
        return "Locked, with our tag." if self.is_locked else "Tripped: its handle stands in the middle."

    def breaker_volts(self) -> str:
        return f"{figure(Quantity.VOLTAGE, VOLTS if self.breaker_is_on else 0)} at its load side."

    def breaker_off(self) -> str:
        self.breaker_is_on = self.is_mislabelled and self.breaker_is_on
        return "Off."

    def breaker_off_and_locked(self) -> str:
        self.breaker_is_on = self.is_mislabelled and self.breaker_is_on
        self.is_locked = True
        return "Off, a lock and a tag on it."

    def breaker_see_that_the_heater_is_dead(self) -> str:
        if not self.breaker_is_on:
            return "Nothing at its cable."
        if not self.is_locked:
            return "Its cable is live."
        self.is_mislabelled = self.breaker_is_on = False
        return "Its cable is live: the label was another heater's. The right one is off now, and locked."

    def breaker_off_and_on_again(self) -> str:
        return self._switched(tripped=True)

    def breaker_on(self) -> str:
        return self._switched(tripped=False)

    def _switched(self, tripped: bool) -> str:
        self.is_locked = self.is_proven = False
        if self.has("breaker_tripped") and not tripped:
            return "Its handle does not stay: it wants to go full off first."
        if tripped and self.has("breaker_tripped"):
            self.mended("breaker", "off and on again")
        self.breaker_is_on = True
        self.heating_kw()
        return "On, and it stays."

    def covers_off(self) -> str:
        return f"{super().covers_off()} Terminals are bare."

    def terminals_prove_them_dead(self) -> str:
        if self.covers_are_on:
            raise Refused("The covers are on.")
        if self.breaker_is_on:
            shown = f"The meter is sound, and the terminals read {figure(Quantity.VOLTAGE, VOLTS)}."
            if not self.is_locked:
                return shown
            # Whoever measures first finds the breaker that is meant.
            self.is_mislabelled = self.breaker_is_on = False
            self.is_proven = True
            return shown + " Another breaker: off now, locked, and they read nothing."
        self.is_proven = True
        return "A live outlet, the terminals dead, the live outlet again: the meter is right."

    def wiring_look(self) -> str:
        if self.covers_are_on:
            raise Refused("The covers are on.")
        if self.has("wire_burnt"):
            return "One wire's end is brown, its insulation has shrunk: scorched."
        return "Wet from above: it dripped." if self.has("limit_tripped") else "Sound and dry."

    def wiring_renew_the_burnt_end(self) -> str:
        self._touched()
        self.mended("wiring", "renew the burnt end")
        return "Cut back to bright copper, a new end on."

    def limit_press(self) -> str:
        self._touched()
        clicked, self.limit_is_out = self.limit_is_out, False
        if clicked and self.has("limit_tripped"):
            self.mended("limit", "press")
        return "It clicks." if clicked else "It does not click."

    def limit_volts_behind_it(self) -> str:
        return self._volts(self._behind_limit(under_load=max(self._meant()) > 0))

    def _meant(self) -> tuple[float, float]:
        """What would be drawn if all wires were sound."""
        if self._upper_calls():
            return (0.0 if self.is_open("upper") else KW), 0.0
        return 0.0, (KW if self.calls() and not self.is_open("lower") else 0.0)

    def upper_thermostat_does_it_cut_off(self) -> str:
        if self.has("thermostat_stuck"):
            return "Turned down, it still lets current by."
        return "Turned down it opens, turned up it closes: it clicks."

    def upper_thermostat_renew(self) -> str:
        self._touched()
        self.mended("upper_thermostat", "renew")
        return "A new one is in, wires as in the photograph."

    def upper_element_volts(self) -> str:
        calls = self._upper_calls()
        return self._volts(self._behind_limit(under_load=not self.is_open("upper")) if calls else 0.0)

    def lower_element_volts(self) -> str:
        gets = not self._upper_calls() and self.calls()
        return self._volts(self._behind_limit(under_load=not self.is_open("lower")) if gets else 0.0)

    def upper_element_ohms(self) -> str:
        return self._ohms("upper")

    def lower_element_ohms(self) -> str:
        return self._ohms("lower")

    def _ohms(self, element: str) -> str:
        self._touched()
        if self.is_open(element):
            return "Open across it; none to the tank."
        return f"{OHMS:.1f} ohms across, none to the tank: sound."

    def upper_element_renew(self) -> str:
        return self._renewed("upper")

    def lower_element_renew(self) -> str:
        return self._renewed("lower")

    def _renewed(self, element: str) -> str:
        self._touched()
        self._burst_in()
        self.burnt.discard(element)
        self.mended(f"{element}_element", "renew")
        return "A new one is in, its gasket too."

    def is_off(self) -> bool:
        return not self.breaker_is_on and self.is_locked and self.covers_are_on

    def wrong(self) -> list[str]:
        found = {
            "off": not self.breaker_is_on,
            "with its covers off": not self.covers_are_on,
            "with its limit tripped": self.limit_is_out,
            "with an element burnt out": bool(self.burnt),
        }
        return [*super().wrong(), *(words for words, so in found.items() if so)]
