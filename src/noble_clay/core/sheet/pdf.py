"""A making-of sheet as PDF, A4, by reportlab."""

from __future__ import annotations

import io
from html import escape
from typing import Any

from noble_clay.core.sheet.sheet import Sheet, Step

INK, QUIET, LINE = "#22312f", "#55635e", "#ddd2bd"
FACE = "Vera"
"""A free typeface that comes with reportlab, and has the signs that sizes need."""


def sheet_pdf(sheet: Sheet) -> bytes:
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.platypus import Image, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table

    for face, file in ((FACE, "Vera.ttf"), (f"{FACE}-Bold", "VeraBd.ttf")):
        pdfmetrics.registerFont(TTFont(face, file))
    pdfmetrics.registerFontFamily(FACE, normal=FACE, bold=f"{FACE}-Bold", italic=FACE, boldItalic=f"{FACE}-Bold")
    body = ParagraphStyle("body", fontName=FACE, fontSize=9, leading=12.5, textColor=INK)
    title = ParagraphStyle("title", parent=body, fontName=f"{FACE}-Bold", fontSize=20, leading=26, spaceAfter=8)
    head = ParagraphStyle("head", parent=body, fontName=f"{FACE}-Bold", fontSize=12, leading=18, spaceBefore=8)

    def said(text: str) -> Any:
        return Paragraph(text, body)

    def table(rows: list[tuple[str, str]]) -> Any:
        found = Table([[said(a), said(b)] for a, b in rows], colWidths=[50 * mm, 110 * mm], hAlign="LEFT")
        found.setStyle([("LINEBELOW", (0, 0), (-1, -1), 0.5, LINE), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
        return found

    def step(each: Step) -> Any:
        words = [
            f"<b>{each.number}. {escape(each.name)}</b> <font color='{QUIET}'>{each.op}, {escape(each.glaze)}, "
            f"{escape(each.size)}</font>",
            escape(each.form),
            *map(escape, each.changes),
            f"<font color='{QUIET}'>{escape(each.place)}</font>",
        ]
        image = Image(io.BytesIO(each.picture), 36 * mm, 26.4 * mm)
        row = Table([[image, [said(line) for line in words]]], colWidths=[42 * mm, 130 * mm])
        row.setStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
        return KeepTogether(row)

    glazes = Table(
        [["", said(escape(word)), said(colour)] for word, colour in sheet.glazes],
        colWidths=[8 * mm, 50 * mm, 60 * mm],
        hAlign="LEFT",
    )
    glazes.setStyle([("BACKGROUND", (0, n), (0, n), colour) for n, (_, colour) in enumerate(sheet.glazes)])
    story: list[Any] = [
        Paragraph(f"Making of {escape(sheet.name)}", title),
        Image(io.BytesIO(sheet.picture), 172 * mm, 172 * mm * 620 / 900),
        said(f"{escape(sheet.size)}, {sheet.volume / 1000:.1f} cm³."),
        said(escape(sheet.notes)),
        Paragraph("Glazes", head),
        glazes,
    ]
    if sheet.printing:
        story += [Paragraph("Printing it", head), table([(escape(a), escape(b)) for a, b in sheet.printing])]
    story += [
        Paragraph("Step by step", head),
        said("From the top, as in the recipe: each line adds, cuts or keeps. Lengths in mm."),
        Spacer(1, 6),
        *map(step, sheet.steps),
    ]
    held = io.BytesIO()
    edges = dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 19 * mm)
    SimpleDocTemplate(held, pagesize=A4, title=f"Making of {sheet.name}", author="Noble Clay", **edges).build(
        story, onFirstPage=_numbered, onLaterPages=_numbered
    )
    return held.getvalue()


def _numbered(canvas: Any, document: Any) -> None:
    canvas.setFont(FACE, 8)
    canvas.setFillColor(QUIET)
    canvas.drawCentredString(document.pagesize[0] / 2, 28, str(canvas.getPageNumber()))
