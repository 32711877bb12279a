"""What does not change of a heater in software: the tank, what heats it, the house, and what is unfit."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Build:
    """What does not change: the tank, what heats it, and the house."""

    fuel: str = "gas"
    """gas, electric or boiler: what comes from a boiler's coil."""
    litres: float = 190.0
    height_m: float = 1.2
    input_kw: float = 11.0
    efficiency: float = 0.78
    loss_kw_k: float = 0.0025
    """Through its walls; 0.11 kW at 60 degC in a room of 18. Handbook."""
    supply_kpa: float = 400.0
    cold_c: float = 12.0
    room_c: float = 18.0
    set_c: float = 60.0
    """At which somebody found it."""
    expansion_l: float = 8.0
    """0 is none."""
    precharge_kpa: float = 400.0
    check_valve: bool = False
    """Nothing goes back into the main."""
    loose_l: float = 1.5
    hard_l: float = 0.3
    cold_passes: bool = False
    """The shut-off at the heater does not hold."""
    drain_blocked: bool = False
    """A flake lies across the drain, until something pushes it back."""
    drain_drips: bool = False
    """It does not shut again once it was opened; a cap on its thread stops it."""
    relief_stuck: bool = False
    relief_weeps: bool = False
    """It does not shut again once it was lifted."""
    probe_short: bool = False
    """Its probe ends in its neck: it never feels the water's heat."""
    rod_left: float = 0.6
    """Share of the rod's metal."""
    rod_stuck: bool = False
    rod_combined: bool = False
    """It has no head of its own and hangs on the hot outlet, under that pipe."""
    flaw_sealed: bool = False
    """Deposit is what seals a flaw in the tank."""
    tank_drain: str = "left"
    """Which of two drains side by side is the tank's: left or right. The other is the boiler's, where there is one."""
    outlet: str = "floor drain"
    """Where the relief valve's pipe ends: floor drain, open (over the floor) or capped."""

    @property
    def outlet_capped(self) -> bool:
        return self.outlet == "capped"
