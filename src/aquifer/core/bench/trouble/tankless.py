"""A tankless heater: water turns a wheel, a fan starts, a spark lights, a rod holds, and heat goes through a wall."""

from collections.abc import Mapping
from typing import ClassVar

from aquifer.core.bench.exchanger import Exchanger
from aquifer.core.bench.trouble.rig import CLOCK, COLD_C, Fault, Hurt, Point, Refused, Rig, degrees
from aquifer.core.units import Quantity, figure

SET_C = 49.0
"""At which people leave a tankless heater. Trade practice."""
FOAMS_G = 15.0
"""Of lime in 25 minutes, from which foam is seen. Assumption."""
STARTS_L_MIN = 2.0
"""Flow that makes it fire. Trade practice."""
FULL_L_MIN, CLOGGED = 9.5, 0.18
"""Through a clean unit with two faucets open, the share that a clogged screen lets by. Trade practice, assumption."""
SCALED_G, CLEAN_G = (300.0, 480.0), 20.0
"""Lime in an exchanger that cuts out, and in one that nobody has to look after. Assumption."""
DESCALED_G = 60.0
"""From here down it has been descaled. Assumption: a tenth of a millimetre."""
HOLDS_UA, SIGNAL_UA = 1.0, 4.0
"""What the board needs of the flame rod, and what a clean one gives, microampere. Trade practice."""


