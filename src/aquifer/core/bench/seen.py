"""What eyes, ears and instruments tell whoever practises; and what only a tank cut open would show."""

from dataclasses import dataclass

from aquifer.core.bench.heater import LOOSE_KG_L, Heater
from aquifer.core.bench.practice import Practice

RUNS_L_S, DRIPS_L_S = 0.02, 0.0005
"""From where water runs, and from where it drips. Assumption."""
CLARITY_G_L = (("clear", 0.15), ("cloudy", 0.8), ("murky", 3.0))
"""Up to how much of deposit a litre looks so; beyond it is dark with grains. Assumption."""
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


def seen(practice: Practice) -> Seen:
    """What a practice shows now."""
    heater = practice.heater
    gas = heater.build.fuel == "gas"
    looked = any(act.handle == "look" and act.to == "relief pipe" for act in practice.acts)
    runs = heater.outflow > DRIPS_L_S
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
        heater.build.outlet if looked or heater.relief_flow > RUNS_L_S else "",
        _running(heater.outflow),
        round(heater.out_c, 1) if runs else None,
        round(60 * heater.outflow, 1),
        round(heater.murk_g_l, 2),
        next((word for word, most in CLARITY_G_L if heater.murk_g_l < most), "dark"),
        tap,
        round(heater.tap_c, 1) if tap == "runs" else None,
        round(60 * heater.tap_flow, 1),
        _running(heater.relief_flow),
        round(heater.kpa + heater.head_kpa) if heater.gauge else None,
        round(heater.bucket_l, 1),
        round(heater.bucket_g),
        round(heater.relief_bucket_l, 1),
        round(heater.floor_l, 1),
        _sounds(heater),
        round(heater.removed_kg / LOOSE_KG_L, 2),
    )


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
    )
