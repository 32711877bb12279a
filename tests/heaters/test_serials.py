"""The company teaches where a maker's serials tell their date; every heater of that maker shows it."""

from tests.heaters.test_api import heater_body


def test_a_maker_is_taught_once_and_all_of_its_heaters_show_when_they_were_made(as_role, forecasted):
    planner = as_role("planner")
    body = heater_body(forecasted, maker="Thornfell", serial="K1412 00371", installed_on="2014-06-01")
    one = planner.post("heaters", body).json()
    assert one["made"] is None
    told = {"maker": "thornfell", "year_at": 2, "year_digits": 2, "week_at": 4}
    assert planner.raw.put("/api/serial-patterns", told, content_type="application/json").status_code == 200
    assert planner.get(f"heaters/{one['id']}").json()["made"] == {
        "first": "2014-03-17", "last": "2014-03-23", "doubt": "",
    }  # fmt: skip
    other = heater_body(forecasted, tag="NEW-2", maker="THORNFELL", serial="K1912", installed_on="2014-06-01")
    assert "before it was made" in planner.post("heaters", other).json()["made"]["doubt"]
    # Taught again, it is put right and not doubled.
    planner.raw.put("/api/serial-patterns", {**told, "week_at": None}, content_type="application/json")
    assert len(planner.get("serial-patterns").json()) == 1
    assert planner.get(f"heaters/{one['id']}").json()["made"]["last"] == "2014-12-31"


def test_a_pattern_that_cannot_be_is_refused_with_what_is_allowed(as_role, forecasted):
    told = {"maker": "Thornfell", "year_at": 2, "year_digits": 3}
    answer = as_role("planner").raw.put("/api/serial-patterns", told, content_type="application/json")
    assert answer.status_code == 422 and answer.json()["fields"] == {"year_digits": "2 or 4"}
