"""Which records keep a history, and how each is named to a person."""

from dataclasses import dataclass
from typing import Any

from aquifer.attachments.models import Attachment
from aquifer.customers.models import Customer, Site
from aquifer.heaters.models import Heater, Part
from aquifer.open_ends.models import Campaign, OpenEnd
from aquifer.places.models import Feature
from aquifer.rounds.models import Appointment
from aquifer.water.models import Season, Zone


@dataclass(frozen=True)
class Kept:
    model: Any
    name: str
    of_heater: str = ""
    """The field by which it belongs to a heater."""
    of_site: str = ""
    of_zone: str = ""


KEPT = (
    Kept(Heater, "heater", "id", "site_id"),
    Kept(Part, "part", "heater_id"),
    Kept(Feature, "feature", "heater_id", "site_id"),
    Kept(OpenEnd, "open issue", "heater_id", "site_id"),
    Kept(Attachment, "attachment", "heater_id", "site_id"),
    Kept(Site, "site", "", "id"),
    Kept(Customer, "customer"),
    Kept(Zone, "zone", of_zone="id"),
    Kept(Season, "season", of_zone="zone_id"),
    Kept(Campaign, "campaign"),
    Kept(Appointment, "visit planned", of_site="site_id"),
)
TELLING = {
    "part": "kind",
    "attachment": "caption",
    "feature": "kind",
    "open issue": "words",
    "heater": "tag",
    "season": "name",
}
"""The field that says which one it was."""
_OF_THE_RECORD = ("version", "updated_at", "created_at", "raised_by", "added_by", "added_at", "digest", "words")
UNSAID = frozenset(_OF_THE_RECORD) | {"heater", "feature", "campaign"}
"""Fields whose change says nothing to a person; the words of an open end are its name already."""
