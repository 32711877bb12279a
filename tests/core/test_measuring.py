"""Which visits are drawn for a measurement, and which readings are asked for once more."""

import numpy as np
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


@pytest.mark.parametrize("spread", [0.3, 0.7])
def test_nine_of_ten_slips_are_asked_about_and_hardly_one_true_reading(spread):
    rng = np.random.default_rng(3)
    n = 20_000
    middle = rng.lognormal(np.log(9), 0.8, n)
    true = middle * np.exp(spread * rng.normal(size=n))
    read = true * np.exp(0.15 * rng.normal(size=n))
    told = [(m * np.exp(-1.2816 * spread), m, m * np.exp(1.2816 * spread)) for m in middle[:4000]]
    bounds = np.array([measuring.likely(one, 0.15, 1.0) for one in told])

    def asked(reading) -> float:
        return float(np.mean((reading[:4000] < bounds[:, 0]) | (reading[:4000] > bounds[:, 1])))

    assert asked(read) < 0.02
    # A depth typed as inches where millimetres were meant, and one that is ten times as deep.
    assert asked(read * 25.4) > 0.9
    assert asked(read * 10) > (0.9 if spread < 0.5 else 0.4)


def test_nothing_is_no_slip_where_hardly_anything_is_likely():
    assert measuring.likely((0.4, 1.0, 2.5), 0.15, 1.0)[0] == 0.0
    low, high = measuring.likely((18.0, 24.0, 32.0), 0.15, 1.0)
    assert 8 < low < 18 and 32 < high < 70


@pytest.mark.parametrize(
    ("told", "known", "question"),
    [
        (22, 373, "gpg"),
        (20.9, 373, "gpg"),
        (14, 250, "dh"),
        (31, 310, "fh"),
        (373, 350, None),
        (180, 373, None),
        (900, 250, "mg_l"),
        (60, 373, "mg_l"),
        (8, 30, None),
        (30, 45, None),
    ],
)
def test_a_hardness_far_from_its_water_is_asked_about(told, known, question):
    said = measuring.hardness_question(told, known)
    assert said == question or {said, question} <= {"gpg", "dh"}