class TanklessRig(Rig):
    points: ClassVar[tuple[Point, ...]] = (
        *Rig.points[:-1],
        Point("air", "Air in the room", "house", {"sniff low and high": 1}),
        Point("display", "Plug and display", "electric", {
            "look": 0.5, "read the code": 1, "read the flow": 1, "off and unplugged": 0.5, "plug it in": 0.5,
        }),
        Point("gas_valve", "Gas valve", "gas", {"shut": 0.5, "open": 0.5}),
        Point("full_draw", "Two faucets open", "water", {"flow and rise": 3, "three minutes of it": 4}),
        Point("hot_valve", "Hot isolating valve", "water", {"shut": 0.5, "open": 0.5}),
        Point("ports", "Service ports", "water", {
            "hoses on": 3, "open": 1, "shut": 1, "hoses off": 1, "acid in": 4, "pump 25 minutes": 25,
            "read the strip": 1, "acid out": 4, "rinse 5 minutes": 5,
        }),
        Point("screen", "Inlet screen", "water", {"look and rinse": 5}),
        Point("flow_switch", "Flow switch", "water", {"blow through it": 6, "free it": 8, "renew": 20}),
        Point("fan", "Fan", "air", {"look while it calls": 2, "renew": 30}),
        Point("spark", "Spark", "electric", {"look while it calls": 2, "lead and shroud": 6, "seat the lead": 4}),
        Point("wool", "Burner and its wool", "gas", {"take out and look": 20, "dry and renew the wool": 30}),
        Point("flame_rod", "Flame rod", "gas", {"wipe with plain paper": 8}),
        Point("mixing_valve", "Mixing valve", "water", {"before and behind it": 3, "renew its head": 25}),
        Point("pump", "Circulating pump", "water", {"does it run all the time": 1, "fit a control": 15}),
        Point("covers", "Cover", "electric", {"off": 2, "on": 2}),
        CLOCK,
    )  # fmt: skip
    faults: ClassVar[Mapping[str, Fault]] = {
        **Rig.faults,
        "scale": Fault("scale in the exchanger", ("ports", "rinse 5 minutes")),
        "switch_stuck": Fault("the flow switch is stuck", ("flow_switch", "free it")),
        "screen_clogged": Fault("the inlet screen is clogged", ("screen", "look and rinse")),
        "fan_still": Fault("the fan", ("fan", "renew"), may_wait=True),
        "lead_off": Fault("the spark's lead is off", ("spark", "seat the lead")),
        "wool_wet": Fault("wet wool about the burner", ("wool", "dry and renew the wool"), may_wait=True),
        "rod_fouled": Fault("the flame rod is fouled", ("flame_rod", "wipe with plain paper")),
        "plug_out": Fault("its plug was out", ("display", "plug it in")),
        "mixer": Fault("a mixing valve that a pump without control ruined", ("mixing_valve", "renew its head"),
                       may_wait=True),
    }  # fmt: skip

    def __init__(self, fault: str, seed: int) -> None:
        super().__init__(fault, seed)
        self.is_plugged, self.gas_is_open = fault != "plug_out", True
        self.hot_is_open, self.has_hoses, self.ports_are_open = True, False, False
        lime_g = float(self.random.uniform(*SCALED_G)) if fault == "scale" else CLEAN_G
        self.exchanger = Exchanger(lime_g)
        self.pump_runs_on = fault == "mixer"
        self.hot_min = 0.0

    # The chain.

    def flow_l_min(self) -> float:
        if not (self.cold_is_open and self.hot_is_open):
            return 0.0
        return FULL_L_MIN * (CLOGGED if self.has("screen_clogged") else 1.0)

    def sees_flow(self) -> bool:
        return self.is_plugged and self.flow_l_min() >= STARTS_L_MIN and not self.has("switch_stuck")

    def fan_turns(self) -> bool:
        return self.sees_flow() and not self.has("fan_still")

    def sparks(self) -> bool:
        return self.fan_turns() and not self.has("lead_off", "wool_wet")

    def lights(self) -> bool:
        return self.sparks() and self.gas_is_open

    def burns_on(self) -> bool:
        return self.lights() and not self.has("rod_fouled")

    def cuts_out(self) -> bool:
        """At full draw the wall gets hotter than its cut-out, since the heat does not get through."""
        return self.burns_on() and self.exchanger.cuts_out(SET_C)

    def rise_k(self) -> float:
        """Of what runs through it, held at the setting where there is heat enough."""
        if not self.burns_on():
            return 0.0
        return self.exchanger.rise_k(self.flow_l_min(), SET_C - COLD_C, SET_C)

    def behind_c(self) -> float:
        """At the outlet of the unit."""
        return COLD_C + self.rise_k()

    def tap_c(self) -> float:
        return COLD_C + 0.5 * (self.behind_c() - COLD_C) if self.has("mixer") else self.behind_c()

    def heats(self) -> bool:
        return self.burns_on() and not self.has("scale", "mixer") and not self.exchanger.holds_acid

    def _must_run(self) -> None:
        self._must_have_water()
        if self.exchanger.holds_acid:
            raise Hurt("acid_in_house")
        if self.ports_are_open:
            raise Hurt("flooded")

    def _shut_down(self) -> None:
        """Nothing is taken apart at a heater that may fire."""
        if self.is_plugged:
            raise Hurt("shock")
        if self.gas_is_open:
            raise Hurt("gas_out")

    # What is done.

    def air_sniff_low_and_high(self) -> str:
        return "Nothing but a closet."

    def display_look(self) -> str:
        return "Lit." if self.is_plugged else "Dark: the plug is out."

    def display_read_the_code(self) -> str:
        if not self.is_plugged:
            return "Dark."
        if self.has("lead_off", "wool_wet"):
            return "Failed to light, five times."
        if self.has("rod_fouled"):
            return "Lit, then lost."
        if self.has("fan_still"):
            return "Fan."
        if self.has("mixer"):
            return "Mixing valve stuck."
        return "Overheated." if self.has("scale") else "None."

    def display_read_the_flow(self) -> str:
        self._must_run()
        if not self.is_plugged:
            return "Dark."
        seen = self.flow_l_min() if self.sees_flow() else 0.0
        return f"{figure(Quantity.FLOW, round(seen, 1))} shown."

    def display_off_and_unplugged(self) -> str:
        self.is_plugged = False
        return "Off, unplugged, tagged."

    def display_plug_it_in(self) -> str:
        if self.exchanger.holds_acid:
            raise Hurt("acid_in_house")
        self.is_plugged = True
        if self.has("plug_out"):
            self.mended("display", "plug it in")
        return "The display lights up."

    def gas_valve_shut(self) -> str:
        self.gas_is_open = False
        return "Crosswise."

    def gas_valve_open(self) -> str:
        self.gas_is_open = True
        return "Along the pipe."

    def faucet_run_it_till_cold(self) -> str:
        self._must_run()
        if not self.burns_on():
            return f"{degrees(COLD_C)} from the start, and no warmer."
        return f"{degrees(self.delivered_c())}, and no end of it."

    def faucet_read_it(self) -> str:
        self._must_run()
        return super().faucet_read_it()

    def faucet_open_it(self) -> str:
        if self.cold_is_open:
            self._must_run()
        return super().faucet_open_it()

    def full_draw_flow_and_rise(self) -> str:
        self._must_run()
        return (
            f"{figure(Quantity.FLOW, round(self.flow_l_min(), 1))}, "
            f"{figure(Quantity.TEMPERATURE_DIFFERENCE, round(self.rise_k(), 1))} warmer."
        )

    def full_draw_three_minutes_of_it(self) -> str:
        self._must_run()
        if not self.burns_on():
            return "It does not fire at all."
        return "It fires, then cuts out: overheated." if self.cuts_out() else "It holds."

    def hot_valve_shut(self) -> str:
        self.hot_is_open = False
        return "Shut."

    def hot_valve_open(self) -> str:
        self.hot_is_open = True
        if self.exchanger.holds_acid:
            raise Hurt("acid_in_house")
        return "Open."

    def cold_open(self) -> str:
        if self.exchanger.holds_acid and self.hot_is_open:
            raise Hurt("acid_in_house")
        return super().cold_open()

    def ports_hoses_on(self) -> str:
        self.has_hoses = True
        return "Hoses on, their ends in the bucket."

    def ports_open(self) -> str:
        if not self.has_hoses:
            raise Hurt("scalded" if self.burns_on() else "flooded")
        if self.is_plugged and self.gas_is_open and self.burns_on():
            raise Hurt("scalded")
        self.ports_are_open = True
        return "It runs on: a valve is open." if self.cold_is_open else "A spurt, then nothing."

    def ports_acid_in(self) -> str:
        if not (self.has_hoses and self.ports_are_open):
            raise Refused("Hoses on and ports open first.")
        if self.cold_is_open or self.hot_is_open:
            raise Hurt("acid_in_house")
        if self.is_plugged:
            raise Hurt("acid_boils")
        self.exchanger.pour()
        return "Fresh acid in the bucket, and up into the heater."

    def ports_pump_25_minutes(self) -> str:
        if self.exchanger.acid_mol <= 0:
            raise Refused("There is no acid in the bucket.")
        gone_g = self.exchanger.pump(25)
        return "It foams." if gone_g > FOAMS_G else "It hardly foams."

    def ports_read_the_strip(self) -> str:
        return f"The strip reads pH {self.exchanger.ph:.1f}."

    def ports_acid_out(self) -> str:
        self.exchanger.empty()
        return "The bucket holds it; what clings is still in there."

    def ports_rinse_5_minutes(self) -> str:
        if not (self.ports_are_open and self.cold_is_open):
            raise Refused("Cold on, a port open: else nothing rinses.")
        self.exchanger.empty()
        self.exchanger.holds_acid = False
        if self.has("scale") and self.exchanger.lime_g <= DESCALED_G:
            self.mended("ports", "rinse 5 minutes")
        return "The strip reads like faucet water."

    def ports_shut(self) -> str:
        self.ports_are_open = False
        return "Shut."

    def ports_hoses_off(self) -> str:
        if self.ports_are_open:
            raise Hurt("flooded")
        self.has_hoses = False
        return "Hoses off, caps on."

    def screen_look_and_rinse(self) -> str:
        if self.cold_is_open or not (self.tap_is_open or self.ports_are_open):
            raise Hurt("flooded")
        if self.has("screen_clogged"):
            self.mended("screen", "look and rinse")
            return "Full of grit; rinsed, back in."
        return "Clean; back in."

    def _flow_switch_out(self) -> None:
        if self.cold_is_open or not (self.tap_is_open or self.ports_are_open):
            raise Hurt("flooded")
        self._shut_down()

    def flow_switch_blow_through_it(self) -> str:
        self._flow_switch_out()
        return "It does not turn." if self.has("switch_stuck") else "It spins."

    def flow_switch_free_it(self) -> str:
        self._flow_switch_out()
        if self.has("switch_stuck"):
            self.mended("flow_switch", "free it")
            return "Soaked and turned by hand: it spins."
        return "It spun before."

    def flow_switch_renew(self) -> str:
        self._flow_switch_out()
        self.unfit.discard("switch_stuck")
        self.renewed.append("flow_switch")
        return "A new one is in, its arrow with the flow."

    def fan_look_while_it_calls(self) -> str:
        self._must_run()
        return "It turns." if self.fan_turns() else "It stands still."

    def fan_renew(self) -> str:
        self._shut_down()
        self.mended("fan", "renew")
        return "A new fan is in."

    def spark_look_while_it_calls(self) -> str:
        self._must_run()
        if not self.fan_turns():
            return "Nothing is tried."
        if self.has("wool_wet"):
            return "It jumps to the wet wool, and nothing lights."
        return "No spark." if self.has("lead_off") else "Blue and steady."

    def spark_lead_and_shroud(self) -> str:
        self._shut_down()
        return "The lead hangs beside its post." if self.has("lead_off") else "Lead on, shroud whole."

    def spark_seat_the_lead(self) -> str:
        self._shut_down()
        if self.has("lead_off"):
            self.mended("spark", "seat the lead")
        return "On, and it cannot turn."

    def wool_take_out_and_look(self) -> str:
        self._shut_down()
        return "The wool is wet and crumbles; no rust, no lumps." if self.has("wool_wet") else "Dry and whole."

    def wool_dry_and_renew_the_wool(self) -> str:
        self._shut_down()
        self.mended("wool", "dry and renew the wool")
        return "Dry, new wool in, clips turn freely."

    def flame_rod_wipe_with_plain_paper(self) -> str:
        self._shut_down()
        if self.has("rod_fouled"):
            self.mended("flame_rod", "wipe with plain paper")
            return "A white film is off; the gap is as it was."
        return "It was bright."

    def mixing_valve_before_and_behind_it(self) -> str:
        self._must_run()
        before, behind = degrees(self.behind_c()), degrees(self.tap_c())
        return f"{before} before it, {behind} behind it."

    def mixing_valve_renew_its_head(self) -> str:
        if self.cold_is_open or not self.tap_is_open:
            raise Hurt("flooded")
        if self.pump_runs_on:
            # It is dead again within weeks; whoever renews it has not asked why.
            self.renewed.append("mixing_valve")
            return "A new head is in. The pipe before it is hot: something feeds it warm."
        self.mended("mixing_valve", "renew its head")
        return "A new head is in."

    def pump_does_it_run_all_the_time(self) -> str:
        return "It runs day and night, without a timer." if self.pump_runs_on else "There is none that does."

    def pump_fit_a_control(self) -> str:
        self.pump_runs_on = False
        return "It runs by the timer and by its own thermostat."

    def is_off(self) -> bool:
        return not self.is_plugged and self.covers_are_on and not self.ports_are_open

    def wrong(self) -> list[str]:
        found = {
            "unplugged": not self.is_plugged,
            "with the gas shut": not self.gas_is_open,
            "with the hot side shut": not self.hot_is_open,
            "with a service port open": self.ports_are_open,
            "with its cover off": not self.covers_are_on,
            "with acid in it": self.exchanger.holds_acid,
            "with a pump that ruins its mixing valve": self.pump_runs_on,
        }
        return [*super().wrong(), *(words for words, so in found.items() if so)]
