"""A server of somebody else's, on this machine: it keeps what it was asked and answers what it is told to."""

import threading
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, HTTPServer


@dataclass
class Asked:
    method: str
    path: str
    headers: dict[str, str]
    body: bytes


@dataclass
class Elsewhere:
    address: str
    asked: list[Asked] = field(default_factory=list)
    answers: list[tuple[int, bytes]] = field(default_factory=list)
    """In turn; the last goes on for ever."""


@contextmanager
def elsewhere(*answers):
    """While it is entered it listens, and answers these in turn: (status, body)."""
    there = Elsewhere("", answers=list(answers) or [(200, b"{}")])

    class Handler(BaseHTTPRequestHandler):
        def answer(self):
            body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
            there.asked.append(
                Asked(self.command, self.path, {name.lower(): value for name, value in self.headers.items()}, body)
            )
            status, told = there.answers.pop(0) if len(there.answers) > 1 else there.answers[0]
            self.send_response(status)
            if 300 <= status < 400:
                self.send_header("Location", told.decode())
            self.send_header("Content-Length", str(len(told)))
            self.end_headers()
            self.wfile.write(told)

        do_GET = do_POST = answer  # noqa: N815 - as the library calls them

        def log_message(self, *args):
            pass

    server = HTTPServer(("127.0.0.1", 0), Handler)
    there.address = f"http://127.0.0.1:{server.server_port}"
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield there
    finally:
        server.shutdown()
        server.server_close()
