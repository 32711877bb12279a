"""How long a request may take to arrive. Whoever sends slowly holds a thread: never the last one, and not for ever.

A web server before this one takes requests whole; without it a few senders that dribble would otherwise stop all
others. Read by Gunicorn as its kind of worker.
"""

import os
import socket
import threading
import time
from contextlib import suppress
from dataclasses import dataclass

from gunicorn.http.message import Request
from gunicorn.workers.gthread import TConn, ThreadWorker

HEAD_S = 10.0
"""For the first line and the headers. Assumption: a few packets of a slow telephone."""
BODY_S, SLOWEST_B_S = 20.0, 16_000.0
"""For a body, and besides for each so many bytes: a photograph of 4 MB has four minutes. Assumption: a weak signal."""
WHILE_OTHERS_WAIT_S = 2.0
"""So long at least, where it would hold the last free thread. Assumption."""
LOOKS_EVERY_S = 0.25
ALONE_S = 10.0
"""So long one that shares its port goes on without the process that started it: twice what another takes to begin on a
busy machine, as measured (``scripts/kills.py``)."""


@dataclass
class Arriving:
    """A request that is being read."""

    sock: socket.socket
    begun: float
    until: float
    body: object = None
    """What counts the bytes that are still to come, once the headers are here."""
    answers: bool = False
    """It has no body: it is being answered."""

    @property
    def is_read(self) -> bool:
        return self.answers or getattr(self.body, "length", None) == 0


def too_slow(arriving: list[Arriving], threads: int, now: float) -> list[Arriving]:
    """Those that are waited for no longer: whose time is over, and the longest while they would hold the last free
    thread."""
    waited = sorted((one for one in arriving if not one.is_read), key=lambda one: one.begun)
    over = [one for one in waited if now > one.until]
    left = [one for one in waited if now <= one.until]
    free = threads - 1
    held = [one for one in left if now - one.begun > WHILE_OTHERS_WAIT_S]
    return over + held[: max(len(left) - free + 1, 0)]


class Worker(ThreadWorker):
    """Threads that wait for no request longer than it is worth."""

    def init_process(self) -> None:
        self.arriving: dict[int, Arriving] = {}
        self.alone_since: float | None = None
        threading.Thread(target=self._watch, name="patience", daemon=True).start()
        super().init_process()

    def is_parent_alive(self) -> bool:
        """Whether to go on. Whoever lost the process that started it leaves the port to others at once, who would wait
        for it as long as its slowest sender does; where several share a port, it goes on until another is there."""
        if self.ppid == os.getppid():
            return True
        self.alone_since = self.alone_since or time.monotonic()
        if self.cfg.reuse_port and time.monotonic() - self.alone_since < ALONE_S:
            return True
        self.set_accept_enabled(False)
        for listener in self.sockets:
            listener.close()
        return bool(super().is_parent_alive())

    def handle(self, conn: TConn) -> bool:
        now = time.monotonic()
        self.arriving[id(conn)] = Arriving(conn.sock, now, now + HEAD_S)
        try:
            return super().handle(conn)
        finally:
            self.arriving.pop(id(conn), None)

    def handle_request(self, req: Request, conn: TConn) -> bool:
        one = self.arriving.get(id(conn))
        if one is not None:
            body = getattr(req.body, "reader", None)
            length = getattr(body, "length", 0)
            one.until = time.monotonic() + BODY_S + length / SLOWEST_B_S
            one.body, one.answers = body, not length
        return super().handle_request(req, conn)

    def _watch(self) -> None:
        while True:
            time.sleep(LOOKS_EVERY_S)
            for one in too_slow(list(self.arriving.values()), self.cfg.threads, time.monotonic()):
                # Whoever reads from it is told that nothing more comes.
                with suppress(OSError):
                    one.sock.shutdown(socket.SHUT_RDWR)
