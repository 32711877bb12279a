"""Who is forgotten is nowhere any more: every table is searched for what was planted in all that people wrote."""

import datetime

import pytest
from django.contrib.admin.models import ADDITION, LogEntry
from django.contrib.contenttypes.models import ContentType
from django.core.files.storage import default_storage
from django.db import DatabaseError, connection, models, transaction
from django.utils import timezone

from aquifer.accounts.models import Deed, Noted
from aquifer.attachments.models import Attachment
from aquifer.customers.models import Customer, Site
from aquifer.forecasts.models import Forecast
from aquifer.full_export.models import BaseFile
from aquifer.full_export.one_customer import path_to_customer
from aquifer.full_export.tables import TABLES
from aquifer.heaters.models import Heater, Part
from aquifer.imports.models import ImportRow, ImportRun
from aquifer.open_ends.models import OpenEnd
from aquifer.outbox.models import Message, SimulatedDelivery
from aquifer.places.models import Feature
from aquifer.programs.models import Delivery, Hook
from aquifer.review.models import KeptFigures
from aquifer.rounds.models import Appointment, Run
from aquifer.visits.models import Amendment, Event, EventApart, Finding, Visit
from tests.conftest import FLUSH, visit
from tests.full_export.test_round_trip import lived_in, storage
from tests.visits.devices import Device

__all__ = ["lived_in", "storage"]
MARK = "Quillfeather"
"""A word that is nowhere else."""
TECHNICAL = {
    "Customer": {"code"},
    "Site": {"code", "town", "state", "located_by"},
    "WaterTest": {"method"},
    "Heater": {
        "tag", "maker", "model", "serial", "boiler", "control_setting", "dip_tube", "anode_port", "bank",
    },
    "LeftAs": {"state", "ending", "title", "by"},
    "Part": {"build"},
    "Visit": {"technician", "device", "readings", "ending", "moved", "steps", "signature"},
    "VisitSession": {"components", "order", "licences", "plan", "marks"},
    "Event": {"step", "body"},
    "EventApart": {"fault"},
    "Amendment": {"readings", "moved"},
    "Feature": {"form", "condition", "seen_by"},
    "OpenEnd": {"observation"},
    "Attachment": {"piece", "digest"},
    "Appointment": set(),
    "QuoteLine": {"key", "words"},
}  # fmt: skip
"""By model: what is no person's, or is planted in by hand below. A new field of words is somebody's until it stands
here."""


def written(model: type[models.Model]) -> list[models.Field]:
    """The fields in which people write."""
    technical = TECHNICAL.get(model.__name__, set())
    return [
        field for field in model._meta.concrete_fields
        if isinstance(field, models.CharField | models.TextField | models.JSONField)
        and not field.choices and field.editable and field.name not in technical
    ]  # fmt: skip


def whole() -> str:
    """Everything in the database, as text."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")
        told = []
        for (name,) in cursor.fetchall():
            rows = f"SELECT coalesce(string_agg(t::text, chr(10)), '') FROM \"{name}\" t"  # noqa: S608
            cursor.execute(rows)
            told.append(f"{name}: {cursor.fetchone()[0]}")
    return "\n".join(told)


def lists() -> list[bytes]:
    """The files of lists, which the database shows as figures."""
    return [bytes(run.data) for run in ImportRun.objects.all()]


def forgets(what: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT set_config('aquifer.forgets', %s, true)", [what])


def of(customer: Customer) -> dict[str, list[dict]]:
    """All that is a customer's, by model."""
    models_ = (Customer, Site, Heater, Part, Feature, Visit, Finding, Amendment, EventApart)
    return {
        model.__name__: list(model.objects.filter(**{path_to_customer(model): customer.pk}).order_by("pk").values())
        for model in models_
    }


