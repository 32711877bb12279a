"""A gas tank with a standing pilot: gas by its valve to the control, a flame on a tip that holds the control open, air
from below, exhaust out above."""

from collections.abc import Mapping
from typing import ClassVar

from aquifer.core.bench.trouble.rig import Fault, Hurt, Point, Refused, TankRig

BURNER_KW = 8.6
"""11 kW at 0.78. Trade practice."""
SOUND_MV, HOLDS_MV = 30.0, 5.0
"""Of a tip in a full flame, open; and what the magnet needs, loaded, which is half of it. Trade practice: 25 or more
open, and the magnet lets go at 3 to 4."""
AIRS_MIN = 5.0
"""In which gas that lay in the chamber is gone. Trade practice; the heater's own label comes first."""

MOST_TRIES = 3
"""To light it, before it is shut off and aired. Trade practice."""


class GasRig(TankRig):
    """What both gas tanks have: a valve, joints, a vent and a nose."""

    points: ClassVar[tuple[Point, ...]] = (
        *TankRig.points[:-1],
        Point(
            "air", "Air in the room", "house", {"sniff low and high": 1, "open the windows": 1, "all out and call": 5}
        ),
        Point("gas_valve", "Gas valve", "gas", {"look": 0.5, "shut": 0.5, "open": 0.5}),
        Point("gas_joints", "Gas joints", "gas", {"spray and watch": 2, "remake the leaking one": 15}),
        TankRig.points[-1],
    )
    faults: ClassVar[Mapping[str, Fault]] = {
        **TankRig.faults,
        "gas_joint": Fault(
            "a gas joint leaks", ("gas_joints", "remake the leaking one"), may_wait=True, runs=True
        ),
        "no_gas": Fault("the gas valve was shut", ("gas_valve", "open")),
    }  # fmt: skip

    def __init__(self, fault: str, seed: int) -> None:
        self.gas_is_open = fault != "no_gas"
        self.joints_are_tested, self.lies_gas = True, fault == "gas_joint"
        super().__init__(fault, seed)

    def spark(self) -> None:
        """Something is lit or switched."""
        if self.lies_gas:
            raise Hurt("flash")

    def pass_by(self, minutes: float) -> None:
        super().pass_by(minutes)
        if self.has("gas_joint"):
            self.lies_gas = self.lies_gas or self.gas_is_open

    def air_sniff_low_and_high(self) -> str:
        return "It smells of gas, low at the floor too." if self.lies_gas else "Nothing but a cellar."

    def air_open_the_windows(self) -> str:
        self.lies_gas = self.has("gas_joint") and self.gas_is_open
        return "Air goes through."

    def air_all_out_and_call(self) -> str:
        self.is_emptied = True
        return "Everybody is outside; the gas company is on its way."

    def gas_valve_look(self) -> str:
        return "Along the pipe: open." if self.gas_is_open else "Crosswise: shut."

    def gas_valve_shut(self) -> str:
        self.gas_is_open = False
        self.put_out()
        return "Crosswise."

    def gas_valve_open(self) -> str:
        self.gas_is_open = True
        if self.has("no_gas"):
            self.mended("gas_valve", "open")
        return "Along the pipe."

    def put_out(self) -> None:
        """The flame has no gas any more."""

    def gas_joints_spray_and_watch(self) -> str:
        if not self.gas_is_open:
            raise Refused("Gas on first: a joint without gas shows nothing.")
        if self.has("gas_joint"):
            return "A bubble grows at the union."
        self.joints_are_tested = True
        return "Nothing grows."

    def gas_joints_remake_the_leaking_one(self) -> str:
        self.line_opened()
        self.mended("gas_joints", "remake the leaking one")
        return "Made anew."

    def is_off(self) -> bool:
        """Who smells gas shuts what he can from outside, and calls; he touches nothing else."""
        return self.is_emptied and not self.gas_is_open

    def line_opened(self) -> None:
        """What carries gas is taken apart."""
        if self.gas_is_open:
            raise Hurt("gas_out")
        self.joints_are_tested = False

    def wrong(self) -> list[str]:
        found = {
            "with the gas shut": not self.gas_is_open,
            "with a gas joint that nobody sprayed": not self.joints_are_tested,
            "with gas in the room": self.lies_gas,
        }
        return [*super().wrong(), *(words for words, so in found.items() if so)]


