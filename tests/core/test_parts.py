import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.parts import Fitted, Want, alloy_to_fit, loads, reached_by, wants
from aquifer.core.planning.preparing import preparation
from aquifer.core.vocabulary import Component


@given(st.lists(st.floats(0.01, 0.9), min_size=1, max_size=12), st.sampled_from([0.5, 0.8, 0.95, 0.99]))
def test_the_quantity_suffices_as_often_as_wanted_and_one_fewer_does_not(chances, level):
    (load,) = loads([Want("rod", p) for p in chances], level)
    random = np.random.default_rng(1)
    needed = (random.random((20_000, len(chances))) < np.array(chances)).sum(axis=1)
    assert (needed <= load.quantity).mean() >= level - 0.015
    assert load.quantity == 0 or (needed <= load.quantity - 1).mean() < level + 0.015
    assert load.expected == pytest.approx(sum(chances))


def test_what_every_visit_uses_is_added_up_beside_what_it_may_need():
    told = {one.part: one for one in loads([Want("washer", 1.0, 2), Want("washer", 1.0), Want("valve", 0.02)], 0.95)}
    assert (told["washer"].quantity, told["valve"].quantity) == (3, 0)
    with pytest.raises(ValueError, match="service level"):
        loads([], 1.0)


def test_a_part_is_told_apart_by_what_decides_whether_it_fits():
    rod = Fitted(alloy="aluminium_zinc", rod_length_mm=1067)
    assert wants(HeaterKind.GAS_TANK, Component.ANODE, 0.4, rod)[0] == Want(
        "anode aluminium zinc, {length_mm:1067}", 0.4
    )
    valve = Fitted(valve_kpa=1034, probe_mm=150)
    assert wants(HeaterKind.GAS_TANK, Component.RELIEF_VALVE, 0.1, valve) == [
        Want("relief valve {pressure_kpa:1034}, probe {length_mm:150}", 0.1)
    ]
    flush = {one.part for one in wants(HeaterKind.ELECTRIC_TANK, Component.SEDIMENT, 0.9, Fitted())}
    assert "element, lower" in flush and "thermocouple" not in flush
    assert wants(HeaterKind.GAS_TANKLESS, Component.SCALE, 0.9, Fitted())[0] == Want("descaler, jug of {volume_l:4}", 1)
    expansion_tank = wants(HeaterKind.GAS_TANK, Component.EXPANSION_TANK, 0.2, Fitted(expansion_tank_l=12))[0]
    assert expansion_tank.part == "expansion tank {small_volume_l:12}"


def test_a_limit_is_likelier_reached_the_later_the_visit():
    quantiles = [10, 50, 100, 200, 400, 800, None]
    chances = [reached_by(days, quantiles, PROBABILITIES, 0.01) for days in (0, 10, 200, 800)]
    assert chances == pytest.approx([0.01, 0.02, 0.5, 0.9])
    assert reached_by(5, quantiles, PROBABILITIES, 0.6) == pytest.approx(0.6)


def test_what_to_prepare_is_said_by_kind_of_visit():
    flush = preparation([(HeaterKind.GAS_TANK, Component.SEDIMENT)], 1.3)
    assert any("about an hour" in line for line in flush) and any("burner" in line for line in flush)
    assert any("about 3 hours" in line for line in preparation([(HeaterKind.ELECTRIC_TANK, Component.SEDIMENT)], 2.9))
    valve = preparation([(HeaterKind.ELECTRIC_TANK, Component.RELIEF_VALVE)], 0.5)
    assert any("Hot water will be off" in line for line in valve) and not any("burner" in line for line in valve)
    # A visit for a fault has no service yet: what it does tells most, unless it hurts.
    fault = preparation([], 1.0)
    assert any("leave it on until we come" in line and "Shut it off and call at once" in line for line in fault)


@pytest.mark.parametrize(
    ("alloy", "ratio", "brought"),
    [
        ("magnesium", 0.9, "magnesium"), ("magnesium", None, "magnesium"), ("", 0.9, "magnesium"),
        ("aluminium", 0.9, "aluminium"), ("aluminium", 0.3, "magnesium"), ("aluminium_zinc", 0.3, "magnesium"),
        ("magnesium", 0.3, "powered"), ("", 0.3, "powered"), ("powered", None, "powered"),
    ],
)  # fmt: skip
def test_the_rod_that_the_verdict_asks_for_is_brought_and_not_the_old_one_again(alloy, ratio, brought):
    assert alloy_to_fit(alloy, ratio) == brought


def test_all_rods_of_a_tank_are_brought_and_needed_together():
    two = Fitted(alloy="aluminium", rods=2, protection_ratio=0.3, rod_length_mm=700)
    (rod, _) = wants(HeaterKind.GAS_TANK, Component.ANODE, 0.4, two)
    assert rod == Want("anode magnesium, {length_mm:700}", 0.4, 2)
    # Likelier than one in twenty to be needed, and then both are: one alone would serve nobody.
    assert loads([rod], 0.95)[0].quantity == 2 and loads([rod], 0.5)[0].quantity == 0
    brute = {0: 0.6 * 0.7, 1: 0.6 * 0.3, 2: 0.4 * 0.7, 3: 0.4 * 0.3}
    for level in (0.3, 0.5, 0.65, 0.9):
        least = next(n for n in range(4) if sum(brute[k] for k in range(n + 1)) >= level - 1e-12)
        (load,) = loads([rod, Want(rod.part, 0.3)], level)
        assert load.quantity == least and load.expected == pytest.approx(1.1)
