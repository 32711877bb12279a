import random

import pytest

from aquifer.core import chemistry
from aquifer.core.chemistry import Analysis, heated, mixed
from aquifer.core.water import WaterTest, profile
from tests.core.references import CASES, in_area

HEATED = [name for name in in_area("chemistry") if "t_source" in CASES[name]["input"]]
DEFAULTS = [name for name in in_area("chemistry") if name.startswith("chem_defaults")]


@pytest.mark.parametrize("name", HEATED)
def test_heated_water_agrees_with_phreeqc_called_directly(name):
    given, expected = CASES[name]["input"], CASES[name]["expected"]
    water = Analysis(given["th"], given["cah"], given["alk"], given["ph"], given["cond"], given["t_source"])
    found = heated(water, given["t_hot"])
    assert found.saturation_index == pytest.approx(expected["si"], abs=0.01)
    assert found.precipitation_potential_mg_l == pytest.approx(expected["ccpp"], abs=0.5)
    assert found.ph == pytest.approx(expected["ph_hot"], abs=0.05)


@pytest.mark.parametrize("name", DEFAULTS)
def test_a_strip_test_of_hardness_alone_is_completed_as_documented(name):
    expected = CASES[name]["expected"]
    water = profile(WaterTest(total_hardness_mg_l=CASES[name]["input"]["th"])).analysis
    assert water.alkalinity_mg_l == pytest.approx(expected["alk"], rel=1e-4)
    assert water.calcium_hardness_mg_l == pytest.approx(expected["cah"], rel=1e-4)
    assert water.conductivity_us_cm == pytest.approx(expected["cond"], rel=1e-4)
    assert water.ph == pytest.approx(expected["ph"], rel=1e-4)


def test_softened_water_dissolves_and_hardly_conducts_more():
    given, expected = CASES["chem_softened_300"]["input"], CASES["chem_softened_300"]["expected"]
    water = Analysis(given["th"], given["cah"], given["alk"], given["ph"], given["cond"], 15)
    found = heated(water, given["t_hot"], softened=True)
    assert found.conductivity_us_cm == pytest.approx(expected["cond25"], rel=0.02)
    assert found.saturation_index == pytest.approx(expected["si"], abs=0.05)
    assert found.precipitation_potential_mg_l < 0


def test_hotter_water_precipitates_more():
    water = profile(WaterTest(total_hardness_mg_l=250)).analysis
    found = [heated(water, t).precipitation_potential_mg_l for t in (49, 55, 60, 65, 70, 80)]
    # The documented table of the default water at 250 mg/L.
    assert found == pytest.approx([19.5, 23.9, 27.9, 32.1, 36.6, 46.2], abs=0.2)


def test_a_water_is_solved_once_for_each_temperature(monkeypatch):
    water = Analysis(201.0, 150.0, 160.0, 7.7, 480.0, 12.0)
    first = heated(water, 61.0)
    monkeypatch.setattr(chemistry, "_run", lambda *args, **kwargs: pytest.fail("PHREEQC was called again"))
    assert heated(water, 61.0) is first


def test_what_a_water_comes_to_hangs_on_nothing_that_was_solved_before_it():
    """To the last digit: otherwise a night that two workers share is not what one of them makes of it."""
    luck = random.Random(3)
    waters = []
    for _ in range(25):
        hardness = luck.uniform(5, 500)
        water = Analysis(
            hardness, hardness * luck.uniform(0.4, 1), luck.uniform(10, 350), luck.uniform(6.2, 9),
            luck.uniform(30, 1800), luck.uniform(4, 20),
        )  # fmt: skip
        waters.append((water, luck.choice([49.0, 60.0, 82.0]), luck.random() < 0.3))

    def solved(order):
        chemistry._heated.cache_clear()
        chemistry._balanced.cache_clear()
        chemistry._mixed.cache_clear()
        found = {at: heated(*waters[at]) for at in order}
        mixtures = {at: mixed(waters[at][0], waters[at - 1][0], 0.3) for at in order}
        return found, mixtures

    forward = solved(range(len(waters)))
    for _ in range(3):
        assert solved(luck.sample(range(len(waters)), len(waters))) == forward


def test_contradictory_hardness_is_refused_by_name():
    with pytest.raises(ValueError, match="calcium hardness 200 mg/L is above the total hardness 150 mg/L"):
        profile(WaterTest(total_hardness_mg_l=150, calcium_hardness_mg_l=200))


def test_only_measured_alkalinity_and_ph_narrow_a_zone():
    assert not profile(WaterTest(total_hardness_mg_l=200)).carbonate_is_known
    assert profile(WaterTest(total_hardness_mg_l=200, alkalinity_mg_l=150, ph=7.4)).carbonate_is_known