class PilotRig(GasRig):
    points: ClassVar[tuple[Point, ...]] = (
        *GasRig.points[:-1],
        Point("dial", "Dial", "gas", {
            "look": 0.5, "turn off": 0.3, "turn to pilot": 0.3, "turn to its mark": 0.3, "turn above the heat": 2,
        }),
        Point("pilot", "Pilot", "gas", {
            "look through the window": 1, "light it and hold": 3, "blow its tube clear": 15,
        }),
        Point("thermocouple", "Thermocouple", "gas", {
            "look at its tip": 1, "clean its tip": 4, "clean and snug its nut": 3, "millivolts": 3, "renew": 12,
        }),
        Point("gas_control", "Gas control", "gas", {"renew": 35}),
        Point("base", "Base and closet", "air", {"look": 1, "clear lint and draft": 6}),
        Point("vent", "Vent", "air", {"smoke at the hood": 3}),
        GasRig.points[-1],
    )  # fmt: skip
    faults: ClassVar[Mapping[str, Fault]] = {
        **GasRig.faults,
        "thermocouple": Fault("the thermocouple is worn out", ("thermocouple", "renew")),
        "tip_sooted": Fault("the thermocouple's tip is sooted", ("thermocouple", "clean its tip")),
        "nut_loose": Fault("the thermocouple's nut makes no contact", ("thermocouple", "clean and snug its nut")),
        "pilot_tube": Fault("the pilot's tube is clogged", ("pilot", "blow its tube clear")),
        "blown_out": Fault("a draft blew the pilot out", ("base", "clear lint and draft")),
        "control_shut": Fault("the gas control does not open the burner", ("gas_control", "renew"), may_wait=True),
        "magnet": Fault("the gas control does not hold the pilot", ("gas_control", "renew"), may_wait=True),
    }

    def __init__(self, fault: str, seed: int) -> None:
        self.dial_at, self.pilot_burns = "on", fault not in ("blown_out", "gas_joint")
        self.tries, self.airs_min = 0, 0.0
        """Since the chamber was aired, and how long it has still to be."""
        super().__init__(fault, seed)

    # Flame.

    def flame(self) -> float:
        """Of the pilot while its button is held: 0 none, 1 full."""
        if not self.gas_is_open or self.dial_at == "off":
            return 0.0
        return 0.35 if self.has("pilot_tube") else 1.0

    def millivolts(self) -> float:
        """Of the thermocouple, open, in that flame."""
        sound = 0.2 if self.has("thermocouple") else 0.25 if self.has("tip_sooted") else 1.0
        return SOUND_MV * sound * float(self.flame() ** 1.5)

    def holds(self) -> bool:
        """Whether the magnet keeps the pilot's gas open."""
        loaded = self.millivolts() / 2 * (0.2 if self.has("nut_loose") else 1.0)
        return loaded >= HOLDS_MV and not self.has("magnet")

    def put_out(self) -> None:
        if self.pilot_burns:
            self.airs_min = AIRS_MIN
        self.pilot_burns = False

    def pass_by(self, minutes: float) -> None:
        burnt = self.pilot_burns
        if not self.holds():
            self.pilot_burns = False
        super().pass_by(minutes)
        if burnt and self.has("blown_out") and self.minutes > 0 and minutes >= 15:
            self.pilot_burns = False
        self.airs_min = max(self.airs_min - minutes, 0.0)
        if minutes >= AIRS_MIN:
            self.tries = 0

    def heating_kw(self) -> tuple[float, float]:
        opens = self.pilot_burns and self.dial_at == "on" and not self.has("control_shut")
        if not (opens and self.calls()):
            return 0.0, 0.0
        if self.level < 0.1:
            raise Hurt("dry_fire")
        return 0.0, BURNER_KW

    def heats(self) -> bool:
        return self.pilot_burns and self.holds() and self.dial_at == "on" and not self.has("control_shut", "blown_out")

    # What is done.

    def dial_look(self) -> str:
        return {"on": "At its mark.", "pilot": "At PILOT.", "off": "OFF."}[self.dial_at]

    def dial_turn_off(self) -> str:
        self.dial_at = "off"
        self.put_out()
        return "OFF; the pilot is out."

    def dial_turn_to_pilot(self) -> str:
        self.dial_at = "pilot"
        return "PILOT."

    def dial_turn_to_its_mark(self) -> str:
        self.dial_at = "on"
        return "The burner opens." if self.heating_kw()[1] else "Nothing is heard."

    def dial_turn_above_the_heat(self) -> str:
        self.dial_at = "on"
        if not self.pilot_burns:
            return "No pilot, no burner."
        return "The burner does not open." if self.has("control_shut") else "The burner opens, blue and quiet."

    def pilot_look_through_the_window(self) -> str:
        if not self.pilot_burns:
            return "It is out."
        return "It burns, blue." if self.flame() == 1 else "It burns small and yellow."

    def pilot_light_it_and_hold(self) -> str:
        self.spark()
        if self.pilot_burns:
            return "It burns already."
        if self.dial_at == "off":
            raise Refused("The dial is OFF: no gas comes.")
        if self.airs_min > 0 or self.tries >= MOST_TRIES:
            raise Hurt("lit_too_soon")
        self.tries += 1
        self.dial_at = "pilot"
        if not self.flame():
            return "It does not light at all."
        self.pilot_burns = self.holds()
        look = "" if self.flame() == 1 else "Small and yellow; "
        return f"{look}it stays.".capitalize() if self.pilot_burns else f"{look}it dies on release.".capitalize()

    def pilot_blow_its_tube_clear(self) -> str:
        self.line_opened()
        self.mended("pilot", "blow its tube clear")
        return "Off, blown through with air, back."

    def thermocouple_look_at_its_tip(self) -> str:
        if self.has("tip_sooted"):
            return "Black with soot."
        return "Clean, but the flame hardly reaches it." if self.has("pilot_tube") else "Clean, in the flame."

    def thermocouple_clean_its_tip(self) -> str:
        if self.has("tip_sooted"):
            self.mended("thermocouple", "clean its tip")
        return "Wiped bright."

    def thermocouple_clean_and_snug_its_nut(self) -> str:
        if self.has("nut_loose"):
            self.mended("thermocouple", "clean and snug its nut")
            return "It was loose and dull; bright and snug now."
        return "It was bright and snug."

    def thermocouple_millivolts(self) -> str:
        self.spark()
        if not self.flame():
            raise Refused("There is no flame to heat it.")
        return f"{self.millivolts():.0f} mV open, button held."

    def thermocouple_renew(self) -> str:
        if self.gas_is_open:
            raise Hurt("gas_out")
        self.joints_are_tested = False
        self.mended("thermocouple", "renew")
        return "A new one is in, finger tight and a quarter turn."

    def gas_control_renew(self) -> str:
        self.line_opened()
        if self.tap_is_open and self.level > 0.1 and not self.cold_is_open:
            raise Hurt("flooded")
        if self.cold_is_open:
            raise Hurt("flooded" if self.low_c < 49 else "scalded")
        self.mended("gas_control", "renew")
        return "A new one is in; the vacuum held the water."

    def base_look(self) -> str:
        return "Lint in the screen, and the closet's door stands in a draft." if self.has("blown_out") else "Clear."

    def base_clear_lint_and_draft(self) -> str:
        if self.has("blown_out"):
            self.mended("base", "clear lint and draft")
        return "Brushed clear; the door closes."

    def vent_smoke_at_the_hood(self) -> str:
        return "Drawn in." if self.pilot_burns or self.has("blown_out") else "It hangs: nothing burns."

    def is_off(self) -> bool:
        return super().is_off() or (self.dial_at == "off" and not self.gas_is_open)

    def wrong(self) -> list[str]:
        found = {"with its pilot out": not self.pilot_burns, "with its dial not at the mark": self.dial_at != "on"}
        return [*super().wrong(), *(words for words, so in found.items() if so)]
