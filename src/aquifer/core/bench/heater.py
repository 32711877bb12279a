"""A tank heater as water, air, heat, gas and metal, second by second, with the valves and taps about it.

It knows neither a guide nor a rule: what happens follows from what is open, lit and hot. The water lies in layers that
rise and sink; pressure is solved anew each second from what flows in and out, how far air and the expansion tank give
way, and how much the heat swells the water. The same acts at the same seconds give the same figures to the last bit.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from scipy.optimize import brentq

from aquifer.core.bench.boiler import ATMOSPHERE_KPA, HOT_C, Boiler
from aquifer.core.bench.build import Build
from aquifer.core.bench.layers import (
    HEAT_KJ_KG_K,
    celsius_at,
    litres_of,
    mass_kg,
    rise,
    specific_l_kg,
    taken_kj,
    warmed,
)
from aquifer.core.bench.rod import Rod

GRAVITY = 9.80665
"""m/s2. Physical constant."""
SQUEEZE_PER_KPA = 1.0e-6
"""Share by which water shrinks and a steel tank stretches: 4.5e-7 for water (handbook), as much again for the shell.
Assumption."""
INLET, TAP, RELIEF = 0.030, 0.0075, 0.050
"""Litres a second by the root of a kPa: a 3/4 in branch gives 0.6 at 400, a faucet 0.13 at 300, a relief valve held
open 1 at 400. Trade practice."""
PASSES = 0.03
"""Share that comes by a valve that does not hold. Assumption."""
BORE_M, DISCHARGE = 0.012, 0.6
"""Of a usual drain, and how much of the ideal jet it lets out. Fluid mechanics; the bore is an assumption."""
HOSE = 0.45
"""What a hose leaves of that. Assumption: a tank of 190 L takes some 25 minutes to run out, trade practice."""
GURGLES = 0.03
"""What runs out of a tank into which air comes by the drain alone. Assumption."""
FLAKE = 0.02
"""What a drain lets by with a flake across it. Assumption."""
PORT_M, SEEPS = 0.05, 0.003
"""How high over the floor the drain's upper edge lies, and what comes by a baked bed that stands above it. Trade
practice; assumption."""
OPEN_TOP = 0.15
"""Litres a second by the root of a kPa, out of a port of 3/4 in at the top. Fluid mechanics, as the drain."""
LEAKS = 0.0004
"""The same by a flaw that has opened, or by a joint that was twisted. Assumption: a litre in two minutes at 400."""
SEALS_SHARE = 0.2
"""Of the deposit; when so much has gone a flaw under it lies open. Assumption."""
COIL, COIL_KW_K = 0.2, 0.35
"""Where a coil sits, a share of the height, and what it gives: 11 kW into water of 44 degC. Handbook."""
TAP_ABOVE_M = 2.0
"""How far the nearest hot faucet is above the top of the tank. Assumption."""
RELIEF_KPA, RESEATS_KPA, RELIEF_C = 1034.0, 930.0, 99.0
"""150 psi and 210 degF, closing a tenth below. Rating of the usual valve (handbook)."""
BURSTS_KPA = 2070.0
"""300 psi, at which tanks are proved. Handbook."""
BELOW_SET_C = 6.0
"""How far the water by the sensor cools before it calls for heat. Trade practice."""
STEEL_KJ_K, WET_KW_K, DRY_KW_K = 7.4, 1.5, 0.012
"""Floor over a burner: 15 kg of steel; how well it gives its heat to water, and to air. Assumption."""
SPOILS_C = 200.0
"""At which the glass on the floor has cracked off. Assumption."""
ELEMENT_S = 12.0
"""For which an element lives in air. Trade practice: seconds."""
ZONE = 0.08
"""Share of the tank at its floor in which the dip tube's jet mixes. Assumption."""
LOWER_ELEMENT, UPPER_ELEMENT, SENSOR = 0.12, 0.70, 0.25
"""Shares of the height at which they sit. Assumption."""
LOOSE_KG_L, HARD_KG_L = 0.65, 1.40
"""What a litre of bed weighs, loose and baked. Assumption, as the forecast's."""
LEAVES_PER_S, STIRRED_PER_S, STIR_S = 0.0012, 0.020, 20.0
"""Share of the loose bed that a drain at full flow takes along, and a jet of cold that has just begun, which is spent
after some seconds: so that five pulses do what ten minutes of running do not. Assumption."""
SHALLOW = 4.0
"""How much more the last water takes along than the first: it scours the floor. Assumption."""
HARD_PER_S = 0.0004
"""Of the baked bed, by a fresh jet alone. Assumption."""


