"""A gas tank that a fan vents and a hot surface lights: each link of the chain waits for the one before it."""

from collections.abc import Mapping
from typing import ClassVar

from aquifer.core.bench.trouble.pilot import BURNER_KW, GasRig
from aquifer.core.bench.trouble.rig import Fault, Hurt, Point
from aquifer.core.units import Quantity, figure

MAINS_V = 120.0
"""Of an outlet. Trade practice."""
IGNITER_OHMS = 62.0
"""Of a sound hot surface, cold: 45 to 90. Trade practice."""
SIGNAL_UA, HOLDS_UA = 3.2, 1.0
"""Of a clean flame rod, microampere, and what the board needs. Trade practice."""


class FanRig(GasRig):
    points: ClassVar[tuple[Point, ...]] = (
        *GasRig.points[:-1],
        Point("plug", "Plug and display", "electric", {"look": 0.5, "volts": 2, "pull it": 0.5, "put it in": 0.5}),
        Point("dial", "Dial", "gas", {"turn above the heat": 2, "turn to its mark": 0.3}),
        Point("fan", "Fan", "air", {"look while it calls": 2, "volts while it calls": 2, "renew": 30}),
        Point("hose", "Hose of the vacuum switch", "air", {"look": 1, "empty it": 3}),
        Point("vacuum_switch", "Vacuum switch", "air", {"suck on it": 2, "jumper it": 2, "renew": 15}),
        Point("vent", "Vent outside", "air", {"look": 3, "clear it": 20}),
        Point("igniter", "Igniter", "electric", {"look while it calls": 2, "ohms": 3, "renew": 20}),
        Point("flame", "Flame", "gas", {"look while it calls": 2}),
        Point("flame_rod", "Flame rod", "gas", {"signal": 2, "wipe with plain paper": 6, "renew": 15}),
        Point("covers", "Burner door", "electric", {"off": 2, "on": 2}),
        GasRig.points[-1],
    )
    faults: ClassVar[Mapping[str, Fault]] = {
        **GasRig.faults,
        "plug_out": Fault("its plug was out", ("plug", "put it in")),
        "fan_still": Fault("the fan", ("fan", "renew"), may_wait=True),
        "hose_wet": Fault("water in the vacuum switch's hose", ("hose", "empty it")),
        "vent_blocked": Fault("the vent is blocked", ("vent", "clear it"), may_wait=True),
        "switch_dead": Fault("the vacuum switch", ("vacuum_switch", "renew"), may_wait=True),
        "igniter_open": Fault("the igniter", ("igniter", "renew"), may_wait=True),
        "rod_fouled": Fault("the flame rod is fouled", ("flame_rod", "wipe with plain paper")),
    }

    def __init__(self, fault: str, seed: int) -> None:
        self.is_plugged, self.jumpered = fault != "plug_out", False
        super().__init__(fault, seed)

    # The chain.

    def fan_turns(self) -> bool:
        return self.is_plugged and not self.has("fan_still")

    def switch_closes(self) -> bool:
        draws = self.fan_turns() and not self.has("vent_blocked", "hose_wet", "switch_dead")
        return draws or (self.jumpered and self.is_plugged)

    def glows(self) -> bool:
        return self.switch_closes() and not self.has("igniter_open")

    def lights(self) -> bool:
        return self.glows() and self.gas_is_open

    def signal_ua(self) -> float:
        return SIGNAL_UA * (0.12 if self.has("rod_fouled") else 1.0) if self.lights() else 0.0

    def burns_on(self) -> bool:
        return self.signal_ua() >= HOLDS_UA

    def heating_kw(self) -> tuple[float, float]:
        if not (self.calls() and self.burns_on()):
            return 0.0, 0.0
        if self.level < 0.1:
            raise Hurt("dry_fire")
        if self.jumpered and self.has("vent_blocked", "fan_still"):
            raise Hurt("exhaust")
        return 0.0, BURNER_KW

    def heats(self) -> bool:
        return self.burns_on() and not self.jumpered

    def put_out(self) -> None:
        """Its flame goes out with the gas, and lights by itself with it."""

    def _calling(self) -> None:
        if self.jumpered and self.burns_on() and self.has("vent_blocked", "fan_still"):
            raise Hurt("exhaust")

    def _unplugged(self) -> None:
        if self.is_plugged:
            raise Hurt("shock")

    # What is done.

    def plug_look(self) -> str:
        return "In; the display is lit." if self.is_plugged else "It hangs beside the outlet; the display is dark."

    def plug_volts(self) -> str:
        return f"{figure(Quantity.VOLTAGE, MAINS_V)} at the outlet."

    def plug_pull_it(self) -> str:
        self.is_plugged = False
        return "Out, tagged."

    def plug_put_it_in(self) -> str:
        self.spark()
        self.is_plugged = True
        if self.has("plug_out"):
            self.mended("plug", "put it in")
        return "The display lights up."

    def dial_turn_above_the_heat(self) -> str:
        self.spark()
        self._calling()
        if not self.is_plugged:
            return "Nothing at all."
        if not self.fan_turns():
            return "A click, and nothing turns."
        if not self.switch_closes():
            return "The fan starts, and nothing follows."
        if not self.glows():
            return "The fan starts; nothing glows."
        if not self.gas_is_open:
            return "It glows, and no gas comes."
        return "It lights and burns on." if self.burns_on() else "It lights, and goes out after four seconds."

    def dial_turn_to_its_mark(self) -> str:
        return "At its mark."

    def fan_look_while_it_calls(self) -> str:
        self._calling()
        return "It turns." if self.fan_turns() else "It stands still."

    def fan_volts_while_it_calls(self) -> str:
        return f"{figure(Quantity.VOLTAGE, MAINS_V if self.is_plugged else 0)}."

    def fan_renew(self) -> str:
        self._unplugged()
        self.mended("fan", "renew")
        return "A new fan is in."

    def hose_look(self) -> str:
        return "Water stands in it." if self.has("hose_wet") else "Dry, whole, on both ends."

    def hose_empty_it(self) -> str:
        if self.has("hose_wet"):
            self.mended("hose", "empty it")
        return "Blown dry, hung so that it drains."

    def vacuum_switch_suck_on_it(self) -> str:
        return "No click." if self.has("switch_dead") else "It clicks, and clicks back."

    def vacuum_switch_jumper_it(self) -> str:
        self.jumpered = True
        self._calling()
        return "Bridged: it runs whether it draws or not."

    def vacuum_switch_renew(self) -> str:
        self._unplugged()
        self.jumpered = False
        self.mended("vacuum_switch", "renew")
        return "A new one is in."

    def vent_look(self) -> str:
        return "A nest fills the terminal." if self.has("vent_blocked") else "Clear from end to end."

    def vent_clear_it(self) -> str:
        if self.has("vent_blocked"):
            self.mended("vent", "clear it")
        return "Clear."

    def igniter_look_while_it_calls(self) -> str:
        self._calling()
        return "It glows." if self.glows() else "It stays dark."

    def igniter_ohms(self) -> str:
        self._unplugged()
        return "Open." if self.has("igniter_open") else f"{IGNITER_OHMS:.0f} ohms: sound."

    def igniter_renew(self) -> str:
        self._unplugged()
        self.mended("igniter", "renew")
        return "A new one is in, untouched by fingers."

    def flame_look_while_it_calls(self) -> str:
        self._calling()
        if not self.lights():
            return "None."
        return "Blue, and it stays." if self.burns_on() else "Blue, and gone after four seconds."

    def flame_rod_signal(self) -> str:
        return f"{self.signal_ua():.1f} microampere while it burns."

    def flame_rod_wipe_with_plain_paper(self) -> str:
        self._unplugged()
        if self.has("rod_fouled"):
            self.mended("flame_rod", "wipe with plain paper")
            return "Its white film is off; the gap is as it was."
        return "It was bright."

    def flame_rod_renew(self) -> str:
        self._unplugged()
        if self.has("rod_fouled"):
            # It works again, and a sound rod lies in the bin.
            self.unfit.discard("rod_fouled")
        self.renewed.append("flame_rod")
        return "A new one is in."

    def is_off(self) -> bool:
        return super().is_off() or (not self.is_plugged and not self.gas_is_open and self.covers_are_on)

    def wrong(self) -> list[str]:
        found = {
            "unplugged": not self.is_plugged,
            "with its burner door off": not self.covers_are_on,
            "with its vacuum switch bridged": self.jumpered,
        }
        return [*super().wrong(), *(words for words, so in found.items() if so)]
