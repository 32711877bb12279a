"""The API's description of itself, as tests draw from it: writing it takes seconds."""

from functools import lru_cache
from typing import Any

from aquifer.api import api


@lru_cache
def description() -> Any:
    """What ``/api/openapi.json`` says."""
    return api.get_openapi_schema()
