"""The customer's report: from the record alone, and the same every time."""

import datetime
import re
import uuid

import pytest
from reportlab.graphics.shapes import Line, Path, Rect
from reportlab.lib.units import mm

from aquifer.company.models import Company
from aquifer.core.follow_up import FollowUp
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import ExpansionTankPin, Noise, Removed, RodGrade, ValveOutcome
from aquifer.heaters.models import Part
from aquifer.money import quotes
from aquifer.money.models import Quote
from aquifer.places.models import Feature
from aquifer.visiting import report
from aquifer.visiting.customer_words import offered
from aquifer.visiting.drawn_section import seen_inside
from aquifer.visits.models import Finding, Visit
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH, visit
from tests.visits.devices import Device

STUCK = {"task": "relief_valve_exercise", "outcome": "no_flow"}


def recorded(as_role, heater, *findings, role="technician", steps=(), **more):
    device = Device(as_role(role), heater)
    device.says(*(device.tap(**one) for one in steps))
    answer = device.client.post("visits", visit(heater.pk, *findings, client_id=device.visit, **more))
    assert answer.status_code == 201, answer.json()
    return Visit.objects.select_related("heater__site").get(pk=answer.json()["id"])


def test_a_report_says_what_was_found_what_follows_and_when_we_come_again(as_role, forecasted, monkeypatch):
    steps = [
        {"step": "verify.tap_temperature"},
        {"kind": "answered", "step": "", "field": "verify.tap_c", "value": 61},
        {"step": "hand_over.explain"},
    ]
    one = recorded(as_role, forecasted["heaters"][0], FLUSH, STUCK, steps=steps, note="Key under <the> pot & stone")
    quotes.raise_for(one.pk)
    told = report.content(one)
    assert told["done"][0] == "We flushed the tank: a lot of deposit came out."
    assert told["left"][0] == "Hottest water at a faucet: 61 °C: it can burn a child within 2 seconds."
    assert any(line.startswith("A new safety valve: ") for line in told["proposed"])
    assert any(line.startswith("Flushing the deposit out: about") for line in told["next"])
    assert any("safety valve's pipe" in line for line in told["owner"])
    assert "mixing valve" in told["owner"][-1] and not any("Leave the setting" in line for line in told["owner"])
    # The owner's link in it is signed by the second: two reports of one second are the same to the byte.
    monkeypatch.setattr("django.core.signing.TimestampSigner.timestamp", lambda signer: "1xXpiz")
    answer = as_role("planner").get(f"visits/{one.pk}/report.pdf")
    assert answer["Content-Type"] == "application/pdf" and answer.content.startswith(b"%PDF")
    assert answer.content == as_role("planner").get(f"visits/{one.pk}/report.pdf").content
    assert as_role("planner").get("visits/999999/report.pdf").status_code == 404


def test_a_report_is_told_in_the_company_s_units_and_warns_from_what_scalds(as_role, forecasted):
    Company.objects.update(units="us")

    def told(tap_c: float) -> dict[str, list[str]]:
        steps = [{"kind": "answered", "step": "", "field": "verify.tap_c", "value": tap_c}]
        measured = {**FLUSH, "depth_before_mm": 25.4}
        return report.content(recorded(as_role, forecasted["heaters"][0], measured, steps=steps))

    mild, usual, hot = told(45), told(49), told(55)
    assert mild["left"] == ["Hottest water at a faucet: 113 °F."]
    assert usual["left"] == ["Hottest water at a faucet: 120 °F: it can burn a child within 4 minutes."]
    assert "Leave the setting" in usual["owner"][-1] and "120 °F" in hot["owner"][-1]
    assert "It lay 1.00 in deep before." in mild["done"][0]


