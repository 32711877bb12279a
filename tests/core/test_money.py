"""Money by hand, and what findings ask for next."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import money
from aquifer.core.follow_up import FollowUp, Looked, follow_ups
from aquifer.core.judgement.table import Judgement, Verdict
from aquifer.core.money import Book, Price, Terms
from aquifer.core.vocabulary import Component, DrainFlow, Method, RodGrade

BOOK = Book(
    Decimal(40),
    {
        "call_out": Price(Decimal("30.00")),
        "sediment": Price(Decimal("55.00"), Decimal("1.50")),
        "sediment/jetting": Price(Decimal("140.00"), Decimal("4.00")),
        "anode": Price(Decimal("61.00"), Decimal("20.00")),
        "anode magnesium, 910 mm": Price(Decimal("70.05"), Decimal("25.10")),
    },
)


def test_the_nearest_wider_price_is_taken():
    for key, price in {
        "sediment/jetting": "140.00",
        "sediment/drain_and_pulse": "55.00",
        "anode magnesium, 910 mm": "70.05",
        "anode magnesium, 500 mm": "61.00",
    }.items():
        assert money.line(BOOK, key, Decimal(1)).price == Decimal(price)
    assert money.entry_of(BOOK, "sedimentary") is None


def test_a_visit_in_money():
    services = [(Component.SEDIMENT, Method.DRAIN_AND_PULSE), (Component.RELIEF_VALVE, Method.EXERCISE)]
    parts = [("anode magnesium, 910 mm", Decimal(1))]
    terms = Terms(frozenset({Component.SEDIMENT}), call_out=True, parts_off=Decimal("0.10"))
    found = money.worth(money.visit_lines(services, parts, BOOK, terms), Decimal("1.5"), BOOK)
    # 70.05 less a tenth is 63.045, half up 63.05; cost 60 of time, 1.50 and 25.10 of things.
    assert (found.charged, found.included, found.cost) == (Decimal("63.05"), Decimal("85.00"), Decimal("86.60"))
    assert found.unpriced == ("relief_valve/exercise",)
    assert found.left == Decimal("61.45")
    plain = money.worth(money.visit_lines(services, parts, BOOK, Terms()), Decimal("1.5"), BOOK)
    assert (plain.charged, plain.included) == (Decimal("155.05"), Decimal(0))


@given(st.decimals(0, 1, places=2), st.integers(1, 50))
def test_a_plan_never_makes_anything_dearer_and_loses_no_list_price(off, quantity):
    full = money.line(BOOK, "anode", Decimal(quantity))
    with_plan, paid = (
        money.line(BOOK, "anode", Decimal(quantity), off=off),
        money.line(BOOK, "anode", Decimal(quantity), True),
    )
    assert with_plan.amount <= full.amount
    assert (paid.amount, paid.included) == (0, full.amount)


@pytest.mark.parametrize(
    ("quantity", "off"), [(Decimal(0), Decimal(0)), (Decimal(-1), Decimal(0)), (Decimal(1), Decimal("1.2"))]
)
def test_what_cannot_be_charged_is_told(quantity, off):
    with pytest.raises(ValueError, match="allowed"):
        money.line(BOOK, "anode", quantity, off=off)


def test_a_line_by_hand():
    def told(quantity, **terms):
        line = money.line(BOOK, "anode", Decimal(quantity), **terms)
        return line.price, line.amount, line.included, line.cost

    price, cost = Decimal("61.00"), Decimal("60.00")
    assert told(3) == (price, Decimal("183.00"), Decimal(0), cost)
    assert told(3, off=Decimal("0.1")) == (price, Decimal("164.70"), Decimal(0), cost)
    assert told(3, included=True) == (price, Decimal(0), Decimal("183.00"), cost)
    assert told(3, off=Decimal(1))[1] == 0
    unpriced = money.line(BOOK, "gasket", Decimal(2))
    assert (unpriced.price, unpriced.amount, unpriced.cost) == (None, 0, 0)


def judged(*verdicts):
    return [Judgement("a rule", verdict, (verdict.value,)) for verdict in verdicts]


def test_what_a_visit_asks_for_next():
    found = follow_ups(
        judged(Verdict.FLUSH, Verdict.REPLACE_VALVE, Verdict.FIT_REGULATOR),
        Looked(RodGrade.GONE, False, DrainFlow.NONE),
    )
    assert [one.what for one in found] == [
        FollowUp.RELIEF_VALVE,
        FollowUp.REGULATOR,
        FollowUp.ANODE,
        FollowUp.DRAIN_VALVE,
    ]
    assert found[0].why == ("replace_valve",)


def test_nothing_is_proposed_twice_or_in_vain():
    assert follow_ups(judged(Verdict.KEEP_VALVE), Looked(RodGrade.GONE, rod_replaced=True)) == []
    other = follow_ups(judged(Verdict.CHANGE_ALLOY), Looked(RodGrade.MOSTLY_GONE))
    assert [one.what for one in other] == [FollowUp.OTHER_ANODE]
    new = follow_ups(
        judged(Verdict.CHANGE_HEATER, Verdict.REPLACE_VALVE, Verdict.REPLACE_BEFORE_FAILURE, Verdict.CHANGE_ELEMENT),
        Looked(RodGrade.GONE),
    )
    # The valve protects until the new heater comes.
    assert [one.what for one in new] == [FollowUp.HEATER, FollowUp.RELIEF_VALVE]
