"""The wheel card as PDF, by reportlab: lines and words at the places that the drawing gives them."""

from io import BytesIO

from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from pebble_wheel.drawing.card import PAPERS, POINT, Card, Line, Text, card_shapes

PLAIN, BOLD = "Helvetica", "Helvetica-Bold"


def card_pdf(card: Card) -> bytes:
    """Return a card as one page, every length as it is on paper; the same card gives the same bytes."""
    wide, high = PAPERS[card.paper]
    packed = BytesIO()
    page = Canvas(packed, pagesize=(wide / POINT, high / POINT), invariant=1)
    page.setTitle(card.name)
    page.setLineCap(0)
    for shape in card_shapes(card):
        match shape:
            case Text():
                _write(page, shape, high)
            case Line():
                _draw(page, shape, high)
    page.showPage()
    page.save()
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
