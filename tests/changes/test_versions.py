"""Who saves what they read before somebody else's change is told who changed what, and loses nothing."""

import json
from decimal import Decimal

import pytest
from django.utils import timezone

from aquifer.attachments import keep
from aquifer.heaters.models import Part
from aquifer.money.models import Price
from aquifer.outbox import answer
from aquifer.outbox.models import Contact, Message
from aquifer.places.models import Feature
from tests.attachments.test_attachments import picture


@pytest.fixture
def site(base):
    return base["sites"][0]


def site_of(client, site) -> dict:
    return client.get(f"sites/{site.pk}").json()["site"]


def edited(client, site, **said):
    told = site_of(client, site)
    body = {"name": told["name"], "street": told["street"], "zone_id": told["zone_id"], "version": told["version"]}
    return {**body, **said}


def test_the_second_save_of_a_site_is_told_what_the_first_changed(as_role, site):
    first, second = as_role("planner"), as_role("lead")
    mine, yours = edited(first, site, street="9 Mill Lane"), edited(second, site, access="key at the neighbour's")
    assert first.patch(f"sites/{site.pk}", mine).status_code == 200
    told = second.patch(f"sites/{site.pk}", yours)
    assert told.status_code == 409 and told.json()["code"] == "changed_meanwhile"
    assert "Planner changed this meanwhile: street is now 9 Mill Lane" in told.json()["message"]
    assert site_of(first, site)["street"] == "9 Mill Lane"
    # Looked at, and meant all the same.
    again = {**yours, "version": int(told.json()["fields"]["version"])}
    assert second.patch(f"sites/{site.pk}", again).status_code == 200
    assert site_of(first, site)["access"] == "key at the neighbour's"


def settled(client, method, path, **said):
    return getattr(client.raw, method)(f"/api/{path}", said, content_type="application/json")


def test_a_price_is_not_written_over_by_who_read_it_before(as_role, base):
    first, second = as_role("planner"), as_role("lead")
    price = {"key": "call_out", "words": "Coming", "price": "31.50", "cost": "4.00"}
    made = settled(first, "put", "money/prices", **price, version=0).json()
    read = {**price, "version": made["version"]}
    assert settled(first, "put", "money/prices", **{**read, "price": "33.00"}).status_code == 200
    late = settled(second, "put", "money/prices", **{**read, "price": "35.00"})
    assert late.status_code == 409 and "Planner changed this meanwhile: price is now 33.00" in late.json()["message"]
    # Another figure of the same line is another's business, and neither is lost; nor do two collide who say the same.
    assert settled(second, "put", "money/prices", **{**read, "cost": "6.00"}).status_code == 200
    assert settled(second, "put", "money/prices", **{**read, "price": "33.00"}).status_code == 200
    assert [(one["price"], one["cost"]) for one in first.get("money").json()["prices"]] == [("33.00", "6.00")]
    # Looked at, and meant all the same.
    version = int(late.json()["fields"]["version"])
    again = settled(second, "put", "money/prices", **{**read, "price": "35.00", "version": version}).json()
    assert (again["price"], again["cost"]) == ("35.00", "6.00")
    # The same line entered by both: the second is told.
    assert settled(second, "put", "money/prices", **{**price, "price": "50.00", "version": 0}).status_code == 409


def test_a_plan_the_money_and_the_company_are_not_written_over_either(as_role, base):
    first, second = as_role("planner"), as_role("lead")
    plan = {"name": "Yearly", "yearly": "90", "includes": ["sediment"], "call_out": True, "parts_off": "0.1"}
    read = {**plan, "version": settled(first, "put", "money/plans", **plan).json()["version"]}
    assert settled(first, "put", "money/plans", **{**read, "includes": ["sediment", "scale"]}).status_code == 200
    assert settled(second, "put", "money/plans", **{**read, "includes": ["anode"]}).status_code == 409
    assert settled(second, "put", "money/plans", **{**read, "yearly": "95"}).json()["includes"] == ["sediment", "scale"]

    ours = second.get("settings/company").json()
    money = {"currency": "cr", "hour_cost": "40", "quotes_last_days": 30, "version": ours["money_version"]}
    set_so = settled(first, "put", "money/settings", **money, part_warranty_months=24).json()
    assert (set_so["part_warranty_months"], set_so["work_warranty_days"]) == (24, 30)
    # What is not said stays.
    assert settled(first, "put", "money/settings", **{**money, "version": None}).json()["part_warranty_months"] == 24
    assert settled(second, "put", "money/settings", **{**money, "hour_cost": "45"}).status_code == 409
    put = {"version": ours["version"]}
    assert settled(second, "patch", "settings/company", phone="1", **put).status_code == 200
    assert settled(second, "patch", "settings/company", name="Vale Water", **put).json()["phone"] == "1"
    late = settled(second, "patch", "settings/company", phone="2", **put)
    assert late.status_code == 409 and "phone is now 1" in late.json()["message"]


