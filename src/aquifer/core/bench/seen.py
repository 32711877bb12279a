"""What eyes, ears and instruments tell whoever practises; and what only a tank cut open would show."""

from dataclasses import dataclass

from aquifer.core.bench.boiler import HOT_C
from aquifer.core.bench.heater import LOOSE_KG_L, Heater
from aquifer.core.bench.practice import Practice

RUNS_L_S, DRIPS_L_S = 0.02, 0.0005
"""From where water runs, and from where it drips. Assumption."""
CLARITY_G_L = (("clear", 0.15), ("cloudy", 0.8), ("murky", 3.0))
"""Up to how much of deposit a litre looks so; beyond it is dark with grains. Assumption."""
BOILER_G_L = 2.0
"""How a boiler's water looks, murky with rust. Assumption."""
STRONG_L_S = 0.3
"""A strong rush in the pipes. Assumption."""


@dataclass(frozen=True)
class Seen:
    """How it looks from outside."""

    cold_open: bool
    main_open: bool
    tap_open: bool
    drain: str
    """open, cracked or shut, as its handle stands."""
    hose: bool
    hose_in: str
    gauge: bool
    cap: bool
    lever_up: bool
    relief_bucket: bool
    dial: str
    """off, pilot or on; empty for an electric heater."""
    mark_c: float
    gas_open: bool
    pilot_lit: bool
    breaker: str
    """on, off or locked; empty for a gas heater."""
    burns: bool
    """The burner is heard and seen; a meter at an element's cable shows it."""
    outlet: str
    """Where the relief pipe ends; empty until somebody looked."""
    drain_runs: str
    """runs, drips or dry: what comes out of the drain."""
    drain_c: float | None
    drain_l_min: float
    murk_g_l: float
    clarity: str
    """clear, cloudy, murky or dark: how what comes out of the drain looks."""
    tap_runs: str
    """runs, spits or dry."""
    tap_c: float | None
    """By a thermometer in the stream."""
    tap_l_min: float
    relief_runs: str
    gauge_kpa: float | None
    bucket_l: float
    bucket_g: float
    relief_bucket_l: float
    floor_l: float
    sounds: tuple[str, ...]
    """rush, gurgle, spit, burner."""
    rod: str
    """in, loose or out."""
    rod_head: str
    """hex or none, once somebody looked: one without a head hangs on the hot outlet."""
    rod_bare_mm: float | None
    """Of a rod that is out: wire that shows."""
    rod_thick_mm: float | None
    """The same: where it is thickest, by a caliper."""
    rod_left: float | None
    """The same, as an eye judges it: share of its metal."""
    hot_pipe: bool
    """Screwed to the outlet at the top."""
    probe: str
    """How far the relief valve's probe comes, once somebody looked at it or took it out: reaches or short."""
    at_drain: str
    """left or right, where there are two side by side; else empty."""
    tank_drain: str
    """Which of the two is the tank's, once somebody followed them."""
    boiler_kpa: float | None
    """By the boiler's own gauge."""
    leaks: bool
    """The tank or a joint of it."""
    removed_l: float
    """Deposit in the cloth at the end of the hose: what came out is graded by it."""


@dataclass(frozen=True)
class Layer:
    """Water of one warmth, up to a share of the tank's height."""

    to: float
    celsius: float


@dataclass(frozen=True)
class Inside:
    """A tank cut open."""

    share: float
    layers: tuple[Layer, ...]
    """From the floor up."""
    loose_share: float
    """Of the height."""
    hard_share: float
    lower_burnt: bool
    upper_burnt: bool
    floor_c: float
    """Of the steel over a burner."""
    rod_left: float | None
    """Share of its metal, of a rod that hangs in the tank."""


