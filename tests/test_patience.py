"""Slow senders hold some threads for some seconds, and never all of them."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import ExitStack, suppress
from pathlib import Path
from types import SimpleNamespace

import pytest

from aquifer.patience import ALONE_S, BODY_S, HEAD_S, SLOWEST_B_S, WHILE_OTHERS_WAIT_S, Arriving, too_slow

ROOT = Path(__file__).parents[1]
THREADS = 4


def one(begun: float, until: float = 1000.0, left: int = 10) -> Arriving:
    return Arriving(None, begun, until, SimpleNamespace(length=left))


def test_whose_time_is_over_is_waited_for_no_longer():
    late, early = one(0.0, until=9.0), one(1.0, until=11.0)
    assert too_slow([early, late], 8, 10.0) == [late]
    assert too_slow([early, late], 8, 8.9) == []


def test_of_those_that_would_hold_the_last_thread_the_longest_goes():
    first, second, third = one(1.0), one(2.0), one(3.0)
    assert too_slow([third, first, second], 5, 100.0) == []
    assert too_slow([third, first, second], 4, 100.0) == [first]
    assert too_slow([third, first, second], 3, 100.0) == [first, second]
    # Nobody who came just now.
    assert too_slow([third, first, second], 3, 2.0 + WHILE_OTHERS_WAIT_S) == [first]


def test_what_has_arrived_and_is_answered_for_long_is_left_alone():
    whole, bodiless = one(0.0, until=1.0, left=0), Arriving(None, 0.0, 1.0, None, answers=True)
    assert too_slow([whole, bodiless], 1, 100.0) == []


def started(*more: str) -> tuple[subprocess.Popen, int]:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    run = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "-k", "aquifer.patience.Worker", "-w", "1", "--threads", str(THREADS),
         "-b", f"127.0.0.1:{port}", "--log-level", "error", *more, "tests.slow_app:app"],
        cwd=ROOT, env={**os.environ, "PYTHONPATH": f"{ROOT}:{ROOT}/src"},
    )  # fmt: skip
    until = time.monotonic() + 20
    while time.monotonic() < until:
        with suppress(OSError):
            asked(port)
            break
        time.sleep(0.05)
    return run, port


@pytest.fixture(scope="module")
def server():
    run, port = started()
    yield port
    run.terminate()
    run.wait(10)


def asked(port: int, body: bytes | None = None) -> bytes:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/", data=body, timeout=WHILE_OTHERS_WAIT_S + 6) as answer:
        return answer.read()


@pytest.mark.parametrize(
    "sent", [b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 60000\r\n\r\nslow", b"GET / HTTP/1.1\r\nHost: x\r\nX-"]
)
def test_others_are_answered_while_every_thread_is_sent_to_slowly(server, sent):
    with ExitStack() as held:
        for _ in range(3 * THREADS):
            slow = held.enter_context(socket.create_connection(("127.0.0.1", server), 2))
            slow.sendall(sent)
        for _ in range(3):
            assert asked(server) == b"0" and asked(server, b"x" * 5000) == b"5000"


def test_a_body_that_comes_in_pieces_and_in_time_arrives(server):
    with socket.create_connection(("127.0.0.1", server), 5) as slow:
        slow.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Length: 40\r\n\r\n")
        for _ in range(4):
            time.sleep(0.8)
            slow.sendall(b"0123456789")
        assert slow.makefile("rb").read().endswith(b"40")


def test_a_photograph_over_a_weak_signal_has_minutes_and_a_head_has_seconds():
    assert BODY_S + 4_000_000 / SLOWEST_B_S > 240 and HEAD_S < 30


def test_who_lost_the_process_that_started_it_leaves_the_port_to_others():
    run, port = started()
    with socket.create_connection(("127.0.0.1", port), 2) as slow:
        slow.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 60000\r\n\r\nslow")
        time.sleep(0.3)
        run.kill()
        run.wait(5)
        until = time.monotonic() + 5
        while True:
            with socket.socket() as other:
                other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                with suppress(OSError):
                    other.bind(("127.0.0.1", port))
                    other.listen()
                    break
            assert time.monotonic() < until, "the port is still held"
            time.sleep(0.1)


def test_who_shares_the_port_goes_on_alone_until_another_has_begun_and_not_for_ever():
    run, port = started("--reuse-port")
    run.kill()
    run.wait(5)
    begun = time.monotonic()
    with suppress(OSError):
        while time.monotonic() < begun + 2 * ALONE_S:
            assert asked(port) == b"0"
            time.sleep(0.1)
    assert ALONE_S / 2 < time.monotonic() - begun < 2 * ALONE_S
