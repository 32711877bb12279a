"""Which visits are drawn for a measurement."""

import pytest

from aquifer.core import measuring


def test_about_one_visit_in_twenty_is_drawn():
    drawn = sum(measuring.is_drawn(b"secret", heater, visits) for heater in range(400) for visits in range(25))
    assert drawn / 10_000 == pytest.approx(0.05, abs=0.007)


def test_the_answer_holds_until_the_visit_and_differs_between_installations():
    first = [measuring.is_drawn(b"one", heater, 3, share=0.5) for heater in range(200)]
    assert first == [measuring.is_drawn(b"one", heater, 3, share=0.5) for heater in range(200)]
    assert first != [measuring.is_drawn(b"two", heater, 3, share=0.5) for heater in range(200)]
    assert first != [measuring.is_drawn(b"one", heater, 4, share=0.5) for heater in range(200)]


def test_none_and_all_are_shares_too():
    assert not any(measuring.is_drawn(b"s", heater, 0, share=0.0) for heater in range(50))
    assert all(measuring.is_drawn(b"s", heater, 0, share=1.0) for heater in range(50))
