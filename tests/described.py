"""The API's description of itself, as tests draw from it: writing it takes seconds."""

import json
import re
from functools import lru_cache
from pathlib import Path
from typing import Any

from aquifer.api import api

KEPT = Path(__file__).parents[1] / "web" / "openapi.json"
"""What the browser's types are made from."""


@lru_cache
def description() -> Any:
    """What ``/api/openapi.json`` says."""
    return api.get_openapi_schema()


def now_and_kept(room: str) -> tuple[dict[str, Any], dict[str, Any]]:
    """What a room's doors take and give, as the code says it and as it is kept for the browser."""
    return _of_room(json.loads(json.dumps(description())), room), _of_room(json.loads(KEPT.read_text()), room)


def _of_room(described: dict[str, Any], room: str) -> dict[str, Any]:
    """By method and path each operation of a room, and every schema that one of them leads to."""
    found = {
        f"{method} {path}": operation
        for path, operations in described["paths"].items()
        for method, operation in operations.items()
        if operation["operationId"].startswith(f"aquifer_{room}_")
    }
    schemas = described["components"]["schemas"]
    ahead = [*found.values()]
    while ahead:
        for name in re.findall(r'"#/components/schemas/([^"]+)"', json.dumps(ahead.pop())):
            if name not in found:
                found[name] = schemas[name]
                ahead.append(schemas[name])
    return found
