"""The heater of a vehicle: twelve volts, a link that melts, a board that sparks and listens at one electrode, a jet."""

from collections.abc import Mapping
from typing import ClassVar

from aquifer.core.bench.trouble.pilot import GasRig
from aquifer.core.bench.trouble.rig import Fault, Hurt, Point, Refused
from aquifer.core.units import Quantity, figure

BATTERY_V = 12.6
"""Of a full one. Trade practice."""
BURNER_KW = 2.5
"""Of a small tank, into its water. Trade practice."""


class VehicleRig(GasRig):
    points: ClassVar[tuple[Point, ...]] = (
        *GasRig.points[:-1],
        Point("switch", "Switch and board", "electric", {
            "look": 0.5, "volts": 2, "everything off": 1, "everything on": 1, "turn it on and watch": 2,
        }),
        Point("fuse_link", "Fuse link", "electric", {"continuity": 4, "clean its terminals": 3, "renew": 5}),
        Point("electrode", "Electrode", "electric", {"look closely": 3, "set its gap": 4, "renew": 8}),
        Point("jet", "Burner tube and jet", "gas",
              {"take out and look": 10, "blow it with air": 4, "wire through it": 2}),
        Point("covers", "Cover", "electric", {"off": 1, "on": 1}),
        GasRig.points[-1],
    )  # fmt: skip
    faults: ClassVar[Mapping[str, Fault]] = {
        **GasRig.faults,
        "link_melted": Fault("the fuse link is open", ("fuse_link", "renew")),
        "electrode_cracked": Fault("a crack in the electrode's ceramic", ("electrode", "renew")),
        "web": Fault("a web in the burner tube", ("jet", "blow it with air")),
    }

    def __init__(self, fault: str, seed: int) -> None:
        self.is_on, self.jet_is_ruined = True, False
        super().__init__(fault, seed)

    def sparks(self) -> bool:
        return self.is_on and not self.has("link_melted", "electrode_cracked")

    def lights(self) -> bool:
        return self.sparks() and self.gas_is_open and not self.has("web")

    def heating_kw(self) -> tuple[float, float]:
        if not (self.calls() and self.lights()):
            return 0.0, 0.0
        if self.level < 0.1:
            raise Hurt("dry_fire")
        return 0.0, BURNER_KW

    def heats(self) -> bool:
        return self.lights() and not self.jet_is_ruined

    def put_out(self) -> None:
        """It lights by itself with the gas."""

    def _off(self) -> None:
        if self.is_on:
            raise Hurt("shock")

    def switch_look(self) -> str:
        return "On; its lamp is lit." if self.is_on else "Off."

    def switch_volts(self) -> str:
        return f"{figure(Quantity.VOLTAGE, BATTERY_V)} at the board."

    def switch_everything_off(self) -> str:
        self.is_on = False
        return "Gas switch, both currents and the pump are off."

    def switch_everything_on(self) -> str:
        self.spark()
        self.is_on = True
        return "On."

    def switch_turn_it_on_and_watch(self) -> str:
        self.spark()
        self.is_on = True
        if self.has("link_melted"):
            return "Nothing: no click, no spark."
        if self.has("electrode_cracked"):
            return "It ticks three times, the spark jumps through the ceramic, and it locks out."
        if self.has("web"):
            return "It sparks; a yellow flame puffs at the tube's mouth and goes out."
        return "It lights at the first spark, blue." if self.gas_is_open else "It sparks three times and locks out."

    def fuse_link_continuity(self) -> str:
        self._off()
        return "Open." if self.has("link_melted") else "Closed, steady."

    def fuse_link_clean_its_terminals(self) -> str:
        self._off()
        return "Bright."

    def fuse_link_renew(self) -> str:
        self._off()
        self.mended("fuse_link", "renew")
        return "A new one of the same degrees is in."

    def electrode_look_closely(self) -> str:
        if self.covers_are_on:
            raise Refused("The cover is on.")
        return (
            "A hair-fine black line runs across its ceramic." if self.has("electrode_cracked") else "Whole; gap right."
        )

    def electrode_set_its_gap(self) -> str:
        self._off()
        return "As the sheet says."

    def electrode_renew(self) -> str:
        self._off()
        self.mended("electrode", "renew")
        return "A new one is in, its gap as the sheet says."

    def jet_take_out_and_look(self) -> str:
        self._off()
        self.line_opened()
        return "A web fills the tube." if self.has("web") else "Clean and round."

    def jet_blow_it_with_air(self) -> str:
        self._off()
        self.line_opened()
        if self.has("web"):
            self.mended("jet", "blow it with air")
        return "Clean."

    def jet_wire_through_it(self) -> str:
        self.jet_is_ruined = True
        raise Hurt("jet_ruined")

    def is_off(self) -> bool:
        return super().is_off() or (not self.is_on and not self.gas_is_open and self.covers_are_on)

    def wrong(self) -> list[str]:
        found = {"switched off": not self.is_on, "with its cover off": not self.covers_are_on,
                 "with a jet whose hole is another": self.jet_is_ruined}  # fmt: skip
        return [*super().wrong(), *(words for words, so in found.items() if so)]
