"""A practice: acts at a heater in software, second by second, with what they led to."""

from collections.abc import Iterable
from copy import deepcopy
from dataclasses import dataclass, field

import numpy as np

from aquifer.core.bench.boiler import HOT_C
from aquifer.core.bench.hand import HANDLES, Act, checked, refused, turn
from aquifer.core.bench.heater import BURSTS_KPA, RELIEF_KPA, SPOILS_C, Heater, at_rest
from aquifer.core.bench.scenario import NOTES, Scenario

TELLINGS = ("done", "skipped", "deviation", "settled", "found")
"""Handles by which a guided practice tells the guide; nothing at the heater is turned by them."""
LONGEST_S = 4 * 3600
"""No practice goes on longer."""
SCALDS_C = 49.0
"""120 degF, on hands: from here a burn takes minutes, then less. Trade practice."""
SPLASH_L_S = 0.02
"""Of hot water that no hose leads away, what reaches a hand. Assumption."""
FLOODS_L = 2.0
"""On the floor: more than a towel takes. Assumption."""
RELIGHT_S = 300
"""Five minutes, in which gas that lay in the chamber is gone. Trade practice; the heater's own label comes first."""
DRAWS_EVERY_S, DRAWS_FOR_S = 1500.0, 40
"""How often people who were not told draw hot water, and how long. Assumption."""


@dataclass(frozen=True)
class Consequence:
    """What hurts or breaks, by its name."""

    says: str
    by: tuple[str, ...]
    """Handles of which the last that was turned led there."""
    read: str
    """The step of the trade to read again, ``procedure.step``."""


CONSEQUENCES: dict[str, Consequence] = {
    "dry_fire": Consequence(
        "The burner heats an empty tank: the glass on its floor has cracked off, and the tank will rust through.",
        ("dial", "drain", "tap", "cold", "gas_cock"),
        "isolate_energy.gas_pilot",
    ),
    "element_burnt": Consequence(
        "An element glowed in air: it has burnt out.", ("breaker", "drain", "cold", "tap"), "isolate_energy.breaker"
    ),
    "scalded": Consequence(
        "Hot water ran over your hand from the drain.",
        ("drain", "hose", "gauge", "cap", "drain_valve"),
        "trial.hose_end",
    ),
    "scalded_below": Consequence(
        "Hot water shot from the relief pipe where you stand.",
        ("lever", "relief_bucket", "outlet"),
        "find_outlet.follow",
    ),
    "flooded": Consequence(
        "More water is on the floor than a towel takes.",
        (
            "drain",
            "hose",
            "gauge",
            "cap",
            "hose_in",
            "lever",
            "relief_bucket",
            "relief_valve",
            "tap",
            "drain_valve",
            "rod",
            "hot_pipe",
            "cold",
        ),
        "trial.hose_end",
    ),
    "capped": Consequence(
        "The lever let the tank's pressure into a pipe with a cap on it: the pipe, or the cap, may fly.",
        ("lever",),
        "capped_outlet.open_outlet",
    ),
    "sealed": Consequence(
        "It heated with nowhere for the water to go, until the relief valve had to open.",
        ("cold", "dial", "breaker", "main"),
        "cold_back.open",
    ),
    "burst": Consequence(
        "No relief valve opened, and the tank is past the pressure it was proved at: it may burst.",
        ("cold", "dial", "breaker", "main"),
        "relief_exercise.lift",
    ),
    "lit_too_soon": Consequence(
        "Lit before the chamber had aired for five minutes: gas that lay there may flash.",
        ("pilot",),
        "light_pilot.gas_on",
    ),
    "shot_out": Consequence(
        "The relief valve was unscrewed with pressure behind it.",
        ("relief_valve",),
        "relief_replacement.swap",
    ),
    "rod_shot": Consequence(
        "A port at the top was opened with pressure behind it: hot water shot out.",
        ("rod", "hot_pipe"),
        "anode_out.crack_loose",
    ),
    "twisted": Consequence(
        "The tank turned on its pipes: a joint of them is strained and leaks.", ("rod",), "anode_out.break_loose"
    ),
    "boiler_emptied": Consequence(
        "That was the boiler's drain: the heating has lost its water and locked out.",
        ("drain", "at_drain", "hose", "cap", "gauge"),
        "indirect_drain.drains",
    ),
    "leak_opened": Consequence(
        "The deposit had sealed a flaw: with it gone, the tank leaks.",
        ("drain", "cold", "wire", "main"),
        "partial_drain.few_litres",
    ),
}


@dataclass(frozen=True)
class Harm:
    """Something that went wrong, when, and which act led there."""

    name: str
    at_s: int
    act: int
    """Its place among the acts; -1 for none."""


