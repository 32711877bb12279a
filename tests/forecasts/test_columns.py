"""Columns to the database and back: every width, gap and extreme comes out as it went in."""

import datetime

import numpy as np
import pytest
from django.utils import timezone
from psycopg.errors import DataError, NotNullViolation

from aquifer.core.vocabulary import Component, DecidedBy, Method
from aquifer.forecasts.columns import (
    Block,
    Days,
    Lists,
    Numbers,
    Reading,
    Same,
    Words,
    day,
    number,
    position,
    read_columns,
    whole,
    word,
    write_columns,
)
from aquifer.forecasts.models import Forecast, Gap
from aquifer.heaters.models import Heater

NOW = timezone.now()
DAYS = np.array(["2026-11-25", "NaT", "1970-01-01", "2999-12-31"], dtype="datetime64[D]")


def written(heater: Heater, **other: object) -> list[Forecast]:
    """Four forecasts of one heater, superseded so that there may be four."""
    four = np.arange(4)
    figures = ("probability_today", "benefit", "over_after_service", "limit_value", "log_theta", "log_theta_sd")
    columns = {
        "heater": Numbers(np.full(4, heater.pk), ">i8"),
        "heater_version": Numbers(four, ">i4"),
        "last_finding": Numbers(np.full(4, 2**40), ">i8"),
        "reached_days": Lists(np.array([[0, 1, -1], [-1, -1, -1], [5, 6, 7], [0, 0, 2_000_000]]), is_whole=True),
        "due_on": Days(DAYS),
        "latest_on": Days(DAYS[::-1]),
        "decided_by": Words(four % 3, [one.value for one in DecidedBy]),
        "method": Words(np.array([3, 0, 3, 1]), [one.value for one in Method]),
        **{name: Numbers(np.array([0.0, -1.5, 1e-300, 1e300]), ">f8") for name in figures},
        "rate": Lists(np.arange(12).reshape(4, 3) / 7),
        "state_names": Same(["depth_mm", "größe"]),
        "state_values": Lists(np.zeros((4, 6))),
        "factors": Same(["usage"]),
        "factor_ratios": Lists(np.ones((4, 1))),
        "factor_days": Lists(np.full((4, 1), -3.0)),
        "component": Same(Component.SEDIMENT.value),
        "rate_unit": Same("kg/year"),
        "model_version": Same("1"),
        "as_of": Same(datetime.date(2026, 11, 25)),
        "computed_at": Same(NOW),
        "superseded_at": Same(NOW),
    }
    write_columns(Forecast, Block({**columns, **other}, 4))
    return list(Forecast.objects.order_by("heater_version"))


@pytest.fixture
def heater(base) -> Heater:
    return base["heaters"][0]


def test_what_is_written_is_read_by_the_orm(heater):
    rows = written(heater)
    assert [one.due_on for one in rows] == [
        datetime.date(2026, 11, 25),
        None,
        datetime.date(1970, 1, 1),
        datetime.date(2999, 12, 31),
    ]
    assert [one.reached_days for one in rows] == [[0, 1, None], [None] * 3, [5, 6, 7], [0, 0, 2_000_000]]
    assert [one.method for one in rows] == [list(Method)[at].value for at in (3, 0, 3, 1)]
    assert [one.benefit for one in rows] == [0.0, -1.5, 1e-300, 1e300]
    assert rows[1].rate == [3 / 7, 4 / 7, 5 / 7]
    assert {tuple(one.state_names) for one in rows} == {("depth_mm", "größe")}
    assert {(one.as_of, one.computed_at, one.last_finding) for one in rows} == {
        (datetime.date(2026, 11, 25), NOW, 2**40)
    }