def test_a_week_an_account_and_a_hook_are_not_written_over_either(as_role, people):
    first, second = as_role("planner"), as_role("lead")
    member = settled(first, "post", "settings/crew", user_id=people["technician"].pk).json()
    path = f"settings/crew/{member['id']}"
    assert settled(first, "patch", path, weekdays=[0, 1], version=member["version"]).status_code == 200
    late = settled(second, "patch", path, weekdays=[0, 1, 2], version=member["version"])
    assert (
        late.status_code == 409 and "Planner changed this meanwhile: weekdays is now Mon, Tue" in late.json()["message"]
    )
    assert settled(second, "patch", path, begins=480, version=member["version"]).json()["weekdays"] == [0, 1]

    person = next(one for one in second.get("settings/people").json() if one["id"] == people["technician"].pk)
    path, put = f"settings/people/{person['id']}", {"version": person["version"]}
    gas = [{"kind": "gas", "ends_on": None}]
    assert settled(second, "patch", path, licences=gas, role="technician", **put).status_code == 200
    assert settled(second, "patch", path, licences=[], role="technician", **put).json()["licences"] == gas
    late = settled(second, "patch", path, licences=[{"kind": "plumbing", "ends_on": None}], **put)
    assert late.status_code == 409 and "licences is now gas" in late.json()["message"]

    hook = settled(second, "post", "settings/hooks", address="https://elsewhere.example/in", kinds=["tried"])
    hook = hook.json()
    path, put = f"settings/hooks/{hook['id']}", {"version": hook["version"]}
    assert settled(second, "patch", path, active=False, **put).status_code == 200
    assert settled(second, "patch", path, active=False, kinds=hook["kinds"], **put).status_code == 200


def test_a_version_that_there_never_was_is_a_conflict_and_no_fault(as_role, base):
    """Of a record from before there was a history, too: what was brought in at once has none."""
    Price.objects.bulk_create([Price(key="call_out", words="Coming", price=Decimal(31))])
    price = {"key": "call_out", "words": "Coming", "price": "33.00"}
    late = settled(as_role("planner"), "put", "money/prices", **price, version=7)
    assert (late.status_code, late.json()["fields"]) == (409, {"version": "0"})
    assert settled(as_role("planner"), "put", "money/prices", **price, version=0).status_code == 200
    assert (
        settled(as_role("planner"), "put", "money/prices", **{**price, "price": "34"}, version=2**61).status_code == 409
    )


def test_a_program_that_knows_no_versions_still_saves(as_role, site):
    client = as_role("planner")
    body = edited(client, site, street="9 Mill Lane")
    del body["version"]
    assert client.patch(f"sites/{site.pk}", body).status_code == 200


def test_one_who_saves_twice_is_not_in_their_own_way(as_role, site):
    client = as_role("planner")
    for street in ("1 Mill Lane", "2 Mill Lane"):
        assert client.patch(f"sites/{site.pk}", edited(client, site, street=street)).status_code == 200


