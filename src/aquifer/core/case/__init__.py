"""The open case format: one heater in, one forecast out. Reads strictly; every fault names its field.

- ``document``: the case's fields and their bounds
- ``fleet``: a case as a fleet of one
- ``answer``: its forecast as a document
"""

from aquifer.core.case.answer import FORECAST_FORMAT, answer, as_json
from aquifer.core.case.document import CASE_FORMAT, CASE_FORMATS, LARGEST_CASE_BYTES, MOST_EVENTS, Case, CaseError, read
from aquifer.core.case.fleet import as_fleet, installed_on, known_heaters, profile

ERROR_FORMAT = "aquifer-error/1"

__all__ = [
    "CASE_FORMAT",
    "CASE_FORMATS",
    "ERROR_FORMAT",
    "FORECAST_FORMAT",
    "LARGEST_CASE_BYTES",
    "MOST_EVENTS",
    "Case",
    "CaseError",
    "answer",
    "as_fleet",
    "as_json",
    "installed_on",
    "known_heaters",
    "profile",
    "read",
]