@pytest.fixture
def planted(lived_in, as_role, people, tmp_path):
    """A customer whose mark is in all that was ever written of them."""
    customer = lived_in["sites"][0].customer
    stranger = Customer.objects.create(code="C9", name="Sallow Mill", phone="555-0199")
    Site.objects.filter(pk=lived_in["sites"][1].pk).update(customer=stranger)
    heater = Heater.objects.filter(site=lived_in["sites"][0]).first()
    client = as_role("technician")
    phone = Device(client, heater)
    phone.says(phone.tap("", "noted", why=f"{MARK} was not in"), {**phone.tap(), "kind": "wished", "why": MARK})
    drawn = {"name": MARK, "lines": [[[1, 1], [2, 2]]]}
    body = visit(heater.pk, FLUSH, client_id=phone.visit, note=MARK, signature=drawn)
    recorded = client.post("visits", body).json()
    # That did what was promised; another is to come.
    Appointment.objects.filter(site__customer=customer).update(standing="promised")
    client.post(
        f"visits/{recorded['id']}/amendments",
        {"client_id": "8a4cbbb0-5f5c-4f2c-9f0e-2d7a0b6f0001", "why": MARK, "findings": [FLUSH]},
    )
    OpenEnd.objects.create(site=heater.site, heater=heater, kind="promise", severity="note", words=MARK,
                           raised_on=datetime.date.today(), raised_by=people["lead"])  # fmt: skip
    forgets("a customer")
    Customer.objects.filter(pk=customer.pk).update(email=f"{MARK.lower()}@example.com")
    for table in TABLES:
        model = getattr(table.model, "instance_type", table.model)
        if path_to_customer(model) is None or table.model is not model:
            continue
        mine = list(model._base_manager.filter(**{path_to_customer(model): customer.pk}).values_list("pk", flat=True))
        for field in written(model):
            value = {"owner": MARK} if isinstance(field, models.JSONField) else MARK
            if isinstance(field, models.EmailField):
                value = f"{MARK}@example.com"
            model._base_manager.filter(pk__in=mine).update(**{field.name: value})
            if hasattr(model, "history"):
                model.history.model._base_manager.filter(id__in=mine).update(**{field.name: value})
    forgets("")
    Site.objects.filter(customer=customer).update(words="")
    Heater.objects.filter(site__customer=customer).update(words="")
    message = Message.objects.filter(customer=customer).first()
    SimulatedDelivery.objects.create(key=message.key, address=MARK, body=MARK)
    for made in ({"customers": [customer.pk], "sites": [], "heaters": []}, {}):
        run = ImportRun.objects.create(kind="list", file_name="a.csv", data=b"name\n" + MARK.encode(), made=made,
                                       columns=[[MARK]] if made else [])  # fmt: skip
        ImportRow.objects.create(run=run, number=1, action="create", key=MARK, detail={"name": [None, MARK]})
    hook = Hook.objects.create(address="https://example.com", kinds=["visit.recorded"], secret="s")
    Delivery.objects.create(hook=hook, kind="visit.recorded", body={"site": MARK})
    Delivery.objects.create(hook=hook, kind="visit.recorded", body={"site": "Sallow Mill"})
    about = ContentType.objects.get_for_model(Customer)
    LogEntry.objects.create(user=people["lead"], content_type=about, object_repr=MARK, action_flag=ADDITION)
    Run.objects.create(kind="season", state="ready", first_week=datetime.date.today(), weeks=52,
                       left_out=[{"site": MARK}, {"site": "Sallow Mill"}])  # fmt: skip
    told = {"likeliest": [{"site": MARK}]}
    KeptFigures.objects.create(question="replacements", computed_at=timezone.now(), answer=told)
    Noted.objects.create(deed=Deed.TOOK_OUT, about=f"everything of {MARK}")
    base = BaseFile.objects.create(state="ready")
    base.path.parent.mkdir(parents=True, exist_ok=True)
    base.path.write_bytes(b"all of it")
    return customer


def done_at(customer: Customer) -> list[tuple]:
    visits = Visit.objects.filter(heater__site__customer=customer)
    return list(visits.order_by("pk").values_list("pk", "on", "readings"))


def test_nothing_that_anybody_wrote_of_them_is_anywhere_and_what_was_done_is(
    planted, as_role, django_capture_on_commit_callbacks
):
    lead = as_role("lead")
    before = whole()
    assert before.count(MARK) > 60 and MARK.lower() in before and any(MARK.encode() in data for data in lists())
    of = {"site__customer": planted.pk}
    done = list(Finding.objects.filter(heater__site__customer=planted).order_by("pk").values())
    visits = done_at(planted)
    tags = sorted(Heater.objects.filter(**of).values_list("tag", flat=True))
    taps = Event.objects.filter(session__heater__site__customer=planted).count()
    parts = Part.objects.filter(heater__site__customer=planted).count()
    files = [one.path for one in Attachment.objects.filter(**of)]
    base = BaseFile.objects.get()
    assert files and all(default_storage.exists(path) for path in files) and base.path.exists() and done and taps
    with django_capture_on_commit_callbacks(execute=True):
        assert lead.post(f"customers/{planted.pk}/forget", {"name": MARK}).status_code == 204
    left = [line[:300] for line in whole().splitlines() if MARK.lower() in line.lower()]
    # The bytes of a file that no record leads to are searched for too.
    assert left == [] and not any(MARK.encode() in data for data in lists())
    assert not any(default_storage.exists(path) for path in files) and not base.path.exists()
    assert list(Finding.objects.filter(heater__site__customer=planted).order_by("pk").values()) == done
    assert done_at(planted) == visits
    assert sorted(Heater.objects.filter(**of).values_list("tag", flat=True)) == tags
    assert Event.objects.filter(session__heater__site__customer=planted).count() == taps
    assert Part.objects.filter(heater__site__customer=planted).count() == parts
    assert not Heater.objects.in_service().filter(**of).exists()
    assert not Forecast.objects.current().filter(heater__site__customer=planted, heater__archived_at=None).exists()
    assert not Appointment.objects.filter(**of).exclude(standing__in=["done", "called_off"]).exists()
    (deed,) = Noted.objects.filter(deed=Deed.FORGOT)
    assert deed.about == f"customer {planted.pk}" and deed.by.username == "lead"