def test_a_feature_a_part_and_a_zone_are_not_written_over_either(as_role, base, forecasted):
    first, second = as_role("technician"), as_role("lead")
    heater, zone = base["heaters"][0], base["zones"][0]
    shut_off = {"kind": "heater_shut_off", "heater_id": heater.pk, "condition": "sound", "where": "left of the tank"}
    made = first.post(f"sites/{heater.site_id}/features", shut_off)
    assert made.status_code == 201, made.json()
    feature = Feature.objects.latest("pk")
    told = next(one for one in made.json()["features"] if one["id"] == feature.pk)
    body = {**shut_off, "version": told["version"]}
    assert first.patch(f"features/{feature.pk}", {**body, "where": "behind the panel"}).status_code == 200
    late = second.patch(f"features/{feature.pk}", {**body, "note": "stiff"})
    assert late.status_code == 409 and "where is now behind the panel" in late.json()["message"]

    part = Part.objects.filter(heater=heater, removed_on=None).first()
    version = next(one["version"] for one in first.get(f"heaters/{heater.pk}").json()["parts"] if one["id"] == part.pk)
    assert first.patch(f"parts/{part.pk}", {"version": version, "count": 2}).status_code == 200
    assert second.patch(f"parts/{part.pk}", {"version": version, "count": 3}).status_code == 409
    part.refresh_from_db()
    assert part.count == 2
    # A form that does not ask for a figure takes none away.
    Part.objects.filter(pk=part.pk).update(set_temperature_c=99)
    assert first.patch(f"parts/{part.pk}", {"rating_kw": 23}).status_code == 200
    part.refresh_from_db()
    assert (part.count, part.set_temperature_c, part.rating_kw) == (2, 99, 23)

    planner = as_role("planner")
    page = planner.get(f"zones/{zone.pk}").json()
    said = {"name": page["name"], "supply": page["supply"], "version": page["version"]}
    assert (
        planner.raw.put(
            f"/api/zones/{zone.pk}", {**said, "note": "new well"}, content_type="application/json"
        ).status_code
        == 200
    )
    late = second.raw.put(f"/api/zones/{zone.pk}", {**said, "note": "old well"}, content_type="application/json")
    assert late.status_code == 409 and "note is now new well" in late.json()["message"]


