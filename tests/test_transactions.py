"""Writes that meet each other, and a database that is busy or away."""

import errno
import threading
import uuid
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace

import psycopg
import pytest
from django.db import DataError, InterfaceError, InternalError, OperationalError, connections, transaction
from procrastinate.exceptions import ConnectorException

from aquifer import transactions
from aquifer.customers.models import Customer
from aquifer.imports.models import ImportRun
from aquifer.transactions import passes, retried
from aquifer.visits.models import Visit
from tests.conftest import FLUSH, visit


def of_postgres(kind, cause: psycopg.Error | None) -> Exception:
    error = kind("said")
    error.__cause__ = cause
    return error


def asked_for_a_job(error: Exception) -> Exception:
    """As the queue's own package tells what its database told it."""
    said = ConnectorException("said")
    said.__cause__ = error
    return said


def within(error: Exception) -> Exception:
    """As a transaction tells that something in it failed before."""
    said = transaction.TransactionManagementError("said")
    said.__cause__ = error
    return said


@pytest.mark.parametrize(
    ("error", "is_passing"),
    [
        (of_postgres(OperationalError, psycopg.errors.DeadlockDetected()), True),
        (of_postgres(OperationalError, psycopg.errors.LockNotAvailable()), True),
        (of_postgres(OperationalError, psycopg.errors.QueryCanceled()), True),
        (of_postgres(OperationalError, psycopg.errors.AdminShutdown()), True),
        (of_postgres(OperationalError, psycopg.errors.IoError()), True),
        (of_postgres(OperationalError, psycopg.errors.ProtocolViolation("server conn crashed?")), True),
        (of_postgres(OperationalError, psycopg.errors.ConnectionFailure()), True),
        (of_postgres(InternalError, psycopg.errors.ReadOnlySqlTransaction()), True),
        (of_postgres(OperationalError, psycopg.errors.UndefinedFile()), True),
        (of_postgres(OperationalError, psycopg.OperationalError("connection refused")), True),
        (of_postgres(InterfaceError, psycopg.InterfaceError("the connection is closed")), True),
        (asked_for_a_job(of_postgres(OperationalError, psycopg.errors.AdminShutdown())), True),
        (asked_for_a_job(of_postgres(OperationalError, psycopg.OperationalError("the connection is lost"))), True),
        (psycopg.OperationalError("the connection is lost"), True),
        (psycopg.errors.AdminShutdown(), True),
        (psycopg.errors.DiskFull(), False),
        (within(of_postgres(OperationalError, psycopg.errors.AdminShutdown())), True),
        (within(of_postgres(DataError, psycopg.errors.NumericValueOutOfRange())), False),
        (asked_for_a_job(of_postgres(DataError, psycopg.errors.NumericValueOutOfRange())), False),
        (of_postgres(OperationalError, psycopg.errors.DiskFull()), False),
        (of_postgres(DataError, psycopg.errors.NumericValueOutOfRange()), False),
        (ValueError("no database"), False),
        (None, False),
    ],
)
def test_what_passes_by_itself_is_told_from_what_is_wrong(error, is_passing):
    assert passes(error) is is_passing


@pytest.mark.django_db(transaction=True)
def test_two_who_wait_for_each_other_both_get_through():
    """Locked against each other's order, which the database ends by undoing one of them."""
    first, second = (Customer.objects.create(code=code, name=code) for code in ("C1", "C2"))
    met = threading.Barrier(2, timeout=20)
    tries = []

    @retried
    def rename(customers: list[Customer], name: str) -> None:
        tries.append(name)
        with transaction.atomic():
            Customer.objects.select_for_update().get(pk=customers[0].pk)
            if tries.count(name) == 1:
                met.wait()
            Customer.objects.select_for_update().get(pk=customers[1].pk)
            Customer.objects.filter(pk__in=[one.pk for one in customers]).update(name=name)

    def alone(order_and_name) -> None:
        try:
            rename(*order_and_name)
        finally:
            connections.close_all()

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(alone, [([first, second], "a"), ([second, first], "b")]))
    assert sorted(set(tries)) == ["a", "b"] and len(tries) == 3
    assert len(set(Customer.objects.values_list("name", flat=True))) == 1


