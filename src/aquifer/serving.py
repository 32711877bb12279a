"""How Gunicorn serves; read by it: ``gunicorn --config python:aquifer.serving aquifer.wsgi``."""

import gc
import os
import tempfile
from typing import Any

from aquifer import environment
from aquifer.logs import configured

# Of pages and programs alone: what computes for long is a job. Read by the settings.
os.environ.setdefault("AQUIFER_STATEMENT_S", "30")

told = environment.read()
# While it is loaded nothing is thrown away: looking for it is a quarter of the time until it serves.
gc.disable()
# The figures of all processes of a server come together in a folder, where they are wanted.
if told.metrics_token:
    os.environ.setdefault("PROMETHEUS_MULTIPROC_DIR", tempfile.mkdtemp(prefix="aquifer-metrics-"))

bind = told.bind
# Several may listen at one place: of two the other answers while one begins anew.
reuse_port = told.share_port
workers = told.servers
worker_class = "aquifer.patience.Worker"
threads = told.threads
preload_app = True
timeout = 120
graceful_timeout = 30
"""Seconds in which what is under way is answered when it is told to end."""
keepalive = 5
max_requests, max_requests_jitter = 20_000, 2_000
forwarded_allow_ips = ",".join(told.proxies or ["127.0.0.1"])
accesslog = None
# Whoever runs it speaks to it by signals.
control_socket_disable = True
logconfig_dict = configured()


def when_ready(server: object) -> None:
    """What was loaded is everybody's and stays: it is looked through no more, and not copied for it."""
    gc.freeze()
    gc.enable()


def post_fork(server: object, worker: object) -> None:
    """What a process tells of itself, it tells by a thread of its own."""
    if told.traces_to:
        from aquifer import traces

        traces.begin("aquifer server", told.traces_to)


def child_exit(server: object, worker: Any) -> None:
    """What a process counted stays, and its present state goes with it."""
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        from prometheus_client.multiprocess import mark_process_dead

        mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
