"""Who may do what: one table, and the check that every route of the API names."""

from enum import StrEnum

from django.http import HttpRequest
from ninja.security import SessionAuth

from aquifer.accounts import tokens
from aquifer.accounts.models import Role, User
from aquifer.errors import NotAllowed


class Action(StrEnum):
    """What a role may do or not; its words are in ``SAYS``."""

    READ = "read"
    KEEP_VIEW = "keep_view"
    EDIT_REGISTER = "edit_register"
    RECORD_PLACE = "record_place"
    IMPORT = "import"
    TAKE_OUT = "take_out"
    FORGET = "forget"
    PLAN = "plan"
    SET_PRACTICE = "set_practice"
    SET_COMPANY = "set_company"
    KEEP_PEOPLE = "keep_people"
    KEEP_CREW = "keep_crew"
    KEEP_OWN_ACCOUNT = "keep_own_account"
    KEEP_PROGRAMS = "keep_programs"
    KEEP_PRICES = "keep_prices"
    COUNT = "count"
    PRACTISE = "practise"
    RECORD_VISIT = "record_visit"
    OVERRIDE = "override"
    RECORD_ALONE = "record_alone"


SAYS: dict[Action, str] = {
    Action.READ: "read",
    Action.KEEP_VIEW: "keep a view",
    Action.EDIT_REGISTER: "edit the register",
    Action.RECORD_PLACE: "record what stands at a site",
    Action.IMPORT: "import files",
    Action.TAKE_OUT: "take the whole base out",
    Action.FORGET: "have a customer forgotten",
    Action.PLAN: "plan the rounds",
    Action.SET_PRACTICE: "set the company's practice",
    Action.SET_COMPANY: "change the company's settings",
    Action.KEEP_PEOPLE: "keep the accounts of others",
    Action.KEEP_CREW: "keep the crew's hours and absences",
    Action.KEEP_OWN_ACCOUNT: "change your own account",
    Action.KEEP_PROGRAMS: "connect other programs",
    Action.KEEP_PRICES: "keep prices, plans and quotes",
    Action.COUNT: "count what is on a truck",
    Action.PRACTISE: "practise on the bench",
    Action.RECORD_VISIT: "record a visit",
    Action.OVERRIDE: "go on despite a held step",
    Action.RECORD_ALONE: "record a visit without a supervisor",
}
"""Each action as it is said to somebody who may not: your role may not ..."""

ALLOWED: dict[Role, frozenset[Action]] = {
    Role.LEAD: frozenset(Action),
    Role.PLANNER: frozenset(
        {
            Action.READ,
            Action.KEEP_VIEW,
            Action.PRACTISE,
            Action.EDIT_REGISTER,
            Action.RECORD_PLACE,
            Action.IMPORT,
            Action.PLAN,
            Action.KEEP_CREW,
            Action.KEEP_OWN_ACCOUNT,
            Action.KEEP_PRICES,
            Action.COUNT,
        }
    ),
    Role.TECHNICIAN: frozenset(
        {
            Action.READ,
            Action.KEEP_VIEW,
            Action.PRACTISE,
            Action.EDIT_REGISTER,
            Action.RECORD_PLACE,
            Action.KEEP_OWN_ACCOUNT,
            Action.COUNT,
            Action.RECORD_VISIT,
            Action.RECORD_ALONE,
        }
    ),
    Role.APPRENTICE: frozenset(
        {
            Action.READ,
            Action.KEEP_VIEW,
            Action.PRACTISE,
            Action.RECORD_PLACE,
            Action.KEEP_OWN_ACCOUNT,
            Action.COUNT,
            Action.RECORD_VISIT,
        }
    ),
}


PEOPLE_ONLY = frozenset(
    {Action.KEEP_PEOPLE, Action.KEEP_OWN_ACCOUNT, Action.KEEP_PROGRAMS, Action.TAKE_OUT, Action.FORGET}
)
"""What no token may, whoever's it is: a token that leaked makes no account and no other token."""


def may(role: str, action: Action) -> bool:
    """Whether someone of this role may do it."""
    return action in ALLOWED[Role(role)]


class SignedIn(SessionAuth):
    """A session, with Django's check against forged requests."""

    action = Action.READ

    def __call__(self, request: HttpRequest) -> User | None:
        sent = request.headers.get("Authorization", "")
        if not sent.startswith("Bearer "):
            user: User | None = super().__call__(request)
            return user
        token = tokens.found(sent.removeprefix("Bearer ").strip())
        if token is None:
            return None
        if self.action in PEOPLE_ONLY or (not token.may_write and request.method not in ("GET", "HEAD")):
            why = "only a person does that" if self.action in PEOPLE_ONLY else "it may only read"
            raise NotAllowed(f"This token may not {SAYS[self.action]}: {why}.")
        # Whatever keeps who wrote something takes it from the request.
        request.user = token.owner
        return self._may(token.owner)

    def authenticate(self, request: HttpRequest, key: str | None) -> User | None:
        user = super().authenticate(request, key)
        return None if user is None else self._may(user)

    def _may(self, user: User) -> User:
        if not may(user.role, self.action):
            raise NotAllowed(f"Your role ({Role(user.role).label.lower()}) may not {SAYS[self.action]}.")
        return user


def who(request: HttpRequest) -> User:
    """Whoever asks, on a route that is only for those who are signed in."""
    user = getattr(request, "auth", None)
    assert isinstance(user, User)
    return user


def allowed(action: Action) -> SignedIn:
    """The check for a route: signed in, and of a role that may do this."""
    check = SignedIn()
    check.action = action
    return check
