"""What a company sets of itself holds at once, for everybody it concerns, and is on record with who and when."""

import datetime
import io

import pytest
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from PIL import Image

from aquifer.company.models import Company
from aquifer.forecasts.models import Forecast
from aquifer.history.begin import with_what_there_is
from aquifer.outbox import links, write


def picture(size=(1200, 300), mode="RGBA", colour=(0, 0, 0, 0)):
    out = io.BytesIO()
    Image.new(mode, size, colour).save(out, "PNG")
    return out.getvalue()


def test_settings_are_read_by_all_and_changed_by_the_lead_alone(as_role):
    for role, may in (("lead", True), ("planner", False), ("technician", False), ("apprentice", False)):
        client = as_role(role)
        assert client.get("settings/company").json()["may_change"] is may
        answer = client.patch("settings/company", {"name": f"{role}'s"})
        assert answer.status_code == (200 if may else 403)
    assert Company.current().name == "lead's"


def test_units_and_clock_and_zone_hold_for_the_next_request(as_role):
    lead = as_role("lead")
    told = lead.patch(
        "settings/company", {"units": "us", "hardness_unit": "gpg", "time_zone": "America/Denver", "clock": "12"}
    ).json()
    assert (told["units"], told["hardness_unit"], told["time_zone"]) == ("us", "gpg", "America/Denver")
    shown = as_role("technician").get("company").json()
    assert shown["units"]["volume_l"]["label"] == "gal" and shown["timezone"] == "America/Denver"
    assert shown["clock"] == "12"
    one = type("Offered", (), {"on": datetime.date(2026, 12, 1), "earliest": 30, "latest": 13 * 60 + 15})
    assert write.times(one) == "Tuesday 1 December, beginning between 12:30 am and 1:15 pm"


@pytest.mark.parametrize(
    ("sent", "field"),
    [
        ({"time_zone": "Mars/Olympus"}, "time_zone"), ({"tolerance": 1.5}, "tolerance"), ({"name": "  "}, "name"),
        ({"yard_latitude": 44.1}, "yard_latitude"), ({"quiet_from": 480, "quiet_until": 480}, "quiet_until"),
        ({"public_address": "ours.example"}, "public_address"), ({"first_round_weeks": 0}, "first_round_weeks"),
        ({"practice_options": ["never_touch"]}, "practice_options"), ({"colour": "blue"}, "colour"),
    ],
)  # fmt: skip
def test_what_cannot_be_set_is_told_at_its_field_and_changes_nothing(as_role, sent, field):
    before = Company.objects.filter(pk=1).values().first()
    answer = as_role("lead").patch("settings/company", sent)
    assert answer.status_code == 422
    assert any(field in name for name in answer.json()["fields"]), answer.json()
    assert Company.objects.filter(pk=1).values().first() in (before, Company.objects.values().get())
    assert Company.current().yard_latitude is None and Company.current().name == "Our company"


def test_a_practice_that_is_changed_moves_the_dates(as_role, forecasted):
    answer = as_role("lead").patch("settings/company", {"practice": "annual"})
    assert answer.headers["X-Stale"] == "soon"
    assert "X-Stale" not in as_role("lead").patch("settings/company", {"phone": "555-0100"}).headers
    from aquifer.forecasts.recompute import recompute_all

    recompute_all()
    assert {one.decided_by for one in Forecast.objects.current().filter(component="sediment")} == {"practice"}


def test_a_side_takes_the_place_of_the_others_of_its_question_only(as_role):
    lead = as_role("lead")
    lead.patch("settings/company", {"practice_options": ["always_flush"]})
    told = lead.patch("settings/company", {"practice_options": ["leave_blocked"]}).json()["practice_questions"]
    assert {one["chosen"] for one in told} >= {"always_flush", "leave_blocked", "exercise_yearly"}
    back = lead.patch("settings/company", {"practice_options": ["leave_old"]}).json()["practice_questions"]
    assert {one["chosen"] for one in back} >= {"leave_old", "leave_blocked"}
    assert len(back) == 5 and all(len(one["options"]) == 2 and one["question"] for one in back)


def test_what_was_set_is_on_record_and_taken_back_by_whoever_may_set_it(as_role):
    Company.current()
    lead = as_role("lead")
    change = lead.patch("settings/company", {"quiet_from": 19 * 60, "phone": "555-0100"}).headers["X-Change"]
    told = lead.get("settings/history").json()
    lines = {line["field"]: (line["before"], line["after"]) for line in told[0]["lines"]}
    assert told[0]["by"] == "Lead"
    assert lines == {"quiet from": ("20:00", "19:00"), "phone": ("nothing", "555-0100")}
    assert as_role("planner").get("settings/history").json() == []
    for role in ("planner", "technician", "apprentice"):
        assert as_role(role).post(f"changes/{change}/undo").status_code == 403
    assert lead.post(f"changes/{change}/undo").status_code == 200
    assert (Company.current().quiet_from, Company.current().phone) == (20 * 60, "")


@pytest.mark.parametrize(
    ("quiet", "hour", "sent"),
    [((21, 7), 6, 7), ((21, 7), 20, 20), ((21, 7), 21, 7), ((12, 14), 11, 11), ((12, 14), 12, 14), ((12, 14), 14, 14)],
)
def test_quiet_hours_are_the_companys_over_midnight_or_not(db, quiet, hour, sent):
    Company.current()
    Company.objects.update(quiet_from=quiet[0] * 60, quiet_until=quiet[1] * 60)
    at = timezone.make_aware(datetime.datetime(2026, 3, 9, hour, 0))
    due = timezone.localtime(write.after_quiet(at))
    assert due.hour == sent and (due.date() - at.date()).days == (1 if quiet[0] > quiet[1] and hour >= quiet[0] else 0)


def test_customers_are_sent_to_the_address_that_the_company_names(as_role):
    as_role("lead").patch("settings/company", {"public_address": "https://water.ours.example/"})
    assert links.public_address() == "https://water.ours.example"
    as_role("lead").patch("settings/company", {"public_address": ""})
    assert links.public_address() == "http://127.0.0.1:8000"


def test_a_logo_is_made_anew_seen_by_customers_and_dropped(as_role, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    lead = as_role("lead").raw
    sent = lead.post("/api/settings/logo", {"file": SimpleUploadedFile("ours.png", picture())})
    where = sent.json()["logo"]
    kept = Image.open(io.BytesIO(b"".join(Client().get(where).streaming_content)))
    assert kept.size == (600, 150) and kept.getpixel((3, 3)) == (255, 255, 255)
    for broken in (b"<svg/>", picture()[:60], picture((6000, 6000), "1", 1)):
        answer = lead.post("/api/settings/logo", {"file": SimpleUploadedFile("ours.png", broken)})
        assert answer.status_code == 422 and "file" in answer.json()["fields"]
    assert lead.delete("/api/settings/logo").json()["logo"] == ""
    assert Client().get(where).status_code == 404


def test_a_row_of_before_its_history_begins_with_what_it_is(db):
    Company.objects.bulk_create([Company(pk=1, name="Marsh Heating")])
    assert not Company.history.exists()
    with_what_there_is("company", "Company").code(apps, None)
    Company.objects.get().save()
    assert [(one.history_type, one.name) for one in Company.history.order_by("history_id")] == [
        ("+", "Marsh Heating"), ("~", "Marsh Heating")
    ]  # fmt: skip
