"""How Gunicorn serves; read by it: ``gunicorn --config python:aquifer.serving aquifer.wsgi``."""

import os

from aquifer.logs import configured

# Of pages and programs alone: what computes for long is a job. Read by the settings.
os.environ.setdefault("AQUIFER_STATEMENT_S", "30")

bind = os.environ.get("AQUIFER_BIND", "127.0.0.1:8000")
workers = int(os.environ.get("AQUIFER_SERVERS", "2"))
worker_class = "gthread"
threads = int(os.environ.get("AQUIFER_THREADS", "8"))
preload_app = True
timeout = 120
graceful_timeout = 30
"""Seconds in which what is under way is answered when it is told to end."""
keepalive = 5
max_requests, max_requests_jitter = 20_000, 2_000
forwarded_allow_ips = ",".join(os.environ.get("AQUIFER_PROXIES", "127.0.0.1").split())
accesslog = None
# Whoever runs it speaks to it by signals.
control_socket_disable = True
logconfig_dict = configured()