def test_an_override_and_a_correction_are_told(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [{"kind": "override", "step": "trial.crack", "why": "A fixed pipe leads away"}]
    one = recorded(as_role, heater, FLUSH, role="lead", steps=steps)
    wrong = one.findings.get()
    Finding.objects.create(
        visit=one,
        heater=heater,
        corrects=wrong,
        on=one.on,
        sequence=9,
        task="flush",
        method="drain_and_pulse",
        removed="trace",
    )
    told = report.content(one)
    assert "Crack the drain open" in told["left"][0] and "A fixed pipe leads away" in told["left"][0]
    assert any("a little deposit" in line and "put right on" in line for line in told["done"])
    assert not any("a lot of" in line for line in told["done"])


def test_a_tankless_heater_has_its_own_advice(as_role, forecasted):
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    one = recorded(as_role, tankless, {"task": "descale", "removed": "moderate"})
    assert any("full draw" in line for line in report.content(one)["owner"])


def test_only_what_was_looked_at_is_said_to_be_and_a_heater_left_off_says_why(as_role, forecasted):
    heater = forecasted["heaters"][0]
    names = ("arrival.air", "hand_over.joints", "hand_over.show", "hand_over.explain")
    skipped = [{"step": one, "kind": "skipped", "why": "no time"} for one in names]
    one = recorded(as_role, heater, FLUSH, steps=skipped)
    assert not any("looked at" in line for line in report.content(one)["left"])
    done = recorded(as_role, heater, FLUSH, steps=[{"step": one} for one in names])
    assert any("looked at" in line for line in report.content(done)["left"])
    stops = [{"step": "arrival.air"}, {"step": "", "kind": "outside", "name": "runs_out"}]
    told = report.content(recorded(as_role, heater, steps=stops))
    assert told["ended"][0] == "The tank leaks." and "replaced" in told["ended"][1]
    assert told["ended"][2] == "Our office calls you about it."


def test_the_office_s_report_and_review_tell_what_was_done_otherwise_than_the_guide_allows(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [
        {"step": "relief_exercise.lift"},
        {"step": "arrival.tap", "kind": "skipped", "why": "no water in the house"},
        {"step": "arrival.greet", "kind": "skipped"},
    ]
    one = recorded(as_role, heater, FLUSH, steps=steps)
    assert "looked_at" not in {name for name, told in report.content(one).items() if told}
    looked_at = report.content(one, office=True)["looked_at"]
    assert any("not safe yet, by Technician" in line for line in looked_at)
    assert any("Left out: no water in the house" in line for line in looked_at)
    assert any("Left out without a reason" in line for line in looked_at)
    office = as_role("planner").get(f"visits/{one.pk}/report.pdf?office=true").content
    assert office.startswith(b"%PDF") and office != report.pdf(one)
    (entry,) = as_role("planner").get(f"heaters/{heater.pk}/log").json()["entries"]
    assert any("not safe yet" in line for line in entry["looked_at"])
    rows = as_role("lead").get("visits/marked").json()
    assert {"done although it was not safe yet", "left out without a reason"} <= {row["says"] for row in rows}
    assert all(row["visits"] == 1 and row["procedure"] for row in rows)
    assert as_role("technician").get("visits/marked").status_code == 403


def test_photographs_and_the_signature_are_in_the_report(as_role, forecasted, settings, tmp_path, monkeypatch):
    settings.MEDIA_ROOT = tmp_path
    # The link to the owner's calendar is signed with its second.
    monkeypatch.setattr("django.core.signing.TimestampSigner.timestamp", lambda signer: "1xXpiz")
    heater = forecasted["heaters"][0]
    drawn = {"name": "R. Ostrow", "lines": [[[10, 20], [30.5, 40]], [[50, 60]]]}
    plain = recorded(as_role, heater, FLUSH)
    one = recorded(as_role, heater, FLUSH, signature=drawn)
    about = {
        "heater_id": heater.pk,
        "visit_client_id": str(one.client_id),
        "client_id": str(uuid.uuid4()),
        "caption": "The rod",
    }
    ids = {send(as_role("technician"), picture(size=(300, 500)), **about).json()["id"] for _ in range(2)}
    assert len(ids) == 1 and [photo.caption for _, photo in report.content(one)["photographs"]] == ["The rod"]
    assert report.content(plain)["photographs"] == []
    made = report.pdf(one)
    assert b"/DCTDecode" in made and b"/DCTDecode" not in report.pdf(plain) and made == report.pdf(one)
    (tmp_path / one_file(tmp_path)).unlink()
    assert b"/DCTDecode" not in report.pdf(one)


def test_a_piece_is_shown_beside_how_it_was_last_time(as_role, forecasted, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    heater, client = forecasted["heaters"][0], as_role("technician")

    widths = iter(range(300, 320))

    def visited(*pieces):
        made = recorded(as_role, heater, FLUSH)
        for piece in pieces:
            about = {"heater_id": heater.pk, "visit_client_id": str(made.client_id), "piece": piece, "caption": piece}
            answered = send(client, picture(size=(next(widths), 500)), **about)
            assert answered.status_code == 201 and answered.json()["piece"] == piece
        return made

    first, second = visited("anode", "tank"), visited("anode", "deposit", "")
    assert [before for before, _ in report.content(first)["photographs"]] == [None, None]
    told = [(before and before.visit_client_id, now.piece) for before, now in report.content(second)["photographs"]]
    assert told == [(first.client_id, "anode"), (None, "deposit"), (None, "")]
    assert len(re.findall(rb"/DCTDecode", report.pdf(second))) == 4
    assert client.raw.post("/api/attachments", {"piece": "<b>", "heater_id": heater.pk}).status_code == 422


def one_file(folder):
    return next(file for file in folder.rglob("*.jpg") if "small" not in file.name)


def test_an_amendment_is_told_with_its_reason(as_role, forecasted):
    one = recorded(as_role, forecasted["heaters"][0], FLUSH)
    body = {
        "client_id": str(uuid.uuid4()),
        "findings": [{**FLUSH, "removed": "trace"}, STUCK],
        "why": "read the wrong sheet",
    }
    assert as_role("technician").post(f"visits/{one.pk}/amendments", body).status_code == 201
    told = report.content(one)["done"]
    assert (
        len(told) == 2
        and "a little deposit" in told[0]
        and "(put right on" in told[0]
        and "read the wrong sheet" in told[0]
    )
    assert "(added on" in told[1]


TERMS = re.compile(
    r"relief|anode|sediment|exerci|reseat|wept|weep|pulse|verdict|\bT&P\b|p10|forecast moved|kettl|bladder|we advise",
    re.IGNORECASE,
)
"""Words of the trade that a customer need not know."""
EVERY_FINDING = [
    *({"task": "flush", "method": "drain_and_pulse", "removed": one} for one in Removed),
    {"task": "flush", "method": "jetting", "depth_before_mm": 0, "depth_after_mm": 0, "clarity": "milky"},
    *({"task": "anode_inspection", "grade": one} for one in RodGrade),
    {"task": "anode_inspection", "could_not_open": True},
    *({"task": "relief_valve_exercise", "outcome": one} for one in ValveOutcome),
    *({"task": "expansion_tank_check", "at_valve": one} for one in ExpansionTankPin),
    {"task": "expansion_tank_check", "precharge_kpa": 300},
    {"task": "pressure_test", "static_kpa": 640, "creep_kpa": 80, "falls": True}, {"task": "pressure_test"},
    *({"task": "look_over", "noise": one} for one in Noise), {"task": "look_over", "corrosion": "seams"},
    {"task": "look_over", "rusty_hot_water": True, "valve_drips": True, "element_failed": True},
    {"task": "anode_replacement", "alloy": "magnesium", "count": 2}, {"task": "relief_valve_replacement"},
    {"task": "expansion_tank_replacement", "volume_l": 18}, {"task": "upkeep", "item": "burner", "fouling": "light"},
    {"task": "household_change"},
]  # fmt: skip


def test_every_finding_is_told_in_whole_sentences_without_a_term_of_the_trade(as_role, forecasted):
    heater = forecasted["heaters"][0]
    for found in EVERY_FINDING:
        Company.objects.update(units="metric")
        of = recorded(as_role, heater, found)
        for system in ("metric", "us"):
            Company.objects.update(units=system)
            told = report.content(of)
            (line,) = told["done"]
            for sentence in (line, *told["means"], *told["next"]):
                assert sentence[0].isupper() and sentence.endswith("."), sentence
                assert not TERMS.search(sentence) and "{" not in sentence and "None" not in sentence, sentence
                if system == "us":
                    assert not re.search(r"\d (mm|kPa|L|kg|°C)\b", sentence), sentence
    for what in FollowUp:
        assert not TERMS.search(offered(what)) and ": " in offered(what)


def test_a_report_says_what_a_finding_means_and_what_is_proposed_at_which_price(as_role, forecasted):
    one = recorded(as_role, forecasted["heaters"][0], STUCK)
    quotes.raise_for(one.pk)
    told = report.content(one)
    assert told["done"] == ["We tried the safety valve: it let no water pass."]
    assert told["means"][0].startswith("That valve keeps the heater from bursting.")
    (line,) = [line for line in told["proposed"] if line.startswith("A new safety valve")]
    # What the office has not looked at has no price yet.
    assert line.endswith("cannot be trusted.")
    quote = Quote.objects.get(visit=one, what="relief_valve")
    quote.lines.update(price="60.00", quantity=2)
    Quote.objects.filter(pk=quote.pk).update(state="sent")
    lines = quote.lines.count()
    (line,) = [line for line in report.content(one)["proposed"] if line.startswith("A new safety valve")]
    assert line.endswith(f"It costs {120 * lines:,.2f} ¤, without tax.")
    quote.lines.filter(pk=quote.lines.first().pk).update(price=None)
    assert "costs" not in " ".join(report.content(one)["proposed"])


def drawn(drawing):
    return {one.text for one in drawing.contents if hasattr(one, "text")}


def test_a_tank_is_drawn_as_it_was_found_and_not_where_nobody_looked(as_role, forecasted):
    heater = forecasted["heaters"][0]
    assert seen_inside(recorded(as_role, heater, {"task": "pressure_test", "static_kpa": 400})) is None
    assert drawn(seen_inside(recorded(as_role, heater, {"task": "anode_inspection", "grade": "half"}))) == {
        "rod that rusts in its place", "cut open; not to scale",
    }  # fmt: skip
    whole = recorded(as_role, heater, FLUSH, {"task": "anode_inspection", "grade": "gone"}, STUCK)
    assert {"deposit on the floor", "safety valve"} < drawn(seen_inside(whole))
    deep, shallow = (
        seen_inside(recorded(as_role, heater, {**FLUSH, "depth_before_mm": depth_mm})) for depth_mm in (80, 8)
    )
    heights = [max(one.points[1::2]) for two in (deep, shallow) for one in two.contents if hasattr(one, "points")]
    assert heights[0] > heights[1]
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert seen_inside(recorded(as_role, tankless, {"task": "descale", "removed": "heavy"})) is None


@pytest.mark.parametrize(
    ("found", "share"),
    [
        ({"removed": "none"}, 0.0), ({"removed": "trace"}, 0.03), ({"removed": "heavy"}, 0.16),
        ({"removed": "heavy", "depth_before_mm": 30}, 0.1), ({"removed": "trace", "depth_before_mm": 600}, 0.5),
    ],
)  # fmt: skip
def test_the_bed_is_drawn_as_deep_as_it_was_found_and_inside_its_tank(as_role, forecasted, found, share):
    drawing = seen_inside(recorded(as_role, forecasted["heaters"][0], {"task": "flush", "method": "jetting", **found}))
    tank = next(one for one in drawing.contents if isinstance(one, Rect))
    if share == 0.0:
        shapes = [one for one in drawing.contents if isinstance(one, Path)]
        assert "deposit on the floor" in drawn(drawing) and not shapes
        return
    bed = next(one for one in drawing.contents if isinstance(one, Path))
    across, up = bed.points[0::2], bed.points[1::2]
    assert (up[1] - tank.y) / tank.height == pytest.approx(share)
    assert tank.x < min(across) and max(across) < tank.x + tank.width
    assert min(up) > tank.y and max(up) < tank.y + tank.height
    # Its surface bulges a little in the middle, and its floor is round.
    assert max(up) > up[1] and min(up) < up[0]


@pytest.mark.parametrize(("grade", "left"), [("like_new", 1.0), ("half", 0.55), ("gone", 0.0)])
def test_a_rod_is_drawn_as_thick_as_it_was_and_named_by_whether_it_is_still_there(as_role, forecasted, grade, left):
    heater = forecasted["heaters"][0]
    look = {"task": "anode_inspection", "grade": grade}
    drawing = seen_inside(recorded(as_role, heater, look))
    tank, *others = (one for one in drawing.contents if isinstance(one, Rect))
    wire = next(one for one in drawing.contents if isinstance(one, Line))
    assert wire.x1 == wire.x2 and tank.y < wire.y2 < wire.y1 <= tank.y + tank.height
    assert len(others) == (1 if left else 0)
    for rod in others:
        assert rod.width == pytest.approx(left * 3.2 * mm) and rod.x + rod.width / 2 == pytest.approx(wire.x1)
        assert wire.y2 < rod.y and rod.y + rod.height == pytest.approx(wire.y1)
    renewed = seen_inside(recorded(as_role, heater, look, {"task": "anode_replacement", "alloy": "magnesium"}))
    assert "the rod that was taken out" in drawn(renewed) and "rod that rusts in its place" not in drawn(renewed)


def test_a_usual_visit_s_report_fits_two_pages(as_role, forecasted):
    found = [FLUSH, {"task": "anode_inspection", "grade": "half"}, STUCK, {"task": "pressure_test", "static_kpa": 640}]
    steps = [{"kind": "answered", "step": "", "field": "verify.tap_c", "value": 61}, {"step": "hand_over.joints"}]
    one = recorded(as_role, forecasted["heaters"][0], *found, steps=steps, note="The shut-off is behind the washer.")
    quotes.raise_for(one.pk)
    assert len(re.findall(rb"/Type /Page\b", report.pdf(one))) <= 2


TANKS = ("gas_tank", "electric_tank", "heat_pump_tank", "indirect_tank", "mobile_tank")


@pytest.mark.parametrize("kind", list(HeaterKind))
def test_a_visit_to_any_kind_of_heater_is_told_on_two_pages_with_all_that_may_stand_there(as_role, forecasted, kind):
    """All of its yearly work done and found wanting, a note, prices, the owner's year, and where it is shut off."""
    heater = forecasted["heaters"][0]
    heater.kind, heater.installed_on = kind, forecasted["today"] - datetime.timedelta(days=365 * 9)
    heater.save()
    Part.objects.get_or_create(heater=heater, kind="expansion_tank", removed_on=None)
    seen = {"site": heater.site, "seen_on": forecasted["today"], "condition": "sound"}
    for feature in ("house_shut_off", "heater_shut_off", "gas_shut_off", "breaker", "tank_drain", "discharge_pipe"):
        Feature.objects.create(**seen, heater=heater, kind=feature, where="behind the washer, left of the door")
    pressure = {"task": "pressure_test", "static_kpa": 640, "creep_kpa": 90}
    tank = [{**FLUSH, "removed": "heavy", "depth_before_mm": 60}, {"task": "anode_inspection", "grade": "gone"}]
    flow = {"task": "descale", "removed": "heavy", "flow_before_l_min": 7, "flow_after_l_min": 9}
    steps = [{"kind": "answered", "step": "", "field": "verify.tap_c", "value": 63}, {"step": "hand_over.joints"}]
    found = [*(tank if kind in TANKS else [flow]), STUCK, pressure]
    one = recorded(as_role, heater, *found, steps=steps, note="The shut-off is behind the washer. " * 4)
    quotes.raise_for(one.pk)
    for office in (False, True):
        assert len(re.findall(rb"/Type /Page\b", report.pdf(one, office))) <= 2


def test_a_customer_is_told_where_to_shut_it_off_and_which_valve_to_leave_alone(as_role, forecasted):
    heater, today = forecasted["heaters"][0], forecasted["today"]
    other = next(one for one in forecasted["heaters"][1:] if one.site_id == heater.site_id)
    seen = {"site": heater.site, "seen_on": today}
    Feature.objects.create(**seen, kind="house_shut_off", form="ball", where="under the stairs", condition="sound")
    gate = {"form": "gate", "where": "behind the panel", "condition": "brittle"}
    Feature.objects.create(
        **seen, heater=heater, kind="heater_shut_off", **gate, do_not_operate=True, use_instead="the house valve"
    )
    Feature.objects.create(**seen, heater=heater, kind="gas_shut_off", condition="sound", do_not_operate=True)
    # Of another heater, or known by nobody.
    Feature.objects.create(**seen, heater=other, kind="gas_shut_off", where="in the hall", condition="sound")
    Feature.objects.create(**seen, heater=heater, kind="breaker", condition="sound")
    assert report.content(recorded(as_role, heater, FLUSH))["shut_off"] == [
        "All water of the house: ball, under the stairs.",
        "The heater's cold water: its own (gate, behind the panel) is not to be touched, it may fail. "
        "Use the house valve.",
        "The heater's gas: its own is not to be touched, it may fail. Use the next one up.",
    ]
