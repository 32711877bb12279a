"""What a visit answers with, what its customer reads of it, and what the next visit begins from."""

import datetime

import pytest

from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import LeftAs
from aquifer.money.models import Quote
from aquifer.visiting import customer_words, stand
from aquifer.visits.models import Finding
from tests.conftest import FLUSH, visit
from tests.visits.test_report import STUCK, recorded

pytestmark = pytest.mark.django_db


def test_what_a_visit_asks_for_is_priced_at_the_door_and_once(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    sent = visit(heater.pk, STUCK)
    told = client.post("visits", sent).json()
    assert [one["licensed"] for one in told["follow_ups"]] == [True] and not told["already_recorded"]
    assert Quote.objects.filter(visit=told["id"]).count() == 1
    # Dropped by the office, it is not raised again by a device that sends the visit once more.
    Quote.objects.filter(visit=told["id"]).update(state="dropped")
    again = client.post("visits", sent)
    assert again.status_code == 200 and again.json()["already_recorded"] and again.json()["follow_ups"] == []
    assert Quote.objects.filter(visit=told["id"]).count() == 1 and again.json()["not_in_record"] == []


@pytest.mark.parametrize(("off", "words"), [(True, "It leaks at the seam"), (False, "")])
def test_a_heater_that_was_left_off_is_named_and_one_in_doubt_is_not(as_role, forecasted, off, words):
    heater = forecasted["heaters"][0]
    assert as_role("technician").post("visits", visit(heater.pk, FLUSH)).json()["left_off"] == ""
    now = datetime.datetime.now(datetime.UTC)
    LeftAs.objects.create(heater=heater, state={}, title="It leaks at the seam", off=off, at=now)
    sent = visit(heater.pk, FLUSH, on=(datetime.date.today() - datetime.timedelta(days=20)).isoformat())
    assert as_role("technician").post("visits", sent).json()["left_off"] == words


def test_what_stands_there_is_believed_as_shares_of_its_limits(forecasted):
    def forecast(component: Component, limit: float = 1.0, **state: float) -> Forecast:
        values = [value for one in state.values() for value in (0.0, one, 9.0)]
        return Forecast(component=component, limit_value=limit, state_names=list(state), state_values=values)

    told = stand.beliefs(
        [
            forecast(Component.SEDIMENT, 20.0, depth_mm=5.0), forecast(Component.SCALE, 0.4, thickness_mm=0.1),
            forecast(Component.ANODE, fraction_left=0.3), forecast(Component.RELIEF_VALVE, stuck=0.4),
        ]
    )  # fmt: skip
    assert told == pytest.approx({"deposit": 0.25, "scale": 0.25, "rod_gone": 0.7})
    over = stand.beliefs(
        [forecast(Component.SEDIMENT, 20.0, depth_mm=50.0), forecast(Component.ANODE, fraction_left=1.2)]
    )
    assert over == {"deposit": 1.0, "rod_gone": 0.0}


@pytest.mark.parametrize(
    ("before", "after", "said"),
    [
        (9.0, 2.0, ["It lay {length_mm:9.0} deep before, and {length_mm:2.0} after."]),
        (9.0, None, ["It lay {length_mm:9.0} deep before."]),
        (None, 0.0, ["It lay {length_mm:0.0} deep after."]),
        (0.0, 0.0, ["It lay {length_mm:0.0} deep before, and {length_mm:0.0} after."]),
        (None, None, []),
    ],
)
def test_depths_are_told_as_far_as_they_were_read_and_nothing_is_a_reading(before, after, said):
    assert customer_words._depths(Finding(depth_before_mm=before, depth_after_mm=after)) == said


@pytest.mark.parametrize(
    ("before", "after", "is_told"), [(6.0, 9.0, True), (6.0, None, False), (None, 9.0, False), (0.0, 9.0, True)]
)
def test_flows_are_told_where_both_were_read(before, after, is_told):
    said = customer_words._flows(Finding(flow_before_l_min=before, flow_after_l_min=after))
    assert said == ([f"Hot water runs with {{flow_l_min:{after}}} now, with {{flow_l_min:{before}}} before."] * is_told)


def test_a_look_of_an_older_visit_that_comes_late_does_not_open_again_what_was_seen_right_since(as_role, forecasted):
    heater, today = forecasted["heaters"][0], datetime.date.today()

    def looked(value: str, days_ago: int) -> None:
        step = {"kind": "answered", "step": "", "field": "relief.outlet", "value": value}
        recorded(as_role, heater, steps=[step], on=(today - datetime.timedelta(days=days_ago)).isoformat())

    def states() -> list[str]:
        # Those of the look alone: the same words within ten days are asked about, too.
        return sorted(heater.open_ends.filter(observation="relief.outlet").values_list("state", flat=True))

    looked("drips", 30)
    assert states() == ["open"]
    looked("dry", 3)
    assert states() == ["closed"]
    looked("drips", 9)
    assert states() == ["closed"]
    looked("drips", 1)
    assert states() == ["closed", "open"]
