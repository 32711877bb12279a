"""What a hot-water setting asks people to mind: scalding above, legionella below."""

MIX_ABOVE_C = 49.0
"""120 degF: the trade's usual ceiling at the tap; above it a burn takes minutes, then less. Trade practice."""
SECONDS_ABOVE_C = 60.0
"""A deep burn takes an adult some seconds at 60 degC, about one at 66; children less. Trade practice."""
STORED_BELOW_C = 50.0
"""Stored water cooler than this may let legionella grow. Trade practice; local rules decide."""


def cautions(setpoint_c: float, is_stored: bool) -> list[str]:
    """Sentences to be said beside a setting, the worst first; none where it is usual.

    Parameters: setpoint_c, degC; is_stored, whether the heater keeps hot water, as a tank does.
    """
    found = []
    if setpoint_c > SECONDS_ABOVE_C:
        found.append("Scalds within seconds: a mixing valve at the faucet is a must.")
    elif setpoint_c > MIX_ABOVE_C:
        found.append("Can scald: mixed down at the faucet where children or frail people are.")
    if is_stored and setpoint_c < STORED_BELOW_C:
        found.append("Stored this cool, legionella may grow: local rules decide.")
    return found
