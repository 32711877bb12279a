"""Which records keep a history, and how each is named to a person."""

from dataclasses import dataclass

from django.db.models import Model

from aquifer.accounts.access import Action
from aquifer.accounts.models import User
from aquifer.attachments.models import Attachment
from aquifer.company.models import Company
from aquifer.customers.models import Customer, Site
from aquifer.heaters.models import Heater, Part, SerialPattern
from aquifer.money.models import ContractPlan, MoneySettings, Price
from aquifer.open_ends.models import Campaign, OpenEnd
from aquifer.places.models import Feature
from aquifer.programs.models import Hook
from aquifer.rounds.models import Absence, Appointment, CrewMember, Loan
from aquifer.stock.models import StockSettings
from aquifer.water.models import Season, Zone
from aquifer.workbench.models import Asked


@dataclass(frozen=True)
class Kept:
    model: type[Model]
    name: str
    of_heater: str = ""
    """The field by which it belongs to a heater."""
    of_site: str = ""
    of_zone: str = ""
    needs: Action = Action.EDIT_REGISTER
    """The right that taking a change back needs: that of making it."""
    of_settings: bool = False


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
    Kept(Appointment, "visit planned", of_site="site_id", needs=Action.PLAN),
    Kept(Company, "company", needs=Action.SET_COMPANY, of_settings=True),
    Kept(User, "account", needs=Action.KEEP_PEOPLE, of_settings=True),
    Kept(CrewMember, "working week", needs=Action.KEEP_CREW, of_settings=True),
    Kept(Absence, "absence", needs=Action.KEEP_CREW, of_settings=True),
    Kept(Loan, "loan of a tool", needs=Action.KEEP_CREW, of_settings=True),
    Kept(Hook, "address told", needs=Action.KEEP_PROGRAMS, of_settings=True),
    Kept(MoneySettings, "money", needs=Action.KEEP_PRICES, of_settings=True),
    Kept(Price, "price", needs=Action.KEEP_PRICES, of_settings=True),
    Kept(ContractPlan, "plan", needs=Action.KEEP_PRICES, of_settings=True),
    Kept(StockSettings, "stock settings", needs=Action.PLAN, of_settings=True),
    Kept(Asked, "asked before a sign-off", needs=Action.KEEP_PEOPLE, of_settings=True),
    Kept(SerialPattern, "maker's serials", of_settings=True),
)
TELLING = {
    "part": "kind",
    "attachment": "caption",
    "feature": "kind",
    "open issue": "words",
    "heater": "tag",
    "season": "name",
    "account": "username",
    "working week": "user",
    "absence": "why",
    "address told": "address",
    "price": "words",
    "plan": "name",
}
"""The field that says which one it was."""
_STAMPS = ("version", "updated_at", "changed_at", "created_at", "added_at")
_OF_THE_RECORD = (*_STAMPS, "raised_by", "added_by", "digest", "words")
UNSAID = frozenset(_OF_THE_RECORD) | {"heater", "feature", "campaign"}
"""Fields whose change says nothing to a person; the words of an open end are its name already."""