def test_a_fault_of_ours_and_an_endless_one_are_told(monkeypatch):
    outside, within = SimpleNamespace(in_atomic_block=False), SimpleNamespace(in_atomic_block=True)
    monkeypatch.setattr(transactions.time, "sleep", lambda _: None)
    calls = []

    @retried
    def fails(kind: type[psycopg.Error]) -> None:
        calls.append(kind)
        raise of_postgres(OperationalError, kind())

    monkeypatch.setattr(transactions, "connection", outside)
    for kind, often in ((psycopg.errors.DiskFull, 1), (psycopg.errors.SerializationFailure, transactions.TRIES)):
        with pytest.raises(OperationalError):
            fails(kind)
        assert calls.count(kind) == often
    monkeypatch.setattr(transactions, "connection", within)
    with pytest.raises(OperationalError):
        fails(psycopg.errors.DeadlockDetected)
    assert calls.count(psycopg.errors.DeadlockDetected) == 1


def refuses(*_: object, **__: object) -> None:
    raise of_postgres(OperationalError, psycopg.OperationalError("connection refused"))


@pytest.mark.parametrize("path", ["/api/me", "/outlook", "/sign-in"])
def test_a_database_that_is_away_is_told_in_words(as_role, monkeypatch, path):
    client = as_role("technician").raw
    client.raise_request_exception = False
    with monkeypatch.context() as away:
        away.setattr("django.db.backends.utils.CursorWrapper.execute", refuses)
        away.setattr("aquifer.prepared.Prepared.rows", refuses)
        answer = client.get(path)
    assert (answer.status_code, answer["Retry-After"]) == (503, "5")
    assert "try again" in answer.content.decode().lower()
    assert "unexpected" not in answer.content.decode()


def test_a_visit_whose_job_met_a_database_that_went_away_is_to_be_sent_again(as_role, forecasted, monkeypatch):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    client.raw.raise_request_exception = False
    body = visit(heater.pk, FLUSH)

    def goes(*_: object, **__: object) -> None:
        raise asked_for_a_job(of_postgres(OperationalError, psycopg.OperationalError("the connection is lost")))

    with monkeypatch.context() as away:
        away.setattr("aquifer.visiting.record.raise_quotes.defer", goes)
        told = client.post("visits", body)
    assert (told.status_code, told.json()["code"], told.headers["Retry-After"]) == (503, "try_again", "5")
    assert not Visit.objects.filter(heater=heater).exists()
    assert client.post("visits", body).status_code == 201 and Visit.objects.filter(heater=heater).count() == 1


@pytest.mark.parametrize(("raised", "status"), [(InterfaceError("closed"), 503), (ValueError("a fault of ours"), 500)])
def test_an_answer_that_was_left_without_the_database_is_to_be_asked_for_again(
    as_role, base, monkeypatch, raised, status
):
    client = as_role("lead").raw
    client.raise_request_exception = False
    run = ImportRun.objects.create(kind="customers", file_name="a.csv", data=b"")

    def breaks(_: ImportRun) -> str:
        raise raised

    monkeypatch.setattr(ImportRun, "by", property(breaks))
    assert client.get(f"/api/imports/{run.pk}").status_code == status


def test_a_fault_of_the_server_is_no_busy_database(as_role, monkeypatch):
    client = as_role("technician").raw
    client.raise_request_exception = False
    monkeypatch.setattr("aquifer.pages.settings.WEB", None)
    answer = client.get("/outlook")
    assert answer.status_code == 500 and "noted why" in answer.content.decode()


@pytest.mark.parametrize(
    "error",
    [OSError(errno.ENOSPC, "No space left on device"), of_postgres(OperationalError, psycopg.errors.DiskFull())],
)
def test_a_full_disk_is_told_in_words_and_nothing_of_it_is_a_fault_of_ours(as_role, monkeypatch, error):
    def fails(*args, **named):
        raise error

    client = as_role("technician")
    client.raw.raise_request_exception = False
    monkeypatch.setattr("aquifer.visiting.event_log.sync", fails)
    answer = client.post("visits/sessions", {"client_id": str(uuid.uuid4()), "heater_id": 1, "components": [],
                                             "device": str(uuid.uuid4()), "events": []})  # fmt: skip
    assert answer.status_code == 503 and answer["Retry-After"]
    assert answer.json()["code"] == "no_room" and "disk is full" in answer.json()["message"]
    monkeypatch.setattr("aquifer.pages.sends", fails)
    page = client.raw.get("/password-forgotten")
    assert page.status_code == 503 and "disk is full" in page.content.decode()


def test_another_fault_of_a_file_is_a_fault(as_role, monkeypatch):
    def fails(*args, **named):
        raise FileNotFoundError(errno.ENOENT, "gone")

    client = as_role("technician")
    client.raw.raise_request_exception = False
    monkeypatch.setattr("aquifer.visiting.event_log.sync", fails)
    answer = client.post("visits/sessions", {"client_id": str(uuid.uuid4()), "heater_id": 1, "components": [],
                                             "device": str(uuid.uuid4()), "events": []})  # fmt: skip
    assert answer.status_code == 500