def seen(practice: Practice) -> Seen:
    """What a practice shows now."""
    heater = practice.heater
    gas = heater.build.fuel == "gas"
    looked = {act.to for act in practice.acts if act.handle == "look"}
    renewed = any(act.handle == "relief_valve" for act in practice.acts)
    drawn = heater.rod if heater.rod.seat == "out" else None
    boiler = heater.boiler
    runs = heater.at_hand > DRIPS_L_S
    murk_g_l = BOILER_G_L if heater.at_boiler and runs else heater.murk_g_l
    tap = "spits" if heater.spits else "runs" if heater.tap and heater.tap_flow > DRIPS_L_S else "dry"
    return Seen(
        heater.cold > 0,
        heater.main > 0,
        heater.tap,
        "open" if heater.drain > 0.5 else "cracked" if heater.drain > 0 else "shut",
        heater.hose,
        heater.hose_in,
        heater.gauge,
        heater.cap,
        heater.lever,
        heater.relief_bucket,
        heater.dial if gas else "",
        heater.set_c,
        heater.gas_cock,
        heater.pilot and heater.gas_cock and heater.dial != "off",
        "" if gas else "on" if heater.breaker else "locked" if heater.locked else "off",
        heater.burns,
        heater.build.outlet if "relief pipe" in looked or heater.relief_flow > RUNS_L_S else "",
        _running(heater.at_hand),
        (HOT_C if heater.at_boiler else round(heater.out_c, 1)) if runs else None,
        round(60 * heater.at_hand, 1),
        round(murk_g_l, 2),
        next((word for word, most in CLARITY_G_L if murk_g_l < most), "dark"),
        tap,
        round(heater.tap_c, 1) if tap == "runs" else None,
        round(60 * heater.tap_flow, 1),
        _running(heater.relief_flow),
        _gauge(heater),
        round(heater.bucket_l, 1),
        round(heater.bucket_g),
        round(heater.relief_bucket_l, 1),
        round(heater.floor_l, 1),
        _sounds(heater),
        {"tight": "in"}.get(heater.rod.seat, heater.rod.seat),
        ("none" if heater.build.rod_combined else "hex") if "rod" in looked or drawn else "",
        None if drawn is None else round(drawn.bare_mm),
        None if drawn is None else round(drawn.thick_mm, 1),
        None if drawn is None else round(drawn.left, 2),
        heater.hot_pipe,
        ("short" if heater.build.probe_short else "reaches") if renewed or "relief valve" in looked else "",
        "" if boiler is None else heater.at_drain,
        heater.build.tank_drain if boiler is not None and "drain" in looked else "",
        None if boiler is None else round(boiler.kpa),
        heater.twisted or heater.flaw_open,
        round(heater.removed_kg / LOOSE_KG_L, 2),
    )


def _gauge(heater: Heater) -> float | None:
    if not heater.gauge:
        return None
    return round(heater.boiler.kpa if heater.boiler is not None and heater.at_boiler else heater.kpa + heater.head_kpa)


def _running(flow: float) -> str:
    return "runs" if flow > RUNS_L_S else "drips" if flow > DRIPS_L_S else "dry"


def _sounds(heater: Heater) -> tuple[str, ...]:
    heard = {
        "rush": heater.inflow > STRONG_L_S,
        "gurgle": heater.drain > 0 and 0 < heater.outflow < 0.01 and heater.air > 0 and heater.kpa < -1,
        "spit": heater.spits,
        "burner": heater.burns and heater.build.fuel == "gas",
    }
    return tuple(name for name, so in heard.items() if so)


def inside(heater: Heater) -> Inside:
    """What the tank holds."""
    layers, up = [], 0.0
    whole = max(heater.kg, 1e-9)
    for kg, celsius in heater.layers:
        up += kg / whole * heater.share
        layers.append(Layer(round(up, 4), round(celsius, 1)))
    bed = heater.bed_l / heater.build.litres
    loose = heater.loose_kg / LOOSE_KG_L / heater.build.litres
    return Inside(
        round(heater.share, 4),
        tuple(layers),
        round(loose, 5),
        round(bed - loose, 5),
        heater.lower_burnt,
        heater.upper_burnt,
        round(heater.steel_c),
        None if heater.rod.seat == "out" else round(heater.rod.left, 2),
    )
