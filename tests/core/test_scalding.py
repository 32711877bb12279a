"""Cautions beside a setting."""

import pytest

from aquifer.core.scalding import MIX_ABOVE_C, SECONDS_ABOVE_C, STORED_BELOW_C, cautions


@pytest.mark.parametrize(
    ("setpoint_c", "stored", "said"),
    [
        (65, True, ["Scalds within seconds"]),
        (60, True, ["Can scald"]),
        (52, True, ["Can scald"]),
        (49, True, ["Stored this cool"]),
        (49, False, []),
        (45, False, []),
    ],
)
def test_what_is_said_of_a_setting(setpoint_c, stored, said):
    found = cautions(setpoint_c, stored)
    assert len(found) == len(said)
    assert all(sentence.startswith(start) for sentence, start in zip(found, said, strict=True))


def test_no_stored_setting_is_without_a_caution_from_either_side():
    """A tank hot enough against legionella can scald, one too cool to scald may not be: it is mixed down."""
    assert STORED_BELOW_C > MIX_ABOVE_C and SECONDS_ABOVE_C > STORED_BELOW_C
    assert all(cautions(setpoint, True) for setpoint in range(40, 90))
