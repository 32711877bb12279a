"""Who may do what, written out once more: each role against each action."""

import pytest

from aquifer.accounts.access import SAYS, Action, may
from aquifer.accounts.models import Role

TABLE = {
    #                 lead planner technician apprentice
    "read":           "yes yes yes yes",
    "keep_view":      "yes yes yes yes",
    "edit_register":  "yes yes yes no",
    "record_place":   "yes yes yes yes",
    "import":         "yes yes no  no",
    "take_out":       "yes no  no  no",
    "forget":         "yes no  no  no",
    "plan":           "yes yes no  no",
    "set_practice":   "yes no  no  no",
    "set_company":    "yes no  no  no",
    "keep_people":    "yes no  no  no",
    "keep_crew":      "yes yes no  no",
    "keep_own_account": "yes yes yes yes",
    "keep_programs":  "yes no  no  no",
    "keep_prices":    "yes yes no  no",
    "count":          "yes yes yes yes",
    "practise":       "yes yes yes yes",
    "record_visit":   "yes no  yes yes",
    "override":       "yes no  no  no",
    "record_alone":   "yes no  yes no",
}  # fmt: skip
ROLES = (Role.LEAD, Role.PLANNER, Role.TECHNICIAN, Role.APPRENTICE)
CELLS = [
    (action, role, word == "yes")
    for action, row in TABLE.items()
    for role, word in zip(ROLES, row.split(), strict=True)
]


def test_the_table_has_every_action_and_role_and_each_action_its_words():
    assert set(TABLE) == {one.value for one in Action} and set(ROLES) == set(Role)
    assert set(SAYS) == set(Action) and len(set(SAYS.values())) == len(Action)


@pytest.mark.parametrize(("action", "role", "allowed"), CELLS)
def test_a_role_may_do_what_the_table_says_and_nothing_else(action, role, allowed):
    assert may(role, Action(action)) is allowed


def test_who_may_not_is_told_what_in_words(as_role, base):
    answer = as_role("apprentice").post(f"heaters/{base['heaters'][0].pk}/archive")
    assert answer.status_code == 403
    assert answer.json()["message"] == "Your role (apprentice) may not edit the register."
