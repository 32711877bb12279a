"""Customers: their numbers are changed, they are found by them, and a site goes to somebody else."""

import datetime

import pytest

from aquifer.outbox.models import Known, Message
from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember


def test_a_number_is_changed_and_found_by_at_once(as_role, forecasted):
    client, site = as_role("planner"), forecasted["sites"][0]
    known = client.get(f"customers/{site.customer_id}").json()
    body = {**{name: known[name] for name in ("name", "version")}, "phone": "555 0188", "email": "new@example.com"}
    changed = client.patch(f"customers/{site.customer_id}", body)
    assert changed.status_code == 200 and changed.json()["phone"] == "555 0188"
    assert any(one["site_id"] == site.pk for one in client.get("find?q=5550188").json()["heaters"])
    stale = client.patch(f"customers/{site.customer_id}", {**body, "phone": "555 0199"})
    assert stale.status_code == 409 and "phone is now 555 0188" in stale.json()["message"]


@pytest.mark.parametrize(("body", "status"), [({"name": " "}, 422), ({"name": "A", "email": "nobody"}, 422)])
def test_what_cannot_be_of_a_customer_is_refused(as_role, forecasted, body, status):
    client, pk = as_role("planner"), forecasted["sites"][0].customer_id
    assert client.patch(f"customers/{pk}", body).status_code == status
    assert client.patch("customers/999999", {"name": "A"}).status_code == 404


def test_a_sold_house_has_a_new_customer_with_whom_nothing_is_agreed(as_role, forecasted, people):
    client, site = as_role("planner"), forecasted["sites"][0]
    before = site.customer
    member = CrewMember.objects.create(user=people["technician"])
    on = datetime.date.today() + datetime.timedelta(days=9)
    one = Appointment.objects.create(
        site=site, week=on - datetime.timedelta(days=on.weekday()), on=on, member=member, begins=600, minutes=60
    )
    client.post(f"rounds/appointments/{one.pk}/standing", {"version": 1, "standing": "promised"})
    assert Known.objects.filter(appointment=one).exists()
    told = client.post(f"sites/{site.pk}/customer", {"name": "Ines Halvorsen", "phone": "555 0166"}).json()
    assert (told["site"]["customer"], told["site"]["phone"]) == ("Ines Halvorsen", "555 0166")
    one.refresh_from_db()
    assert (one.standing, one.on, one.earliest) == (AppointmentStatus.KEPT, on, None) and "agree it anew" in one.note
    assert not Known.objects.exists() and not Message.objects.exists()
    before.refresh_from_db()
    assert before.name != "Ines Halvorsen"
