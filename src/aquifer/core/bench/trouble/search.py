"""The search for what is wrong with a heater: deeds one after the other, what each showed, and what went wrong."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from aquifer.core.bench.hand import Act
from aquifer.core.bench.practice import CONSEQUENCES, LONGEST_S, TELLINGS, Consequence, Harm
from aquifer.core.bench.trouble.rig import Hurt, Refused, Rig
from aquifer.core.bench.trouble.trouble import Trouble

CAUSE = "cause"
"""The handle by which somebody notes what it was."""
HURTS: dict[str, Consequence] = {
    **{name: CONSEQUENCES[name] for name in ("element_burnt", "dry_fire", "scalded", "flooded", "lit_too_soon")},
    "shock": Consequence("You touched what is live.", (), "prove_dead.measure"),
    "flash": Consequence("Gas lay in the room, and something sparked.", (), "arrival.air"),
    "gas_out": Consequence("The gas line was opened with gas behind it.", (), "gas_full_off.dial_off"),
    "exhaust": Consequence("It burns, and its exhaust stays in the house.", (), "ignition.switch"),
    "acid_in_house": Consequence("Acid went into the house's pipes.", (), "descale.acid"),
    "acid_boils": Consequence("The heater fired into acid: it boiled and spat.", (), "descale.off"),
    "jet_ruined": Consequence("A wire made the jet's hole another: the burner is spoilt.", (), "vehicle_gas.jet"),
}


@dataclass(frozen=True)
class Shown:
    """What a deed showed."""

    act: int
    """Its place among the acts."""
    at_s: int
    point: str
    deed: str
    says: str


@dataclass
class Search:
    """Where a search stands."""

    trouble: Trouble
    seed: int
    rig: Rig
    now_s: int = 0
    acts: list[Act] = field(default_factory=list)
    refusals: dict[int, str] = field(default_factory=dict)
    harms: list[Harm] = field(default_factory=list)
    shown: list[Shown] = field(default_factory=list)
    cause: str = ""
    """What was noted, a fault of the rig's."""

    def until(self, second: int) -> None:
        """Time goes by to a second; what a deed took has gone by already."""
        second = min(second, LONGEST_S)
        if second > self.now_s:
            self._wait(second - self.now_s)

    def act(self, act: Act) -> None:
        """Something is done. Raises: ValueError for what cannot be, naming what is allowed."""
        place = len(self.acts)
        if act.handle == CAUSE:
            if act.to not in self.rig.faults:
                raise ValueError(f"cause = {act.to!r}; allowed: {', '.join(self.rig.faults)}")
            self.cause = act.to
        elif act.handle not in TELLINGS:
            self._does(act, place)
        self.acts.append(act)

    def _does(self, act: Act, place: int) -> None:
        point = next((one for one in self.rig.points if one.name == act.handle), None)
        if point is None:
            raise ValueError(f"there is no {act.handle}; allowed: {', '.join(one.name for one in self.rig.points)}")
        if act.to not in point.deeds:
            raise ValueError(f"{act.handle} = {act.to!r}; allowed: {', '.join(point.deeds)}")
        if self.now_s >= LONGEST_S:
            raise ValueError("the day is over")
        self._wait(round(60 * point.deeds[act.to]), place)
        try:
            says = self.rig.do(act.handle, act.to)
        except Refused as refusal:
            self.refusals[place] = str(refusal)
            return
        except Hurt as hurt:
            self._hurt(str(hurt), place)
            return
        if says:
            self.shown.append(Shown(place, self.now_s, act.handle, act.to, says))

    def _wait(self, seconds: int, place: int = -1) -> None:
        self.now_s = min(self.now_s + seconds, LONGEST_S)
        try:
            self.rig.pass_by(seconds / 60)
        except Hurt as hurt:
            self._hurt(str(hurt), len(self.acts) - 1 if place < 0 else place)

    def _hurt(self, name: str, place: int) -> None:
        if all(harm.name != name for harm in self.harms):
            self.harms.append(Harm(name, self.now_s, place))


def begun(trouble: Trouble, seed: int) -> Search:
    """A search before its first deed."""
    return Search(trouble, seed, trouble.rig(seed))


def folded(trouble: Trouble, seed: int, acts: Iterable[Act], at_s: int) -> Search:
    """Where a search stands at a second, after its acts. Raises: ValueError for acts that cannot be, or that are not in
    the order of their seconds."""
    search, last = begun(trouble, seed), 0
    for act in acts:
        if act.at_s < last:
            raise ValueError("acts come in the order of their seconds")
        last = act.at_s
        search.until(act.at_s)
        search.act(act)
    search.until(at_s)
    return search
