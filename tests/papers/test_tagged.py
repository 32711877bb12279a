"""Every paper is told by a reader of somebody else's: what each part is, and all of its words, in order."""

import datetime
import io
import re
import subprocess

import pytest
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm

from aquifer.money.models import Price
from aquifer.papers.tagged import Figure, Grid, Paper, Paragraph, Point, Table
from aquifer.rounds.models import Appointment
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH, ROD, VALVE
from tests.rounds.conftest import *  # noqa: F403
from tests.visits.test_report import recorded

TITLE, HEAD, BODY = (ParagraphStyle(name) for name in ("title", "head", "body"))
PART = re.compile(r"^( *)(\w+)(?: \((?:block|inline)\))?:?$")


def read(pdf: bytes, *how: str, program: str = "pdfinfo") -> str:
    told = subprocess.run(
        [program, *how, "-", *(["-"] if program == "pdftotext" else [])], input=pdf, capture_output=True
    )
    assert told.returncode == 0 and not told.stderr, told.stderr
    return told.stdout.decode()


def parts(pdf: bytes) -> list[tuple[str, str]]:
    """Each part with the words that stand in it itself."""
    found: list[tuple[str, str]] = []
    for line in read(pdf, "-struct-text").splitlines():
        if part := PART.match(line):
            found.append((part[2], ""))
        elif (words := line.strip()).startswith('"'):
            kind, before = found[-1]
            found[-1] = kind, before + words.strip('"')
    return found


def letters(text: str) -> str:
    """The letters and figures alone: where a line breaks is nothing that is said."""
    return "".join(sorted(re.sub(r"[^\w]", "", text)))


def holds(pdf: bytes) -> list[str]:
    """That a paper is tagged, and all that stands on it in a part of it. Returns: its parts in order."""
    about = read(pdf)
    assert "Tagged:          yes" in about and b"/DisplayDocTitle true" in pdf and b"/Lang (en)" in pdf
    told = parts(pdf)
    drawn = letters(read(pdf, program="pdftotext"))
    assert letters("".join(words for _, words in told)) == drawn
    kinds = [kind for kind, _ in told]
    assert kinds.count("Figure") == len(re.findall(rb"/Alt \(", pdf))
    return kinds


def written(*flow, tall: float = A4[1]) -> bytes:
    out = io.BytesIO()
    Paper(out, pagesize=(A4[0], tall), title="Trees", invariant=True).build(list(flow))
    return out.getvalue()


def test_what_stands_on_a_paper_is_read_in_order_as_what_it_is():
    drawing = Drawing(20, 20)
    drawing.add(Rect(0, 0, 9, 9))
    pdf = written(
        Paragraph("Trees", TITLE), Point("oak", BODY), Point("elm", BODY), Paragraph("Tall ones", HEAD),
        Point("fir", BODY), Figure(drawing, "A square"), Figure(drawing, ""),
        Grid([[Paragraph("left", BODY), Paragraph("right", BODY)]], style=[("GRID", (0, 0), (-1, -1), 1, "black")]),
        Table([["tree", "tall"], ["oak", Paragraph("30 m", BODY)]], style=[("GRID", (0, 0), (-1, -1), 1, "black")]),
    )  # fmt: skip
    point = ["LI", "LBody"]
    assert holds(pdf) == [
        "Document", "H1", "L", *point, *point, "H2", "L", *point, "Figure", "P", "P",
        "Table", "TR", "TH", "TH", "TR", "TD", "TD", "P",
    ]  # fmt: skip
    assert b"/Alt (A square)" in pdf
    assert [words for kind, words in parts(pdf) if kind in ("TH", "TD")] == ["tree", "tall", "oak", ""]


def test_a_table_and_a_paragraph_go_on_over_pages():
    rows = [["tree", "tall"], *([f"tree {number}", "30 m"] for number in range(30))]
    pdf = written(Paragraph("oak " * 400, BODY), Table(rows), Table(rows, repeatRows=1), tall=90 * mm)
    kinds = holds(pdf)
    # Heads are heads where they stand: once, and on each page where they are said again.
    assert kinds.count("TH") > 4 and kinds.count("TD") == 120 and kinds.count("P") > 1
    assert int(re.search(r"Pages: +(\d+)", read(pdf))[1]) >= 4
    # Each mark of a page is of one part alone.
    assert len(re.findall(rb"/StructParents \d+", pdf)) == len(set(re.findall(rb"/StructParents (\d+)", pdf)))


@pytest.mark.parametrize("office", [False, True])
def test_the_report_of_a_visit(as_role, forecasted, office):
    heater = forecasted["heaters"][0]
    signature = {"name": "M. Reed", "lines": [[[1, 1], [50, 40]], [[7, 9]]]}
    one = recorded(as_role, heater, FLUSH, ROD, VALVE, note="Key under <the> pot & stone", signature=signature)
    send(as_role("technician"), picture(), heater_id=heater.pk, visit_client_id=str(one.client_id))
    answer = as_role("planner").get(f"visits/{one.pk}/report.pdf?office={str(office).lower()}")
    kinds = holds(answer.content)
    assert kinds[:2] == ["Document", "H1"] and kinds.count("H1") == 1 and kinds.count("H2") > 4
    assert kinds.count("L") > 3 and "Table" not in kinds


def test_papers_of_the_office_and_for_owners(as_role, forecasted, crew, today):
    Price.objects.create(key="heater", words="heater", price=1200)
    visit = Appointment.objects.create(
        site=forecasted["sites"][0], week=today - datetime.timedelta(days=today.weekday()), on=today, member=crew[0],
        begins=600, minutes=60,
    )  # fmt: skip
    heater, lead = forecasted["heaters"][0], as_role("lead")
    for path, heads in (
        (f"heaters/{heater.pk}/ten-years.pdf?damage=3000", 1),
        ("bench/lives.pdf?care=yearly&care=never&hardness_mg_l=300", 1),
        (f"rounds/days/{visit.on}/sheet.pdf", 1),
        (f"rounds/weeks/{visit.on}/plan.pdf", 1),
        ("labels.pdf?q=", 0),
        ("quarterly.pdf", 4),
    ):
        answer = lead.get(path)
        assert answer.status_code == 200, path
        kinds = holds(answer.content)
        assert kinds.count("H1") == heads, path