def test_what_is_written_is_read_as_columns(heater):
    written(heater)
    found = read_columns(
        Forecast.objects.order_by("heater_version"),
        {
            "version": whole("heater_version"),
            "due": day("due_on"),
            "method": word("method", Method),
            "model": position("model_version", ["0", "1"]),
            "theta": number("log_theta"),
        },
    )
    assert found["version"].tolist() == [0, 1, 2, 3]
    assert (np.isnat(found["due"]) == np.isnat(DAYS)).all()
    assert found["due"][[0, 2, 3]].tolist() == DAYS[[0, 2, 3]].tolist()
    assert found["method"].tolist() == [3, 0, 3, 1] and found["model"].tolist() == [1, 1, 1, 1]
    assert found["theta"].tolist() == [0.0, -1.5, 1e-300, 1e300]


FOUND = Reading(
    Forecast.objects.order_by(),
    {"heater": whole("heater_id"), "version": whole("heater_version"), "method": position("method")},
    by="heater",
)
"""Kept, so that its query is compiled once for all that follows."""


def test_a_kept_reading_tells_the_rows_that_are_asked_for_and_words_as_they_are_told(base):
    one, other = base["heaters"][:2]
    written(one)
    written(other)
    ids = np.array([other.pk])
    assert set(FOUND.read(ids, {"method": ["replace"]})["heater"]) == {other.pk}
    methods = [member.value for member in Method]
    found = FOUND.read(Heater.objects.filter(tag=one.tag), {"method": methods})
    order = np.argsort(found["version"])
    assert found["method"][order].tolist() == [3, 0, 3, 1] and set(found["heater"]) == {one.pk}
    # Asked for anew with other words the same rows have other positions, and of none of them -1.
    again = FOUND.read(ids, {"method": [methods[3], "a word that no row has"]})
    assert sorted(again["method"]) == [-1, -1, 0, 0]
    assert FOUND.read(ids, {"method": []})["method"].tolist() == [-1] * 4
    assert FOUND.read(None, {"method": methods})["heater"].size == 8


def test_a_kept_reading_of_nobody_is_empty_and_asks_no_more_than_once(base, django_assert_num_queries):
    written(base["heaters"][0])
    with django_assert_num_queries(0):
        # What can match nothing is not asked for.
        assert FOUND.read(Heater.objects.none(), {"method": []})["heater"].size == 0
    assert FOUND.read(np.zeros(0, dtype=np.int64), {"method": []})["heater"].size == 0
    assert FOUND.read(np.array([-5]), {"method": []})["version"].size == 0


def test_a_reading_says_what_it_lacks_before_anything_is_asked(base, django_assert_num_queries):
    bare = Reading(Forecast.objects.all(), {"version": whole("heater_version"), "method": position("method")})
    with django_assert_num_queries(0):
        with pytest.raises(ValueError, match="no column by which"):
            bare.read(np.array([1]), {"method": []})
        with pytest.raises(KeyError, match="method"):
            bare.read()


def test_blocks_of_several_widths_are_one_copy(heater):
    def block(kind: str, days: float, rows: int = 1) -> Block:
        columns = {
            "heater": Numbers(np.full(rows, heater.pk), ">i8"),
            "kind": Same(kind),
            "days": Numbers(np.full(rows, days), ">f8"),
        }
        return Block(columns, rows)

    write_columns(Gap, block("age", 3.0), block("flushes", 41.5), block("use", 0.0, rows=0))
    assert list(Gap.objects.order_by("kind").values_list("kind", "days")) == [("age", 3.0), ("flushes", 41.5)]
    turned = Block(dict(reversed(block("use", 1.0).columns.items())), 1)
    with pytest.raises(ValueError, match="same columns in the same order"):
        write_columns(Gap, block("water", 3.0), turned)


def test_no_rows_are_no_copy(heater, django_assert_num_queries):
    with django_assert_num_queries(0):
        write_columns(Forecast, Block({"heater": Numbers(np.zeros(0), ">i8")}, 0))


@pytest.mark.django_db(transaction=True)
def test_what_the_table_refuses_leaves_nothing_behind(heater):
    with pytest.raises(Exception) as caught:
        written(heater, decided_by=Words(np.array([0, 0, 0, 1]), ["tolerance", "a word that is longer than allowed"]))
    assert isinstance(caught.value.__cause__ or caught.value, DataError | NotNullViolation)
    assert not Forecast.objects.filter(last_finding=2**40).exists()
