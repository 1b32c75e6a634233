"""Cards and labels as PDF, by reportlab: lines and words at the places that the drawing gives them."""

from collections.abc import Sequence
from io import BytesIO

from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from pebble_wheel.drawing.card import PAPERS, POINT, Card, Line, Shape, Text, card_shapes

PLAIN, BOLD = "Helvetica", "Helvetica-Bold"


def card_pdf(card: Card) -> bytes:
    """Return a card as one page, every length as it is on paper; the same card gives the same bytes."""
    return pages_pdf(card.name, PAPERS[card.paper], [card_shapes(card)])


def pages_pdf(title: str, paper: tuple[float, float], pages: Sequence[Sequence[Shape]]) -> bytes:
    """Return pages of shapes, likewise.

    Args:
        title: of the document.
        paper: mm wide and high.
        pages: what stands on each.
    """
    wide, high = paper
    packed = BytesIO()
    document = Canvas(packed, pagesize=(wide / POINT, high / POINT), invariant=1)
    document.setTitle(title)
    for shapes in pages:
        document.setLineCap(0)
        for shape in shapes:
            match shape:
                case Text():
                    _write(document, shape, high)
                case Line():
                    _draw(document, shape, high)
        document.showPage()
    document.save()
    return packed.getvalue()


def _write(page: Canvas, text: Text, high: float) -> None:
    page.setFillColor(HexColor(text.ink))
    page.setFont(BOLD if text.bold else PLAIN, text.size / POINT)
    said = text.words.encode("cp1252", "replace").decode("cp1252")  # what the standard fonts of PDF have
    place = text.x / POINT, (high - text.y) / POINT
    if text.middle:
        page.drawCentredString(*place, said)
    else:
        page.drawString(*place, said)


def _draw(page: Canvas, line: Line, high: float) -> None:
    path = page.beginPath()
    (x, y), *others = line.points
    path.moveTo(x / POINT, (high - y) / POINT)
    for x, y in others:
        path.lineTo(x / POINT, (high - y) / POINT)
    if line.closed:
        path.close()
    if line.fill:
        page.setFillColor(HexColor(line.fill))
    if line.width:
        page.setStrokeColor(HexColor(line.ink))
        page.setLineWidth(line.width / POINT)
    page.drawPath(path, stroke=1 if line.width else 0, fill=1 if line.fill else 0)