@dataclass
class Heater:
    """How it stands. Everything that a hand turns is a field; ``after`` a second everything else has moved."""

    build: Build
    layers: list[list[float]]
    """[kg, degC] from the floor up."""
    steel_c: float
    loose_kg: float
    hard_kg: float
    rod: Rod
    boiler: Boiler | None = None
    # What hands turn.
    cold: float = 1.0
    main: float = 1.0
    tap: bool = False
    drawn: bool = False
    """Somebody in the house draws hot water."""
    drain: float = 0.0
    hose: bool = False
    hose_in: str = "floor drain"
    """floor drain or bucket."""
    cap: bool = False
    lever: bool = False
    gauge: bool = False
    relief_bucket: bool = False
    """A bucket stands under the end of the relief valve's pipe."""
    dial: str = "on"
    """off, pilot or on."""
    set_c: float = 60.0
    pilot: bool = True
    gas_cock: bool = True
    breaker: bool = True
    locked: bool = False
    hot_pipe: bool = True
    """Screwed to the outlet at the top."""
    at_drain: str = "left"
    """At which of two drains the hands are; what is said of the drain is said of that one."""
    # What follows.
    air: float = 0.0
    """Air in the tank, kPa L: what it would press with in a litre."""
    kpa: float = 0.0
    """Over the atmosphere's, at the top."""
    calls: bool = False
    upper_calls: bool = False
    flake: bool = False
    relief_open: bool = False
    relief_leaks: bool = False
    drain_leaks: bool = False
    stirred: float = 0.0
    element_dry_s: float = 0.0
    upper_dry_s: float = 0.0
    lower_burnt: bool = False
    upper_burnt: bool = False
    relief_out: bool = False
    """Unscrewed, its port open."""
    twisted: bool = False
    """It was turned on its pipes, and a joint of them weeps."""
    flaw_open: bool = False
    dark_s: float = 1e6
    """Since the pilot went out."""
    # What the last second showed.
    inflow: float = 0.0
    outflow: float = 0.0
    tap_flow: float = 0.0
    relief_flow: float = 0.0
    out_c: float = 12.0
    tap_c: float = 12.0
    relief_c: float = 12.0
    murk_g_l: float = 0.0
    heat_kw: float = 0.0
    spits: bool = False
    bucket_l: float = 0.0
    bucket_g: float = 0.0
    relief_bucket_l: float = 0.0
    top_flow: float = 0.0
    """Out of an open port at the top, kg."""
    floor_l: float = 0.0
    # What conservation is held by, and what the visit brought out.
    in_kg: float = 0.0
    out_kg: float = 0.0
    heated_kj: float = 0.0
    lost_kj: float = 0.0
    in_kj: float = 0.0
    out_kj: float = 0.0
    removed_kg: float = 0.0

    @property
    def kg(self) -> float:
        return mass_kg(self.layers)

    @property
    def share(self) -> float:
        """Of the tank's height that water fills."""
        return min(1.0, litres_of(self.layers) / self.build.litres)

    @property
    def head_kpa(self) -> float:
        """Of the water over the drain."""
        return GRAVITY * self.build.height_m * self.share

    @property
    def energy_kj(self) -> float:
        """In the water, over 0 degC, and in the floor."""
        steel = STEEL_KJ_K * self.steel_c if self.build.fuel == "gas" else 0.0
        return sum(kg * c for kg, c in self.layers) * HEAT_KJ_KG_K + steel

    @property
    def burns(self) -> bool:
        """Whether the burner or an element is on."""
        return self.heat_kw > 0

    @property
    def bed_l(self) -> float:
        return self.loose_kg / LOOSE_KG_L + self.hard_kg / HARD_KG_L

    @property
    def at_boiler(self) -> bool:
        """Whether the hands are at the boiler's drain."""
        return self.boiler is not None and self.at_drain != self.build.tank_drain

    @property
    def is_buried(self) -> bool:
        """Whether baked deposit stands above the drain."""
        return self.hard_kg / HARD_KG_L / self.build.litres * self.build.height_m > PORT_M

    @property
    def is_open_above(self) -> bool:
        """Whether a port at the top is open."""
        return self.rod.seat == "out" or not self.hot_pipe or self.relief_out

    @property
    def at_hand(self) -> float:
        """What runs out of the drain at which the hands are, litres in the last second."""
        return self.boiler.flow if self.boiler is not None and self.at_boiler else self.outflow

    @property
    def supplied(self) -> float:
        """How far the way in is open, 0 to 1."""
        passes = PASSES if self.build.cold_passes else 0.0
        return max(self.cold, passes) * self.main

    @property
    def can_heat(self) -> bool:
        """Whether it would heat as soon as it is called for."""
        if self.build.fuel == "electric":
            return self.breaker
        if self.boiler is not None:
            return self.breaker and not self.boiler.has_locked
        return self.gas_cock and self.dial == "on" and self.pilot

    def at(self, share: float) -> float:
        """Temperature at a share of the height, degC; of the room where no water is."""
        celsius = celsius_at(self.layers, share * self.build.litres)
        if celsius is not None:
            return celsius
        return self.layers[-1][1] if self.layers and share >= 1 and self.share > 0.99 else self.build.room_c

    @property
    def top_c(self) -> float:
        return self.layers[-1][1] if self.layers else self.build.room_c

    @property
    def floor_c(self) -> float:
        return self.layers[0][1] if self.layers else self.build.room_c

    def spill(self, most_l: float) -> float:
        """Water leaves by the floor at once, as where a port there is open. Returns: litres."""
        kg = min(most_l / specific_l_kg(self.floor_c), self.kg)
        self.out_kj += taken_kj(self.layers, 0, kg)
        self.out_kg += kg
        return kg * specific_l_kg(self.floor_c)

    def second(self) -> None:
        """One second goes by. Source of each law: Bernoulli, Boyle, first-order heating; the figures stand above."""
        self._heat()
        self._flow()
        self._leak()
        self._settle()

    # Heat.

    def _heat(self) -> None:
        build = self.build
        self.heat_kw = 0.0
        if build.fuel == "gas":
            self._fire()
        elif self.boiler is not None:
            self._warm(self.boiler)
        else:
            self._glow()
        if self.dial != "off" and self.pilot and self.gas_cock:
            self.dark_s = 0.0
        else:
            self.dark_s += 1.0
        whole = self.kg
        if whole > 0:
            for layer in self.layers:
                lost = build.loss_kw_k * (layer[1] - build.room_c) * layer[0] / max(whole, 0.3 * build.litres)
                layer[1] -= lost / (layer[0] * HEAT_KJ_KG_K)
                self.lost_kj += lost
        rise(self.layers)

    def _call(self) -> None:
        if self.at(SENSOR) < self.set_c - BELOW_SET_C:
            self.calls = True
        elif self.at(SENSOR) > self.set_c:
            self.calls = False

    def _warm(self, boiler: Boiler) -> None:
        boiler.second(self._drain_opening() if self.at_boiler else 0.0)
        self._call()
        if self.can_heat and self.calls and self.share > COIL:
            self._give(COIL, max(COIL_KW_K * (HOT_C - self.at(COIL)), 0.0))

    def _fire(self) -> None:
        self._call()
        pilot_kw = 0.1 if self.pilot and self.gas_cock and self.dial != "off" else 0.0
        if self.can_heat and self.calls:
            self.heat_kw = self.build.input_kw * self.build.efficiency
        given = self.heat_kw + pilot_kw
        self.heated_kj += given
        # Floor and water settle towards each other within seconds: solved, not stepped.
        wet = self.share > 0.02
        to, conduct = (self.floor_c, WET_KW_K) if wet else (self.build.room_c, DRY_KW_K)
        rest = to + given / conduct
        after = rest + (self.steel_c - rest) * math.exp(-conduct / STEEL_KJ_K)
        passed = given - STEEL_KJ_K * (after - self.steel_c)
        self.steel_c = after
        if wet:
            self.layers[0][1] += passed / (self.layers[0][0] * HEAT_KJ_KG_K)
        else:
            self.lost_kj += passed

    def _glow(self) -> None:
        upper_c, lower_c = self.at(UPPER_ELEMENT), self.at(LOWER_ELEMENT)
        if upper_c < self.set_c - BELOW_SET_C:
            self.upper_calls = True
        elif upper_c > self.set_c:
            self.upper_calls = False
        if lower_c < self.set_c - BELOW_SET_C:
            self.calls = True
        elif lower_c > self.set_c:
            self.calls = False
        if not self.breaker:
            return
        # The upper one comes first; each in turn has the whole of the circuit.
        if self.upper_calls and not self.upper_burnt:
            if self.share < UPPER_ELEMENT + 0.02:
                self.upper_dry_s += 1.0
                self.upper_burnt = self.upper_dry_s > ELEMENT_S
            else:
                self._give(UPPER_ELEMENT, self.build.input_kw)
        elif self.calls and not self.lower_burnt:
            if self.share < LOWER_ELEMENT + 0.02:
                self.element_dry_s += 1.0
                self.lower_burnt = self.element_dry_s > ELEMENT_S
            else:
                self._give(LOWER_ELEMENT, self.build.input_kw)

    def _give(self, share: float, kw: float) -> None:
        self.heat_kw = kw
        self.heated_kj += self.heat_kw
        warmed(self.layers, share * self.build.litres, self.heat_kw)

    # Water.

    def _flow(self) -> None:
        build = self.build
        opening = 0.0 if self.at_boiler else self._drain_opening()
        is_open = self.is_open_above
        drawn = (self.tap or self.drawn) and self.hot_pipe
        warm = self.relief_open or self.relief_leaks
        lifted = self.lever and not build.relief_stuck
        vent = is_open or drawn or self.relief_open or (lifted and not build.outlet_capped)
        top_l = specific_l_kg(self.top_c)
        floor_l = specific_l_kg(self.floor_c)
        cold_l = specific_l_kg(build.cold_c)
        water_l = litres_of(self.layers)
        head, kg, supplied = self.head_kpa, self.kg, self.supplied
        relief = RELIEF * (1.0 if self.relief_open or lifted else 0.01 if self.relief_leaks else 0.0)
        if build.outlet_capped:
            relief = 0.0

        def flows(kpa: float, full: bool) -> tuple[float, float, float, float, float]:
            """In, drain, tap, relief, open top: kg this second at a pressure."""
            short = build.supply_kpa - kpa
            come = supplied * INLET * math.sqrt(abs(short)) / cold_l
            if short < 0:
                # Back into the main, where no valve stops it.
                come = 0.0 if build.check_valve else -min(come, kg)
            away = opening * math.sqrt(max(kpa + head, 0.0)) / floor_l
            away = min(away, max(kg + come, 0.0))
            if not full:
                return come, away, 0.0, 0.0, 0.0
            up = TAP * math.sqrt(max(kpa - GRAVITY * TAP_ABOVE_M, 0.0)) / top_l if drawn else 0.0
            root = math.sqrt(max(kpa, 0.0)) / top_l
            return come, away, up, relief * root, OPEN_TOP * root if is_open else 0.0

        def over(kpa: float, full: bool, air: float) -> float:
            """Litres by which what is there exceeds the room for it; falls with the pressure."""
            come, away, up, thrown, spilt = flows(kpa, full)
            water = water_l + come * cold_l - away * floor_l - (up + thrown + spilt) * top_l
            return (
                water * (1 - SQUEEZE_PER_KPA * kpa)
                + air / max(kpa + ATMOSPHERE_KPA, 0.5)
                - build.litres
                - self._in_expansion(kpa)
            )

        self.spits = False
        if vent and (self.air > 0.05 * ATMOSPHERE_KPA or over(0.0, False, 0.0) < 0):
            come, away, up, thrown, spilt = flows(0.0, False)
            room = -over(0.0, False, 0.0)
            if room > 0:
                # The air goes in or out by the open tap or valve; the pressure stays the room's.
                self.spits = drawn and room * ATMOSPHERE_KPA < self.air
                self.kpa, self.air = 0.0, room * ATMOSPHERE_KPA
                self._move(come, away, up, thrown, spilt)
                return
            self.air = 0.0
        kpa = self._solved(lambda one: over(one, True, self.air))
        come, away, up, thrown, spilt = flows(kpa, True)
        if opening > 0 and kpa + head < 0.5 and self.share > 0.005:
            # It gurgles: a bubble comes in by the drain for every gulp that goes out.
            away = GURGLES * opening * math.sqrt(max(head, 0.0)) / floor_l
            away = min(away, self.kg)
            self.air += away * floor_l * ATMOSPHERE_KPA
        self.kpa = kpa
        self._move(come, away, up, thrown, spilt)
        felt_c = build.room_c if build.probe_short else self.top_c
        if warm or kpa > RELIEF_KPA or felt_c > RELIEF_C:
            hot = felt_c > RELIEF_C - 5
            self.relief_open = not (build.relief_stuck or self.relief_out) and (
                kpa > RELIEF_KPA or felt_c > RELIEF_C or (self.relief_open and (kpa > RESEATS_KPA or hot))
            )

    def _drain_opening(self) -> float:
        """Litres a second by the root of a kPa at the drain."""
        if self.cap or self.gauge:
            return 0.0
        turned = max(self.drain, 0.01 if self.drain_leaks else 0.0)
        if self.flake and not self.at_boiler:
            turned = min(turned, FLAKE)
        if self.is_buried and not self.at_boiler:
            turned = min(turned, SEEPS)
        jet = DISCHARGE * math.pi / 4 * BORE_M**2 * 1000 * math.sqrt(2.0)
        return turned * jet * (HOSE if self.hose else 1.0)

    def _in_expansion(self, kpa: float) -> float:
        """Litres of water that press into the expansion tank. Source: Boyle."""
        charge = self.build.precharge_kpa
        if self.build.expansion_l <= 0 or kpa <= charge:
            return 0.0
        return self.build.expansion_l * (1 - (charge + ATMOSPHERE_KPA) / (kpa + ATMOSPHERE_KPA))

    def _solved(self, over: Callable[[float], float]) -> float:
        """The pressure at which nothing is over; what is over only falls with it. Source: Brent."""
        low, high = -ATMOSPHERE_KPA + 1.0, 2 * BURSTS_KPA
        if over(low) <= 0:
            return low
        if over(high) >= 0:
            return high
        # Near where it was, most seconds.
        reach = 1.0
        while reach < 4096.0:
            near_low, near_high = max(low, self.kpa - reach), min(high, self.kpa + reach)
            if over(near_low) >= 0 >= over(near_high):
                low, high = near_low, near_high
                break
            reach *= 8
        return float(brentq(over, low, high, xtol=1e-5))

    def _leak(self) -> None:
        """By what was broken, onto the floor."""
        if not (self.flaw_open or self.twisted):
            return
        kg = LEAKS * math.sqrt(max(self.kpa + (self.head_kpa if self.flaw_open else 0.0), 0.0))
        kg = min(kg, self.kg)
        self.out_kj += taken_kj(self.layers, 0 if self.flaw_open else -1, kg)
        self.out_kg += kg
        self.floor_l += kg

    def _move(self, come: float, away: float, up: float, thrown: float, spilt: float) -> None:
        build = self.build
        self.out_c, self.tap_c, self.relief_c = self.floor_c, self.top_c, self.top_c
        gone = taken_kj(self.layers, 0, away)
        if come < 0:
            self.in_kj -= taken_kj(self.layers, 0, -come)
        thrown_kj = taken_kj(self.layers, -1, up + thrown + spilt)
        if come > 0:
            # By the dip tube, whose jet mixes with what lies on the floor.
            zone, kj = 0.0, 0.0
            while self.layers and zone < ZONE * build.litres:
                part = min(self.layers[0][0], ZONE * build.litres - zone)
                zone, kj = zone + part, kj + taken_kj(self.layers, 0, part)
            whole = zone + come
            self.layers.insert(0, [whole, (kj / HEAT_KJ_KG_K + come * build.cold_c) / whole])
        self.in_kg += come
        self.in_kj += max(come, 0.0) * build.cold_c * HEAT_KJ_KG_K
        self.out_kg += away + up + thrown + spilt
        self.out_kj += gone + thrown_kj
        self.inflow, self.outflow = come, away
        self.tap_flow, self.relief_flow, self.top_flow = up, thrown, spilt

    # Deposit, buckets, floor.

    def _settle(self) -> None:
        jet = min(self.inflow / 0.4, 1.0)
        if jet < 0.2:
            self.stirred = 1.0
        gone = 0.0
        if self.outflow > 0.01:
            flow = min(self.outflow / 0.3, 1.0)
            fresh = self.stirred * jet
            shallow = 1 + (SHALLOW - 1) * (1 - self.share)
            loose = self.loose_kg * flow * (LEAVES_PER_S * shallow + STIRRED_PER_S * fresh)
            hard = self.hard_kg * flow * HARD_PER_S * fresh
            self.loose_kg, self.hard_kg = self.loose_kg - loose, self.hard_kg - hard
            gone = loose + hard
        if jet >= 0.2:
            self.stirred *= math.exp(-1 / STIR_S)
        self.removed_kg += gone
        deposit_kg = self.loose_kg + self.hard_kg + self.removed_kg
        if self.build.flaw_sealed and self.removed_kg > SEALS_SHARE * deposit_kg:
            self.flaw_open = True
        fallen = 1000 * gone / max(self.outflow, 1e-9)
        self.murk_g_l = fallen if self.outflow > 0.002 else 0.0
        self.floor_l += self.top_flow
        running = self.at_hand
        if running > 0:
            if not self.hose:
                self.floor_l += running
            elif self.hose_in == "bucket":
                self.bucket_l += running
                self.bucket_g += 1000 * gone
                self.floor_l += max(self.bucket_l - BUCKET_L, 0.0)
                self.bucket_l = min(self.bucket_l, BUCKET_L)
        if self.relief_flow > 0 and self.build.outlet == "open":
            caught = min(self.relief_flow, BUCKET_L - self.relief_bucket_l) if self.relief_bucket else 0.0
            self.relief_bucket_l += caught
            self.floor_l += self.relief_flow - caught


BUCKET_L = 15.0
"""Trade practice."""


def at_rest(build: Build) -> Heater:
    """A heater that has stood hot, full and quiet, as somebody comes upon it. Parameters: build, with its faults."""
    kg = build.litres / specific_l_kg(build.set_c)
    heater = Heater(
        build,
        [[kg, build.set_c]],
        build.set_c,
        build.loose_l * LOOSE_KG_L,
        build.hard_l * HARD_KG_L,
        Rod(build.rod_left, build.rod_stuck),
        Boiler() if build.fuel == "boiler" else None,
        set_c=build.set_c,
        flake=build.drain_blocked,
    )
    heater.kpa = build.supply_kpa
    for _ in range(5):
        heater.second()
    return replace(heater, in_kg=0.0, out_kg=0.0, heated_kj=0.0, lost_kj=0.0, in_kj=0.0, out_kj=0.0)