def test_a_caption_is_not_written_over_either(as_role, base, people, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    one = keep.add(base["sites"][0].pk, None, "plate", picture(), people["technician"])
    first, second = as_role("planner"), as_role("lead")
    (read,) = first.get(f"attachments?site_id={base['sites'][0].pk}").json()
    mine = first.patch(f"attachments/{one.pk}", {"caption": "rating plate", "version": read["version"]})
    assert mine.status_code == 200 and mine.json()["version"] > read["version"]
    told = second.patch(f"attachments/{one.pk}", {"gone": True, "version": read["version"]})
    assert told.status_code == 409 and "caption is now rating plate" in told.json()["message"]
    again = second.patch(f"attachments/{one.pk}", {"gone": True, "version": int(told.json()["fields"]["version"])})
    assert again.status_code == 200 and first.get(f"attachments?site_id={base['sites'][0].pk}").json() == []


def test_how_a_customer_is_reached_is_not_written_over_either(as_role, base):
    customer = base["sites"][0].customer
    first, second = as_role("planner"), as_role("lead")
    path = f"outbox/contacts/{customer.pk}"
    read = first.get(path).json()
    assert read["version"] == 0

    def put(client, **body):
        return client.raw.put(f"/api/{path}", json.dumps(body), content_type="application/json")

    assert put(first, way="call", opted_out=True, version=0).json()["version"] == 1
    told = put(second, way="text", version=0)
    assert told.status_code == 409 and "wants no messages" in told.json()["message"]
    asked = Contact.objects.get().opted_out_at
    assert put(second, way="text", opted_out=True, version=int(told.json()["fields"]["version"])).status_code == 200
    # Since when they want none is not another day for it.
    assert Contact.objects.get().opted_out_at == asked and Contact.objects.get().way == "text"
    # What they ask for themselves, by their link, counts too.
    message = Message.objects.create(customer=customer, kind="offer", way="email", address="a@example.com", subject="a",
                                     body="b", not_before=timezone.now())  # fmt: skip
    read = first.get(path).json()
    answer.stop_writing(message)
    assert put(first, way="email", version=read["version"]).status_code == 409
    assert put(first, way="email").status_code == 200


def test_who_sets_what_the_whole_company_follows_is_told_what_another_set(as_role, base):
    first, second = as_role("lead"), as_role("lead")
    read = first.get("company").json()["version"]
    followed = {"practice": "condition", "tolerance": 0.1, "version": read}
    assert settled(first, "put", "outlook/practice", **followed).status_code == 200
    late = settled(second, "put", "outlook/practice", **{**followed, "tolerance": 0.25})
    assert late.status_code == 409 and "0.1" in late.json()["message"]
    assert first.get("company").json()["tolerance"] == 0.1
    meant = {**followed, "tolerance": 0.25, "version": int(late.json()["fields"]["version"])}
    assert settled(second, "put", "outlook/practice", **meant).json()["tolerance"] == 0.25


def test_two_leads_take_sides_in_other_questions_at_once_and_only_in_the_same_one_is_it_a_conflict(as_role, base):
    first, second = as_role("lead"), as_role("lead")
    told = first.get("company/step-practices").json()
    one, other = ([option["word"] for option in practice["options"]] for practice in told["practices"][:2])
    names = [practice["name"] for practice in told["practices"]]

    def takes(client, version, **chosen):
        return settled(client, "put", "company/step-practices", chosen=chosen, version=version)

    def sides():
        return {each["name"]: each["chosen"] for each in first.get("company/step-practices").json()["practices"]}

    assert takes(first, told["version"], **{names[0]: one[1]}).status_code == 200
    # Another question is nobody else's business.
    assert takes(second, told["version"], **{names[1]: other[1]}).status_code == 200
    assert (sides()[names[0]], sides()[names[1]]) == (one[1], other[1])
    # The same side of the same one is what both want; another side is told with the question and who answered it.
    assert takes(second, told["version"], **{names[0]: one[1]}).status_code == 200
    late = takes(second, told["version"], **{names[0]: one[0]})
    assert late.status_code == 409 and told["practices"][0]["question"] in late.json()["message"]
    assert sides()[names[0]] == one[1]
    # Looked at, and meant all the same.
    assert takes(second, int(late.json()["fields"]["version"]), **{names[0]: one[0]}).status_code == 200
    assert sides()[names[0]] == one[0]


def test_two_answers_to_one_question_of_practice_are_a_conflict_and_to_two_are_not(as_role, base):
    first, second = as_role("lead"), as_role("lead")
    ours = first.get("settings/company").json()
    asked = [[option["option"] for option in question["options"]] for question in ours["practice_questions"]]
    one, other = asked[0], asked[1]

    def takes(client, side):
        said = {"practice_options": [side], "version": ours["version"]}
        return settled(client, "patch", "settings/company", **said)

    def sides():
        chosen = [question["chosen"] for question in first.get("settings/company").json()["practice_questions"]]
        return tuple(chosen[:2])

    assert takes(first, one[1]).status_code == 200
    assert takes(second, other[1]).status_code == 200
    assert sides() == (one[1], other[1])
    late = takes(second, one[2] if len(one) > 2 else one[0])
    assert late.status_code == 409 and ours["practice_questions"][0]["question"] in late.json()["message"]
    assert sides() == (one[1], other[1])


def test_what_lies_on_the_trucks_what_is_asked_for_a_serial_and_a_place_are_not_written_over_either(as_role, base):
    first, second = as_role("lead"), as_role("lead")
    on = timezone.localdate().isoformat()
    level = {"service_level": 0.9, "version": first.get(f"stock/{on}").json()["service_level_version"]}
    assert settled(first, "put", "stock-settings", **level).status_code == 200
    assert settled(second, "put", "stock-settings", **{**level, "service_level": 0.98}).status_code == 409
    assert first.get(f"stock/{on}").json()["service_level"] == 0.9

    sediment = next(one for one in first.get("bench/signed-off").json()["asked"] if one["work"] == "sediment")
    asked = {"work": "sediment", "passes": 1, "visits": 1, "version": sediment["version"]}
    assert settled(first, "put", "bench/signed-off/asked", **asked).status_code == 200
    late = settled(second, "put", "bench/signed-off/asked", **{**asked, "visits": 4})
    assert late.status_code == 409
    meant = {**asked, "visits": 4, "version": int(late.json()["fields"]["version"])}
    assert settled(second, "put", "bench/signed-off/asked", **meant).status_code == 200

    taught = {"maker": "Orbell", "year_at": 1, "year_digits": 2, "version": 0}
    assert settled(first, "put", "serial-patterns", **taught).status_code == 200
    assert settled(second, "put", "serial-patterns", **{**taught, "maker": "orbell", "year_at": 3}).status_code == 409
    assert [one["year_at"] for one in first.get("serial-patterns").json()] == [1]

    path = f"sites/{base['sites'][0].pk}/place"
    pin = {"latitude": 47.1, "longitude": 8.2, "version": first.get(path).json()["version"]}
    assert settled(first, "put", path, **pin).status_code == 200
    # A street that somebody mends meanwhile is no pin.
    late = settled(second, "put", path, **{**pin, "latitude": 47.3})
    assert late.status_code == 409 and first.get(path).json()["latitude"] == 47.1
