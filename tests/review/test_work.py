"""What the work was, year by year, counted by hand."""

import datetime

from aquifer.open_ends.models import OpenEnd
from aquifer.rounds.models import Appointment
from tests.conftest import FLUSH, VALVE, visit


def test_each_year_has_what_was_done_in_it_and_what_was_put_right_counts_once(as_role, forecasted):
    client, today = as_role("technician"), datetime.date.today()
    one, other = forecasted["heaters"][:2]
    last_year = today.replace(month=1, day=5, year=today.year - 1).isoformat()
    made = client.post("visits", visit(one.pk, FLUSH, VALVE, on=last_year)).json()
    client.post("visits", visit(other.pk, FLUSH, on=last_year))
    body = {
        "client_id": "7d1a4f0e-5b0c-4f39-9d0f-0d7f8d5a3c11",
        "findings": [{**FLUSH, "removed": "trace"}],
        "why": "x y",
    }
    assert client.post(f"visits/{made['id']}/amendments", body).status_code == 201
    client.post("visits", visit(one.pk, {"task": "anode_replacement", "alloy": "magnesium"}))
    monday = today - datetime.timedelta(days=today.weekday())
    Appointment.objects.create(
        site=one.site, week=monday, on=today, minutes=60, standing="promised", reason="emergency"
    )
    OpenEnd.objects.create(site=one.site, words="drip", raised_on=today)
    before, now = as_role("planner").get("review/work").json()[-2:]
    assert (before["year"], before["so_far"], before["visits"], before["heaters"]) == (today.year - 1, False, 2, 2)
    assert (before["flushes"], before["rods"], before["emergencies"]) == (2, 0, 0)
    assert (now["so_far"], now["visits"], now["rods"], now["flushes"]) == (True, 1, 1, 0)
    assert (now["emergencies"], now["open_issues"]) == (1, 1)
