"""Django's administration as the lead meets it: every page of it opens, and its forms are in words."""

import pytest
from django.contrib import admin
from django.test import Client

from aquifer.accounts.models import User
from aquifer.company.models import Company
from aquifer.money.models import MoneySettings
from aquifer.rounds.models import CrewMember


@pytest.fixture
def lead(people):
    client = Client()
    client.force_login(people["lead"], backend="django.contrib.auth.backends.ModelBackend")
    return client


def pages():
    for model in admin.site._registry:
        name = f"/admin/{model._meta.app_label}/{model._meta.model_name}/"
        yield from (name, f"{name}add/")


@pytest.mark.parametrize("page", list(pages()))
def test_no_list_and_no_new_record_ends_in_an_error(lead, page):
    assert lead.get(page).status_code in (200, 302, 403)


@pytest.mark.parametrize("model", [Company, MoneySettings])
def test_settings_are_one_row_that_its_list_leads_to(lead, model):
    name = f"/admin/{model._meta.app_label}/{model._meta.model_name}/"
    answer = lead.get(name, follow=True)
    assert answer.status_code == 200 and answer.request["PATH_INFO"] == f"{name}1/change/"
    assert lead.post(f"{name}add/", {"currency": "$"}).status_code == 403 and model.objects.count() == 1


def test_crew_hours_are_hours_days_have_names_and_equipment_is_known(lead, people):
    form = {
        "user": people["technician"].pk, "place": "yard", "weekdays": ["0", "2"], "begins": "07:15", "ends": "15:45",
        "lunch_minutes": 30, "lunch_earliest": "11:30", "lunch_latest": "13:00", "equipment": ["jetter"],
        "longitude": "", "latitude": "", "helper": "", "active": "on",
    }  # fmt: skip
    assert lead.post("/admin/rounds/crewmember/add/", form).status_code == 302
    one = CrewMember.objects.get()
    assert (one.begins, one.ends, one.weekdays, one.equipment) == (435, 945, [0, 2], ["jetter"])
    page = lead.get(f"/admin/rounds/crewmember/{one.pk}/change/").content.decode()
    assert 'value="07:15"' in page and "Wednesday" in page
    assert "7:15 to 15:45" in lead.get("/admin/rounds/crewmember/").content.decode()
    wrong = lead.post("/admin/rounds/crewmember/add/", {**form, "user": people["lead"].pk, "equipment": ["crane"]})
    assert wrong.status_code == 200 and CrewMember.objects.count() == 1


def test_licenses_are_ticked(lead, people):
    page = f"/admin/accounts/user/{people['apprentice'].pk}/change/"
    form = {"username": "apprentice", "first_name": "Apprentice", "role": "apprentice", "is_active": "on"}
    assert lead.post(page, {**form, "licences": ["gas", "plumbing"]}).status_code == 302
    assert User.objects.get(username="apprentice").licences == ["gas", "plumbing"]
    assert lead.post(page, {**form, "licences": ["Gas, plumbing"]}).status_code == 200