def test_nobody_else_loses_anything(planted, as_role):
    stranger = Customer.objects.get(code="C9")
    mine = {"site__customer": stranger}
    before = of(stranger)
    assert as_role("lead").post(f"customers/{planted.pk}/forget", {"name": f" {MARK.upper()} "}).status_code == 204
    assert of(stranger) == before and before["Heater"]
    assert Heater.objects.in_service().filter(**mine).exists()
    assert [one.body["site"] for one in Delivery.objects.all()] == ["Sallow Mill"]
    assert Run.objects.latest("pk").left_out == [{"site": "Sallow Mill"}]


def test_whose_name_is_part_of_many_words_takes_nothing_of_others_with_it(planted, as_role):
    Customer.objects.filter(pk=planted.pk).update(name="Al")
    Customer.history.filter(id=planted.pk).update(name="Al")
    Site.objects.filter(customer=planted).update(name="Al")
    Site.history.filter(customer_id=planted.pk).update(name="Al")
    for name in ("Sallow Mill", "Al.", "al, upstairs"):
        run = ImportRun.objects.create(kind="list", file_name=name, data=b"x", made={})
        ImportRow.objects.create(run=run, number=1, action="create", key=name, detail={"name": [None, name]})
    assert as_role("lead").post(f"customers/{planted.pk}/forget", {"name": "al"}).status_code == 204
    assert "Sallow Mill" in [one.body["site"] for one in Delivery.objects.all()]
    kept = {run.file_name for run in ImportRun.objects.all() if bytes(run.data) == b"x"}
    assert kept == {"Sallow Mill"}


def test_it_is_said_before_what_goes_and_asked_for_by_name(planted, as_role):
    lead = as_role("lead")
    told = lead.get(f"customers/{planted.pk}/forget").json()
    assert told["name"] == MARK and told["heaters"] == 4 and told["photographs"] == 2 and told["upcoming"] == 1
    refused = lead.post(f"customers/{planted.pk}/forget", {"name": "Quill"})
    assert refused.status_code == 422 and "type it as it is on record" in refused.json()["message"]
    assert lead.post("customers/99999/forget", {"name": MARK}).status_code == 404
    assert as_role("planner").post(f"customers/{planted.pk}/forget", {"name": MARK}).status_code == 403
    assert MARK in whole()


def test_a_site_that_was_handed_over_stays_as_its_new_people_have_it(planted, as_role):
    site = Site.objects.filter(customer=planted).first()
    lead = as_role("lead")
    assert lead.post(f"sites/{site.pk}/customer", {"name": "Tern Row"}).status_code == 200
    lead.patch(f"sites/{site.pk}", {"name": "Tern Row 4", "zone_id": site.zone_id, "access": "the green gate"})
    assert lead.get(f"customers/{planted.pk}/forget").json()["handed_over"] == ["Site 2", "Tern Row 4"]
    assert lead.post(f"customers/{planted.pk}/forget", {"name": MARK}).status_code == 204
    site.refresh_from_db()
    assert (site.name, site.access, site.archived_at) == ("Tern Row 4", "the green gate", None)
    told = list(Site.history.filter(id=site.pk).values_list("name", "access", "customer_id"))
    assert not any(MARK in str(row) for row in told if row[2] == planted.pk)
    assert Heater.objects.in_service().filter(site=site).exists()


def test_nobody_is_forgotten_while_somebody_works_there(planted, as_role):
    heater = Heater.objects.filter(site__customer=planted).last()
    phone = Device(as_role("technician"), heater)
    phone.says(phone.tap())
    answer = as_role("lead").post(f"customers/{planted.pk}/forget", {"name": MARK})
    assert answer.status_code == 409 and heater.tag in answer.json()["message"]


@pytest.mark.parametrize(
    "change",
    [{"on": datetime.date(2020, 1, 1)}, {"readings": {"flush.removed": "none"}}, {"heater_id": 1, "ending": "x"}],
)
def test_forgetting_changes_words_and_nothing_that_was_done(planted, change):
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
        forgets("a customer")
        Visit.objects.filter(heater__site__customer=planted).update(**change)
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
        Visit.objects.filter(heater__site__customer=planted).update(note="")
