"""The years ahead in a browser: reckoned, a decision tried, compared, dropped."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.projections import tasks
from aquifer.projections.models import Projection, ProjectionPart

pytestmark = pytest.mark.e2e


def lived():
    """What the workers would do."""
    for part in list(ProjectionPart.objects.all()):
        tasks.live.func(part_id=part.pk)


def test_the_lead_tries_a_decision_and_sees_what_it_changes(person):
    page = person("lead").goes_to("/review/ahead")
    page.get_by_role("button", name="Reckon the next 5 years").click()
    expect(page.get_by_role("status").filter(has_text="being lived")).to_be_visible()
    lived()
    expect(page.get_by_role("img", name=re.compile("^Hours by year: as it is"))).to_be_visible()
    page.get_by_role("button", name="Try a decision").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What").select_option("take_over")
    dialog.get_by_label("How many").fill("80")
    dialog.get_by_label("Name").fill("The Larch round")
    dialog.get_by_role("button", name="Live the years").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("status").filter(has_text="being lived")).to_be_visible()
    lived()
    expect(page.get_by_role("table", name="The Larch round")).to_be_visible()
    expect(page.get_by_text(re.compile(r"The Larch round: [\d,]+ hours more over all"))).to_be_visible()
    page.get_by_role("combobox", name="What is drawn").click()
    page.get_by_role("option", name="What is left").click()
    expect(page.get_by_role("img", name=re.compile("^What is left by year"))).to_be_visible()
    with page.expect_download() as table:
        page.get_by_role("link", name="The figures as a file").click()
    assert table.value.path().read_text(encoding="utf-8-sig").startswith("what,until,low,middle,high")
    page.get_by_role("button", name="Drop what was tried").click()
    expect(page.get_by_role("table", name="The Larch round")).to_have_count(0)
    assert Projection.objects.count() == 1


def test_a_planner_reads_what_was_reckoned_and_tries_nothing(person):
    for part in tasks.ask(Projection(asked_on=tasks.timezone.localdate(), years=2, decisions=[])).parts.all():
        tasks.live.func(part_id=part.pk)
    page = person("planner").goes_to("/review/ahead")
    expect(page.get_by_role("table", name="As it is")).to_be_visible()
    expect(page.get_by_role("button", name="Try a decision")).to_have_count(0)
    page.get_by_role("combobox", name="Grouped by").click()
    page.get_by_role("option", name="age").click()
    expect(page.get_by_role("row", name=re.compile("^to 4 years"))).to_be_visible()
