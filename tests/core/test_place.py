"""What stands around a heater: what it may be, what its condition means, and what is said first."""

import pytest

from aquifer.core.kinds import HeaterKind
from aquifer.core.place import (
    BY_KIND,
    FEATURES,
    FeatureGroup,
    FeatureKind,
    Seen,
    Severity,
    fault,
    hazards,
    matters_to,
)


def test_every_kind_of_feature_is_described_once():
    assert [feature.kind for feature in FEATURES] == list(dict.fromkeys(feature.kind for feature in FEATURES))
    assert set(BY_KIND) == set(FeatureKind)


@pytest.mark.parametrize("feature", FEATURES, ids=lambda feature: feature.kind.value)
def test_each_can_be_in_order_and_says_what_to_do_when_it_is_not(feature):
    values = [condition.value for condition in feature.conditions]
    assert len(values) == len(set(values)) and max(map(len, values)) <= 16
    assert feature.conditions[0].severity is None
    for condition in feature.conditions:
        assert condition.words
        if condition.severity in (Severity.DEFECT, Severity.DANGER):
            assert condition.advice, f"{feature.name}, {condition.words}: what is to be done?"


def test_a_wrong_condition_is_told_with_those_that_are_allowed():
    with pytest.raises(ValueError, match="'rusted' is no condition of a house shut-off; allowed: sound, stiff"):
        BY_KIND[FeatureKind.HOUSE_SHUT_OFF].condition("rusted")


def test_what_is_in_order_is_no_fault():
    assert fault(Seen(FeatureKind.HOUSE_SHUT_OFF, "sound")) is None
    assert fault(Seen(FeatureKind.SOFTENER, "missing")) is None


def test_a_fault_says_which_where_what_and_what_to_do():
    severity, words = fault(Seen(FeatureKind.HEATER_SHUT_OFF, "passes", "gate", "behind the tank", about="cellar"))
    assert severity is Severity.DEFECT
    assert words == (
        "Heater's cold shut-off (gate, behind the tank, cellar): does not close tight; "
        "work against the next valve up; renew it."
    )


def test_a_valve_not_to_be_touched_names_what_to_use_instead():
    seen = Seen(FeatureKind.HOUSE_SHUT_OFF, "brittle", "plastic", "pit", True, "the valve at the meter")
    assert fault(seen) == (
        Severity.DANGER,
        "Don't touch the house shut-off (plastic, pit): brittle, may snap. Use the valve at the meter instead.",
    )
    # Somebody may know better than its looks: sound to the eye, and still not to be touched.
    assert fault(Seen(FeatureKind.HOUSE_SHUT_OFF, "sound", do_not_operate=True)) == (
        Severity.DANGER,
        "Don't touch the house shut-off. Use the next valve up instead.",
    )


def test_what_not_to_touch_is_said_before_other_dangers_and_defects_are_not_said_at_all():
    said = hazards(
        [
            Seen(FeatureKind.DISCHARGE_PIPE, "capped"),
            Seen(FeatureKind.TANK_DRAIN, "blocked"),
            Seen(FeatureKind.HEATER_SHUT_OFF, "spins", do_not_operate=True),
        ]
    )
    assert len(said) == 2
    assert said[0].startswith("Don't touch the heater's cold shut-off")
    assert "the tank has no relief" in said[1]


@pytest.mark.parametrize("kind", HeaterKind)
def test_only_what_matters_to_a_kind_is_asked_of_it(kind):
    asked = {feature.kind for feature in matters_to(kind)}
    assert FeatureKind.HEATER_SHUT_OFF in asked and FeatureKind.ACCESS in asked
    assert (FeatureKind.TANK_DRAIN in asked) == kind.is_tank
    assert (FeatureKind.BOILER_SWITCH in asked) == (kind is HeaterKind.INDIRECT_TANK)
    burns = "gas" in kind.value or kind in (HeaterKind.MOBILE_TANK, HeaterKind.CONDENSING_TANKLESS)
    assert (FeatureKind.GAS_SHUT_OFF in asked) == burns == (FeatureKind.VENT in asked)


def test_only_shut_offs_can_be_forbidden_to_touch():
    assert {feature.kind for feature in FEATURES if feature.is_valve} == {
        feature.kind for feature in FEATURES if feature.group is FeatureGroup.SHUT_OFF
    }


def test_what_serves_a_whole_house_is_told_once_for_all_its_heaters():
    assert {feature.kind.value for feature in FEATURES if feature.of_site} == {
        "house_shut_off", "meter_valve", "regulator", "recirculation_pump", "softener", "well", "inlet_filter",
        "co_alarm", "people_at_risk",
    }  # fmt: skip