@dataclass
class Practice:
    """Where a practice stands."""

    scenario: Scenario
    seed: int
    heater: Heater
    began: Heater
    """As it was found."""
    draws: tuple[int, ...]
    """Seconds at which somebody in the house will want hot water."""
    now_s: int = 0
    acts: list[Act] = field(default_factory=list)
    refusals: dict[int, str] = field(default_factory=dict)
    """By the act's place, why it could not be done."""
    harms: list[Harm] = field(default_factory=list)
    notes: dict[str, str] = field(default_factory=dict)
    drew: list[int] = field(default_factory=list)
    """Seconds at which somebody in the house drew hot water."""
    told_at_s: int | None = None
    lifted: bool = False
    """The relief lever was up with pressure behind it."""
    emptied: bool = False
    rod_drawn: bool = False
    """The rod was out, to be looked at."""
    watched_s: int = 0
    """For which the relief pipe's end was watched after the lever was let go."""
    tap_seen_c: float | None = None
    """The hottest that ran from the tap before anything was turned down."""

    def until(self, second: int, harms: int = LONGEST_S) -> None:
        """Time goes by to a second, or until there are more harms than so many."""
        while self.now_s < min(second, LONGEST_S) and len(self.harms) <= harms:
            self._second()

    def act(self, act: Act) -> None:
        """Something is done now. Raises: ValueError for what cannot be, naming what is allowed."""
        place = len(self.acts)
        if act.handle in NOTES:
            self.notes[act.handle] = act.to
        elif act.handle not in TELLINGS:
            checked(self.heater.build.fuel, act)
            if why := refused(self.heater, act):
                self.refusals[place] = why
            else:
                self._before(act, place)
                turn(self.heater, act)
        self.acts.append(act)

    def _before(self, act: Act, place: int) -> None:
        heater = self.heater
        if act.handle == "tell" and self.told_at_s is None:
            self.told_at_s = self.now_s
        if act.handle == "pilot" and not heater.pilot and heater.dark_s < RELIGHT_S:
            self.harms.append(Harm("lit_too_soon", self.now_s, place))
        if act.handle == "relief_valve" and not heater.relief_out and heater.kpa > 20:
            self.harms.append(Harm("shot_out", self.now_s, place))
        opens = (act.handle, act.to) in (("rod", "out"), ("hot_pipe", "off"))
        if opens and heater.kpa > 20:
            self.harms.append(Harm("rod_shot", self.now_s, place))
        self.rod_drawn = self.rod_drawn or (act.handle, act.to) == ("rod", "out")
        if act.handle == "drain_valve" and heater.floor_c > SCALDS_C and not heater.is_buried and heater.share > 0.05:
            self.harms.append(Harm("scalded", self.now_s, place))
        if act.handle == "lever" and act.to == "up" and heater.build.outlet_capped and heater.kpa > 50:
            self.harms.append(Harm("capped", self.now_s, place))

    def _second(self) -> None:
        heater = self.heater
        self.now_s += 1
        heater.drawn = self._somebody_draws()
        heater.second()
        if heater.drawn and (not self.drew or self.now_s - self.drew[-1] > 2 * DRAWS_FOR_S):
            self.drew.append(self.now_s)
        if heater.lever and heater.relief_flow > 0.1:
            self.lifted, self.watched_s = True, 0
        elif self.lifted and not heater.lever:
            self.watched_s += 1
        self.emptied = self.emptied or heater.share < 0.06
        if heater.tap and heater.tap_flow > 0.05 and self.tap_seen_c is None and not self._turned_down():
            self.tap_seen_c = heater.tap_c
        for name in _wrong(heater):
            if all(harm.name != name for harm in self.harms):
                self.harms.append(Harm(name, self.now_s, self._led(name)))

    def _turned_down(self) -> bool:
        return any(act.handle in ("dial", "breaker", "cold") for act in self.acts)

    def _somebody_draws(self) -> bool:
        if self.told_at_s is not None:
            return False
        return any(at <= self.now_s < at + DRAWS_FOR_S for at in self.draws)

    def _led(self, harm: str) -> int:
        by = CONSEQUENCES[harm].by
        places = [place for place, act in enumerate(self.acts) if act.handle in by and place not in self.refusals]
        return places[-1] if places else -1


def _wrong(heater: Heater) -> list[str]:
    found = []
    if heater.build.fuel == "gas" and heater.steel_c > SPOILS_C:
        found.append("dry_fire")
    if heater.lower_burnt or heater.upper_burnt:
        found.append("element_burnt")
    runs_c = HOT_C if heater.at_boiler else heater.out_c
    if heater.at_hand > SPLASH_L_S and not heater.hose and runs_c > SCALDS_C:
        found.append("scalded")
    open_end = heater.build.outlet == "open" and not heater.relief_bucket
    if heater.relief_flow > SPLASH_L_S and open_end and heater.relief_c > SCALDS_C:
        found.append("scalded_below")
    if heater.floor_l > FLOODS_L:
        found.append("flooded")
    if heater.twisted:
        found.append("twisted")
    if heater.boiler is not None and heater.boiler.has_locked:
        found.append("boiler_emptied")
    if heater.flaw_open:
        found.append("leak_opened")
    if heater.kpa > BURSTS_KPA:
        found.append("burst")
    elif heater.relief_open and heater.kpa > RELIEF_KPA * 0.9:
        found.append("sealed")
    return found


def begun(scenario: Scenario, seed: int) -> Practice:
    """A practice before its first act. Parameters: seed, which heater of its like, and what the people do."""
    heater = at_rest(scenario.built(seed))
    waits = np.random.default_rng([seed, *scenario.title.encode()]).exponential(DRAWS_EVERY_S, 12)
    return Practice(scenario, seed, heater, deepcopy(heater), tuple(int(one) for one in np.cumsum(waits)))


def folded(scenario: Scenario, seed: int, acts: Iterable[Act], at_s: int) -> Practice:
    """Where a practice stands at a second, after its acts. Raises: ValueError for acts that cannot be, or that are not
    in the order of their seconds."""
    practice = begun(scenario, seed)
    for act in acts:
        if act.at_s < practice.now_s:
            raise ValueError("acts come in the order of their seconds")
        practice.until(act.at_s)
        practice.act(act)
    practice.until(at_s)
    return practice


def handles_of(fuel: str) -> dict[str, tuple[str, ...]]:
    """What can be turned at a heater of a fuel, and to what."""
    return {name: handle.to for name, handle in HANDLES.items() if fuel in handle.fuels}
