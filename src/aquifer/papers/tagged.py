"""Papers whose parts say what they are, so that a screen reader reads them in order: headings, lists, tables, pictures.

ReportLab draws; what is here marks what it draws and writes the tree of it. Source: ISO 32000-1, 14.7 and 14.8; the
names of the elements are its standard types. What is drawn outside of any part (lines of a table, its grounds) is
marked as decoration.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from reportlab.graphics.shapes import Drawing
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase.pdfdoc import PDFArray, PDFDictionary, PDFDocument, PDFName, PDFObjectReference, PDFString
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, SimpleDocTemplate
from reportlab.platypus import Image as PlainImage
from reportlab.platypus import Paragraph as PlainParagraph
from reportlab.platypus import Table as PlainTable

HEADS = {"title": "H1", "head": "H2"}
"""What a paragraph is by the name of its style; any other is a paragraph."""


@dataclass
class Element:
    """One part of a paper: what it is, what it says of a picture, and what lies in it."""

    kind: str
    of: "Element | None" = None
    alt: str = ""
    parts: list["Element"] = field(default_factory=list)
    marks: list[tuple[int, int]] = field(default_factory=list)
    """Where it is drawn: page and number on the page."""


class TaggedCanvas(Canvas):
    """A canvas that keeps what each mark on its pages is."""

    def __init__(self, *args: object, **more: object) -> None:
        super().__init__(*args, **more | {"lang": "en"})
        self.setViewerPreference("DisplayDocTitle", "true")
        self._root = Element("Document")
        self._at = self._root
        self._pages: list[list[Element]] = [[]]
        self._within = False

    @contextmanager
    def part(self, kind: str, alt: str = "") -> Iterator[None]:
        """What is marked meanwhile lies in this part."""
        self._at = Element(kind, self._at, alt)
        assert self._at.of is not None
        self._at.of.parts.append(self._at)
        yield
        self._at = self._at.of

    def begin_or_go_on(self, kind: str) -> Element:
        """The part that was last here, if it is of a kind: items that follow each other are one list."""
        if not self._at.parts or self._at.parts[-1].kind != kind:
            self._at.parts.append(Element(kind, self._at))
        return self._at.parts[-1]

    @contextmanager
    def inside(self, element: Element) -> Iterator[None]:
        """What is marked meanwhile lies in a part that there is already."""
        before, self._at = self._at, element
        yield
        self._at = before

    @contextmanager
    def marked(self) -> Iterator[None]:
        """What is drawn meanwhile is the part that one is in."""
        page = self._pages[-1]
        self._at.marks.append((len(self._pages) - 1, len(page)))
        self._code.append(f"/{self._at.kind} <</MCID {len(page)}>> BDC")
        page.append(self._at)
        self._within = True
        yield
        self._within = False
        self._code.append("EMC")

    @contextmanager
    def decoration(self) -> Iterator[None]:
        """What is drawn meanwhile says nothing."""
        if self._within:
            yield
            return
        self._code.append("/Artifact BMC")
        yield
        self._code.append("EMC")

    def showPage(self) -> None:  # noqa: N802 - as the library calls it
        super().showPage()
        page = self._doc.Pages.pages[-1]
        page.__NoDefault__ = [*page.__NoDefault__, "StructParents", "Tabs"]
        page.StructParents, page.Tabs = len(self._pages) - 1, PDFName("S")
        self._pages.append([])

    def save(self) -> None:
        if len(self._code):
            self.showPage()
        written = _Tree(self._doc, [page for page in self._pages if page is not self._pages[-1] or page])
        self._doc.Catalog.StructTreeRoot = written.root(self._root)
        self._doc.Catalog.MarkInfo = PDFDictionary({"Marked": "true"})
        super().save()


class _Tree:
    """The elements as objects of a file."""

    def __init__(self, document: PDFDocument, pages: list[list[Element]]) -> None:
        self.document, self.pages = document, pages
        self.known: dict[int, PDFObjectReference] = {}

    def root(self, element: Element) -> PDFDictionary:
        root = PDFDictionary({"Type": PDFName("StructTreeRoot")})
        reference = self.document.Reference(root)
        root.dict["K"] = self._written(element, reference)
        numbers: list[object] = []
        for number, page in enumerate(self.pages):
            numbers += [number, PDFArray([self.known[id(one)] for one in page])]
        root.dict["ParentTree"] = self.document.Reference(PDFDictionary({"Nums": PDFArray(numbers)}))
        root.dict["ParentTreeNextKey"] = len(self.pages)
        return root

    def _written(self, element: Element, above: PDFObjectReference) -> PDFObjectReference:
        told = PDFDictionary({"Type": PDFName("StructElem"), "S": PDFName(element.kind), "P": above})
        reference = self.known[id(element)] = self.document.Reference(told)
        if element.alt:
            told.dict["Alt"] = PDFString(element.alt)
        if element.kind == "TH":
            told.dict["A"] = PDFDictionary({"O": PDFName("Table"), "Scope": PDFName("Column")})
        pages = self.document.Pages.pages
        marks = [
            PDFDictionary({"Type": PDFName("MCR"), "Pg": self.document.Reference(pages[page]), "MCID": number})
            for page, number in element.marks
        ]
        told.dict["K"] = PDFArray([*marks, *(self._written(part, reference) for part in element.parts)])
        return reference


class Paper(SimpleDocTemplate):
    """A document that is written so. Everything in it is one of the parts below, or a drawing in a ``Figure``."""

    def build(self, flowables: list[Flowable], **more: object) -> None:
        """Writes it."""
        super().build(flowables, **more | {"canvasmaker": TaggedCanvas})


class Paragraph(PlainParagraph):
    """A heading or a paragraph, by the name of its style."""

    def draw(self) -> None:
        with self.canv.part(HEADS.get(self.style.name, "P")), self.canv.marked():
            super().draw()


class Point(PlainParagraph):
    """A point of a list; points that follow each other are one."""

    def __init__(self, text: str, style: ParagraphStyle) -> None:
        super().__init__(text, style, bulletText="–")

    def draw(self) -> None:
        with (
            self.canv.inside(self.canv.begin_or_go_on("L")),
            self.canv.part("LI"),
            self.canv.part("LBody"),
            self.canv.marked(),
        ):
            super().draw()


class Figure(Flowable):
    """A drawing or a picture with what it shows, in words; without any it is decoration."""

    def __init__(self, drawn: Drawing | PlainImage | Flowable, alt: str) -> None:
        super().__init__()
        self._drawn, self._alt = drawn, alt
        self.hAlign = drawn.hAlign

    def wrap(self, wide: float, tall: float) -> tuple[float, float]:
        found: tuple[float, float] = self._drawn.wrap(wide, tall)
        self.width, self.height = found
        return found

    def draw(self) -> None:
        if not self._alt:
            with self.canv.decoration():
                self._drawn.drawOn(self.canv, 0, 0)
            return
        with self.canv.part("Figure", self._alt), self.canv.marked():
            self._drawn.drawOn(self.canv, 0, 0)


class Grid(PlainTable):
    """Things side by side, read one after the other: its rows and columns mean nothing."""

    def _drawBkgrnd(self) -> None:  # noqa: N802 - as the library calls it
        with self.canv.decoration():
            super()._drawBkgrnd()

    def _drawLines(self) -> None:  # noqa: N802
        with self.canv.decoration():
            super()._drawLines()


class Table(Grid):
    """Rows of a table under its heads, which are its first row unless it ``has_heads`` not."""

    has_heads = True

    def draw(self) -> None:
        self._row, self._heads = -1, self.has_heads
        with self.canv.part("Table"):
            super().draw()

    def split(self, wide: float, tall: float) -> list[Flowable]:
        """In parts of which the first has the heads."""
        parts: list[Flowable] = super().split(wide, tall)
        for number, part in enumerate(parts):
            part.has_heads = self.has_heads and (number == 0 or bool(self.repeatRows))
        return parts

    def _drawCell(self, value: object, style: object, at: tuple[float, float], size: tuple[float, float]) -> None:  # noqa: N802
        if at[0] == self._colpositions[0]:
            self._row += 1
            self._line = Element("TR")
        table = self.canv._at
        if self._line.of is None:
            self._line.of = table
            table.parts.append(self._line)
        with (
            self.canv.inside(self._line),
            self.canv.part("TH" if self._heads and self._row == 0 else "TD"),
        ):
            if isinstance(value, (tuple, list, Flowable)):
                super()._drawCell(value, style, at, size)
            else:
                with self.canv.marked():
                    super()._drawCell(value, style, at, size)
