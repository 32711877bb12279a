"""Somebody who works at the physical heater by what the guide offers, and does not make it easy.

Steps in order, left out, taken back, gone otherwise; two devices that lose their signal and whose clocks are wrong;
back after hours; people who draw water and switch things on; a hand that taps everything in eight seconds and looks at
nothing. A held step is never done: who overrides is somebody else's matter.
"""

import random
from copy import copy
from dataclasses import dataclass, field, replace

from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import visit
from aquifer.core.procedures.condition import possible
from aquifer.core.procedures.library import library
from aquifer.core.procedures.sequence import procedures_for
from aquifer.core.procedures.state import AWAY_MIN, as_found, facts_of, fuel_of, ignitions_of, rates_of
from aquifer.core.procedures.visit import Event, Stand
from aquifer.core.vocabulary import Component, FlushMethod, UpkeepItem
from tests.core.physical_heater import HANDS, Heater, fit, hand, is_so, tested

LIBRARY = library()
ALL = ("gas", "electrical", "plumbing")
TANK = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
TANKLESS = (Component.SCALE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
LOOKS_FOR_S = 3000.0
MOST_TAPS = 240


@dataclass
class Phone:
    name: str
    wrong_s: float
    known: dict[str, tuple[tuple[int, str, str], Event]] = field(default_factory=dict)
    cursor: int = 0
    clock: int = 0
    tapped_s: float = 0.0
    reckoned: list[tuple[tuple[str, int | None], visit.Visit, Stand]] = field(default_factory=list)
    """Each event that it has reckoned with, and where the visit stands after it."""


@dataclass
class Walk:
    """One visit, walked."""

    seed: int
    heater: Heater
    start: Stand
    facts: dict[str, frozenset[str]]
    rates: object
    chance: random.Random
    phones: list[Phone]
    hurried: bool
    now_s: float = 0.0
    server: list[tuple[tuple[int, str, str], Event]] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    dead_ends: list[tuple[str, str]] = field(default_factory=list)
    """Steps that were held as before after their way out was taken, with the rule."""
    finished: bool = False
    tapped_s: float = 0.0
    holds: bool = True
    turned: tuple[str, dict[str, object]] = ("", {})
    """What the last act turned, and how it stood before."""

    def stand(self, phone: Phone) -> Stand:
        events = [event for _, event in sorted(phone.known.values(), key=lambda one: one[0])]
        # Where two devices tell of it, it matters which events the server has numbered by then.
        ids = [(event.id, event.number if len(self.phones) > 1 else 0) for event in events]
        same = next((place for place, one in enumerate(phone.reckoned) if ids[place : place + 1] != [one[0]]), None)
        if same is not None:
            del phone.reckoned[same:]
        for place in range(len(phone.reckoned), len(events)):
            told = phone.reckoned[-1][1] if place else visit.Visit(LIBRARY, self.start, self.facts, self.rates)
            if len(self.phones) > 1:
                told = _copied(told)  # Another's event may come to stand before it yet.
            phone.reckoned.append((ids[place], told, told.tell(events[place])))
        return phone.reckoned[-1][2] if events else self.start

    def before_last(self, phone: Phone) -> Stand:
        self.stand(phone)
        return phone.reckoned[-2][2] if len(phone.reckoned) > 1 else self.start

    def passes(self, seconds: float) -> None:
        self.now_s += seconds
        self.heater.passes(seconds)

    def tap(self, phone: Phone, kind: str, **parts) -> None:
        phone.clock += 1
        event = Event(
            kind,
            id=f"{phone.name}{phone.clock}-{len(phone.known)}",
            device=phone.name,
            at_s=self.now_s + phone.wrong_s,
            known=phone.cursor,
            **parts,
        )
        phone.known[event.id] = ((phone.clock, phone.name, event.id), event)
        self.tapped_s = phone.tapped_s = self.now_s
        self.turned = (event.id, self.turned[1] if kind == "done" else {})
        self.told.append(f"{self.now_s:.0f}s {phone.name} {kind} {parts.get('step', '')} {parts.get('name', '')}")

    def sync(self, phone: Phone) -> None:
        for key, event in sorted(one for one in phone.known.values() if one[1].number is None):
            self.server.append((key, replace(event, number=len(self.server) + 1)))
        for key, event in self.server[phone.cursor :]:
            phone.known[event.id] = (key, event)
            phone.clock = max(phone.clock, key[0])
        phone.cursor = len(self.server)


def _copied(told: visit.Visit) -> visit.Visit:
    """A visit that goes on by itself from where another stands."""
    new = copy(told)
    for name, one in vars(told).items():
        if name.startswith("_") and isinstance(one, dict):
            setattr(new, name, {key: list(kept) if isinstance(kept, list) else kept for key, kept in one.items()})
    return new


def begun(seed: int) -> Walk:
    """A heater with faults that nobody can see, a visit to it, and who does it."""
    chance = random.Random(seed)
    kind = chance.choice(list(HeaterKind))
    lit = chance.choice(ignitions_of(kind))
    fuel = fuel_of(kind)
    litres = (22.0 if kind is HeaterKind.MOBILE_TANK else chance.choice([114.0, 190.0, 300.0])) if kind.is_tank else 4.0
    heater = Heater(
        kind.value,
        fuel,
        {"pilot": "pilot"}.get(lit, "plug"),
        litres,
        1.2 if kind.is_tank else 0.5,
        10_000.0 if kind.is_tank else 30_000.0,
        chance.choice([48.0, 60.0, 70.0]),
        cold_passes=chance.random() < 0.1,
        main_passes=chance.random() < 0.03,
        drain_breaks=chance.random() < 0.12,
        drain_blocked=chance.random() < 0.1,
        relief_dead=chance.random() < 0.12,
        outlet_capped=chance.random() < 0.06,
    )
    heater.hot_c = heater.setpoint_c
    shut = chance.random() < 0.05
    if shut or chance.random() < 0.1:  # It was off when somebody came.
        heater.plug, heater.dial = (heater.plug, "off") if heater.lit_by == "pilot" else (False, heater.dial)
        heater.hot_c = chance.choice([15.0, heater.setpoint_c])
    heater.pilot = heater.dial != "off"
    heater.cold = not shut
    due = [one for one in (TANK if kind.is_tank else TANKLESS) if chance.random() < 0.5]
    names = procedures_for(
        kind,
        due,
        chance.choice(list(FlushMethod)),
        pressure_test=chance.random() < 0.15,
        upkeep=tuple(UpkeepItem) if chance.random() < 0.4 else (),
        replace_valve=chance.random() < 0.15,
        partial=kind.is_tank and chance.random() < 0.1,
    )
    practices = {name: chance.choice(list(one.options)) for name, one in LIBRARY.practices.items()}
    facts = facts_of(kind, ALL, practices)
    rates = rates_of(litres, heater.height_m, heater.watts / 1000, 12.0)
    seen = lit if chance.random() < 0.7 else ""
    start = visit.begun(LIBRARY, names, facts, as_found(kind, rates, seen))
    phones = [Phone("a", 0.0)]
    if chance.random() < 0.3:
        phones.append(Phone("b", chance.choice([0.0, 40.0, -900.0, 3600.0])))
    return Walk(seed, heater, start, facts, rates, chance, phones, chance.random() < 0.15)


def walked(seed: int, holds: bool = True) -> Walk:
    """The whole of one visit. What hurt is in its heater's ``harms``. Parameters: holds, whether a held step is left
    alone; without, the judge is to see what the guide is for."""
    walk = begun(seed)
    walk.holds = holds
    chance, heater = walk.chance, walk.heater
    phone = walk.phones[0]
    for _ in range(MOST_TAPS):
        if chance.random() < 0.5:
            walk.sync(phone)
        if len(walk.phones) > 1 and chance.random() < 0.06:
            phone = _handed_over(walk, phone)
        if not walk.hurried:
            _others(walk)
        stand = walk.stand(phone)
        if stand.now is None:
            for one in (*walk.phones, *walk.phones):
                walk.sync(one)
            if walk.stand(walk.phones[0]).now is None:
                walk.finished = True
                break
            continue
        _tap(walk, phone, stand)
        if heater.harms:
            break
    if walk.finished and not heater.harms:
        _judge_the_last_page(walk)
    return walk


def _handed_over(walk: Walk, phone: Phone) -> Phone:
    """The visit goes on on the other device, with a signal or without; whoever holds it says truly whether more was
    done than it shows."""
    other = next(one for one in walk.phones if one is not phone)
    if walk.chance.random() < 0.5:
        walk.sync(phone)
    if walk.chance.random() < 0.6:
        walk.sync(other)
    more = not set(phone.known) <= set(other.known)
    walk.tap(other, "took_over", choice=int(more))
    return other


def _others(walk: Walk) -> None:
    """What the people in the house do, where nothing of ours guards against it."""
    chance, heater = walk.chance, walk.heater
    if not heater.told and chance.random() < 0.03 and not heater.port:
        heater.drawn = True
        walk.passes(20)
        heater.drawn = False
    if chance.random() < 0.01:
        whole = heater.share > 0.99 and heater.full_flow and not heater.drain and not heater.acid and heater.cover
        tight = not heater.port and not heater.lever and heater.joints == "tested" and heater.flue and heater.hot_side
        hours = chance.uniform(1, 20) * 3600
        walk.passes(hours)
        if not (heater.locked or heater.tagged) and whole and tight and heater.fuel != "gas":
            heater.plug = True


def _tap(walk: Walk, phone: Phone, stand: Stand) -> None:
    chance, heater = walk.chance, walk.heater
    at = stand.now
    assert at is not None
    if phone.known and walk.now_s - phone.tapped_s >= AWAY_MIN * 60:
        # The device tells by itself that nobody was at it.
        walk.tap(phone, "outside", name="away")
        return
    held = visit.holding(LIBRARY, stand, walk.facts) if walk.holds else []
    hurries = walk.hurried and chance.random() < 0.9
    walk.passes(chance.uniform(0.1, 0.4) if hurries else chance.choice([2.0, 4.0, 15.0, 60.0]))
    # Who has stood there for a while has looked.
    hurries = hurries and walk.now_s - walk.tapped_s < 1.2
    draw = chance.random()
    if held:
        ways = [one for one in held if one.way_out]
        if ways and draw < 0.92:
            rule = chance.choice(ways).rule
            walk.tap(phone, "settled", step=at.id, name=rule)
            if (now := walk.stand(phone).now) is not None and now.id == at.id:
                walk.dead_ends.append((at.id, rule))
        else:
            walk.tap(phone, "skipped", step=at.id, why="it cannot be")
        return
    if draw < 0.05 and (last := _last(phone)) is not None:
        _back(walk, phone, stand, last)
        return
    if draw < 0.07:
        happened = chance.choice(sorted(LIBRARY.outside))
        if not LIBRARY.outside[happened].ends or chance.random() < 0.1:
            walk.tap(phone, "outside", name=happened)
        return
    if draw < 0.085:
        found = [n for n, one in LIBRARY.found.items() if possible(one.when, {**walk.facts, **stand.state.told})]
        walk.tap(phone, "found", name=chance.choice(found))
        return
    if draw < 0.16:
        if chance.random() < 0.5:
            _do(walk, at.id)
        walk.tap(phone, "skipped", step=at.id, why=chance.choice(["already so", "not needed", "cannot be done here"]))
        return
    others = [n for n, one in enumerate(at.step.deviations) if possible(one.when, {**walk.facts, **stand.state.told})]
    if draw < 0.19 and others and not at.id.startswith("arrival"):
        walk.tap(phone, "deviation", step=at.id, choice=chance.choice(others))
        return
    if at.id == "relief_exercise.lift" and heater.relief_dead:
        walk.tap(phone, "deviation", step=at.id, choice=others[0])
        return
    stood = {handle: getattr(heater, handle) for handle in _HANDLES}
    looked = True
    if hurries:
        _do(walk, at.id)
    else:
        looked = _looked(walk, at.id)
    walk.turned = ("", {handle: was for handle, was in stood.items() if getattr(heater, handle) != was})
    if looked:
        walk.tap(phone, "done", step=at.id)
    elif others:
        walk.tap(phone, "deviation", step=at.id, choice=others[0] if chance.random() < 0.7 else chance.choice(others))
    else:
        walk.tap(phone, "skipped", step=at.id, why="it does not show")


def _do(walk: Walk, step: str) -> None:
    """Do what a step's words ask, without a look."""
    for words in HANDS.get(step, "").split(";"):
        hand(walk.heater, words, walk.chance)
        walk.passes(0.3)


def _looked(walk: Walk, step: str) -> bool:
    """Do what a step's words ask, wait for what is to be seen, and say whether it is so."""
    if step == "blocked_drain.probe" and walk.chance.random() < 0.4:
        walk.heater.drain_blocked = False
    first, _, then = HANDS.get(step, "").partition(";")
    hand(walk.heater, first, walk.chance)
    waited = 0.0
    walk.passes(2)
    pause = 30.0 if then or "rinse" in step or step.startswith(("refill", "cool")) else 5.0
    walk.passes(pause)
    if then:
        hand(walk.heater, then, walk.chance)
        walk.passes(2)
    while not is_so(walk.heater, step) and waited < LOOKS_FOR_S:
        if step in ("cool.run_hot",):
            hand(walk.heater, "faucet on", walk.chance)
        if "rinse" in step and "acid" in HANDS.get(step, ""):
            hand(walk.heater, "acid rinsed", walk.chance)
        walk.passes(30)
        waited += 30
    if step == "cool.run_hot":
        hand(walk.heater, "faucet off", walk.chance)
    tested(walk.heater, step)
    return is_so(walk.heater, step)


def _last(phone: Phone) -> Event | None:
    """The last step that this device knows of, if it is one that can be taken back."""
    events = [event for _, event in sorted(phone.known.values(), key=lambda one: one[0])]
    return events[-1] if events and events[-1].kind in ("done", "skipped") else None


def _back(walk: Walk, phone: Phone, stand: Stand, last: Event) -> None:
    was = walk.before_last(phone)
    undone = walk.chance.random() < 0.5 and not visit.undo_hurts(LIBRARY, stand, was, last, walk.facts)
    if undone and walk.turned[0] == last.id:
        for handle, stood in walk.turned[1].items():
            setattr(walk.heater, handle, stood)
    walk.tap(phone, "undo", of=last.id)


_HANDLES = (
    "cold",
    "main",
    "hot_side",
    "faucet",
    "drain",
    "hose",
    "lever",
    "union_loose",
    "gas_cock",
    "dial",
    "plug",
    "locked",
    "cover",
    "port",
)


def _judge_the_last_page(walk: Walk) -> None:
    stand = walk.stand(walk.phones[0])
    if visit.doubtful(LIBRARY, stand, walk.start.state):
        return
    leaves = LIBRARY.endings[stand.ending].leaves if stand.ending else "restored"
    heater = walk.heater
    if leaves == "restored" and (wrong := fit(heater)):
        heater.harms.append(f"said to be right: {', '.join(wrong)}")
    if leaves == "left_off" and (heater.flame or heater.fires or heater.acid or heater.port):
        heater.harms.append("said to be off")
