"""What is said on the telephone: held against the cautions of the trade, not against the table itself."""

import pytest

from aquifer.core.planning.calls import CALLS

BY_NAME = {one.name: one for one in CALLS}


@pytest.mark.parametrize(
    ("name", "said", "never"),
    [
        ("gas", ("out", "no switch", "outside"), ("window", "light", "look for")),
        ("co", ("out", "fire service", "off"), ("leave it on",)),
        ("leak", ("cold valve", "breaker", "standing water"), ("leave it on", "drain it")),
        ("relief", ("cold water on", "never cap"), ("shut the cold", "leave it on")),
        ("hot", ("scald", "cold in first"), ("leave it on", "open the cover")),
        ("cold", ("once at most",), ("reset it again",)),
    ],
)
def test_what_could_hurt_is_said_first_and_nothing_that_would(name, said, never):
    words = " ".join(BY_NAME[name].first).lower()
    assert all(part in words for part in said)
    assert not any(part in words for part in never)


def test_who_is_in_danger_is_seen_today_and_heard_first():
    assert [one.name for one in CALLS[:4]] == ["gas", "co", "leak", "relief"]
    assert {one.name for one in CALLS if one.is_urgent} == {"gas", "co", "leak", "relief", "hot"}
    # Where somebody is in danger an hour and a half, to wait and to measure again; a look for a quote is the shortest.
    assert {one.name: one.minutes for one in CALLS} == {
        "gas": 90, "co": 90, "leak": 90, "relief": 60, "cold": 60, "lukewarm": 60, "hot": 60, "weak": 60, "noise": 75,
        "rust": 60, "again": 45, "price": 45, "install": 60, "moved": 0,
    }  # fmt: skip


def test_a_burner_or_breaker_is_never_left_on_where_something_runs_out_or_smells():
    for one in CALLS:
        if "Leave it on" in " ".join(one.first):
            assert "Off at once if it leaks, smells" in " ".join(one.first)
