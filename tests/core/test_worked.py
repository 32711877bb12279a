"""What is said of what a practice did: each verdict with its own words, at each of its bounds."""

from dataclasses import replace

import pytest

from aquifer.core.bench.hand import Act
from aquifer.core.bench.practice import Practice, begun
from aquifer.core.bench.scenario import scenarios
from aquifer.core.bench.worked import LEFT_ALONE, LEFT_LOOSE, WATCH_S, work_marks


def marks(practice: Practice) -> dict:
    return {mark.name: mark for mark in work_marks(practice)}


def test_an_old_deposit_left_where_it_is_is_told_from_one_that_came_out_and_from_a_forced_drain():
    practice = begun(scenarios()["never_flushed"], 1)
    whole = practice.began.loose_kg + practice.began.hard_kg
    for gone, good, says in (
        (0.0, True, "Its deposit was left where it is: 0 % came out."),
        (LEFT_ALONE - 0.001, True, "Its deposit was left where it is: 15 % came out."),
        (0.4, False, "40 % of an old deposit came out; it may be what seals a flaw."),
    ):
        practice.heater.removed_kg = gone * whole
        told = marks(practice)["left_alone"]
        assert (told.good, told.says) == (good, says)
    practice.heater.removed_kg = 0.0
    practice.acts.append(Act(10, "drain_valve", "new"))
    told = marks(practice)["left_alone"]
    assert not told.good and told.says == "The drain was changed for a deposit that no drain lets out."
    # Of a clean tank nothing came out, either.
    clean = begun(scenarios()["never_flushed"], 1)
    clean.began = replace(clean.began, loose_kg=0.0, hard_kg=0.0)
    assert marks(clean)["left_alone"].says == "Its deposit was left where it is: 0 % came out."


def test_a_flush_is_told_by_what_it_left_of_what_was_loose():
    practice = begun(scenarios()["gas_yearly"], 1)
    for left, good in ((LEFT_LOOSE - 0.01, True), (LEFT_LOOSE + 0.01, False)):
        practice.heater.loose_kg = left * practice.began.loose_kg
        told = marks(practice)["flushed"]
        assert told.good is good and told.says.startswith(f"{round(100 * (1 - left))} % of the loose deposit came out.")
        assert told.says.endswith("stir up the rest.") is not good
    # Where nothing was loose, all of it is out.
    practice.began = replace(practice.began, loose_kg=0.0)
    told = marks(practice)["flushed"]
    assert told.good and told.says == "100 % of the loose deposit came out."


@pytest.mark.parametrize(("watched_s", "good"), [(0, False), (WATCH_S - 1, False), (WATCH_S, True)])
def test_the_pipe_s_end_is_watched_long_enough_or_not(watched_s, good):
    practice = begun(scenarios()["gas_yearly"], 1)
    practice.watched_s = watched_s
    told = marks(practice)["valve_watched"]
    assert told.good is good and (told.says == "Its outlet was watched afterwards.") is good


def test_a_valve_that_passes_nothing_was_tried_when_its_lever_was_up_and_a_sound_one_when_it_lifted():
    sound, stuck = (begun(scenarios()[name], 1) for name in ("gas_yearly", "valve_that_passes_nothing"))
    assert stuck.began.build.relief_stuck and not sound.began.build.relief_stuck
    assert not marks(sound)["valve_tried"].good and not marks(stuck)["valve_tried"].good
    for practice in (sound, stuck):
        practice.acts.append(Act(10, "lever", "up"))
    # The lever of a sound valve lifts nothing while there is no pressure behind it.
    assert not marks(sound)["valve_tried"].good and marks(stuck)["valve_tried"].good
    sound.lifted = True
    assert marks(sound)["valve_tried"].good
    assert marks(sound)["valve_kept"].good and "valve_renewed" not in marks(sound)
    assert marks(stuck)["valve_renewed"].says == "The valve failed its trial and is still there."
    for practice in (sound, stuck):
        practice.acts.append(Act(20, "relief_valve", "new"))
    assert marks(sound)["valve_kept"].says == "A sound relief valve was thrown away."
    assert (
        marks(stuck)["valve_renewed"].says == "The new valve was not tried." and not marks(stuck)["valve_renewed"].good
    )
    stuck.lifted = True
    assert marks(stuck)["valve_renewed"].good
