"""A proof on one page of paper, to keep with the copy."""

import io
from typing import Any

__all__ = ["proof_as_pdf"]

Json = dict[str, Any]
_WORST_PLACES = 12
_INK, _GREEN, _RULE = "#1d2a24", "#1f5b43", "#d9d2c0"


def proof_as_pdf(proof: Json) -> bytes:
    """Return the proof as one A4 page: weights, verdict, counts, and most changed pages."""
    from xml.sax.saxutils import escape

    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table

    body = ParagraphStyle("body", fontName="Helvetica", fontSize=10, leading=14, textColor=_INK)
    title = ParagraphStyle("title", parent=body, fontName="Helvetica-Bold", fontSize=16, leading=22)
    head = ParagraphStyle("head", parent=body, fontName="Helvetica-Bold", textColor=_GREEN)
    rules = [
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, _RULE),
        ("TEXTCOLOR", (0, 0), (-1, -1), _INK),
        ("FONTSIZE", (0, 0), (-1, -1), 9),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ("ALIGN", (1, 0), (-1, -1), "RIGHT"),
    ]
    before, after = proof["bytes_before"], proof["bytes_after"]
    places = sorted(proof["places"], key=lambda place: place["likeness"])
    what = _kinds_of(places)
    said = [*proof["reasons"][:6], *proof["remarks"]]
    story = [
        Paragraph(escape(f"Proof of {proof['copy_name']}"), title),
        Paragraph(
            escape(
                f"A lighter copy of {proof['name']}, made {proof['made_at']:%d %B %Y, %H:%M} UTC"
            ),
            body,
        ),
        Spacer(1, 4 * mm),
        Paragraph(
            f"{before:,} bytes before, {after:,} after ({after / before - 1:+.1%})",
            body,
        ),
        Paragraph(escape(f"{proof['verdict_title']}: {proof['verdict_summary']}."), head),
        *(Paragraph(escape(line), body) for line in said),
        Spacer(1, 4 * mm),
        Paragraph("What was counted", head),
        Table(
            [
                ["", "original", "copy"],
                [f"{what} compared", len(places), len(places)],
                *_text_counts(places),
                *([count["kind"], count["before"], count["after"]] for count in proof["counts"]),
            ],
            colWidths=[90 * mm, 35 * mm, 35 * mm],
            style=rules,
            hAlign="LEFT",
        ),
        Spacer(1, 4 * mm),
        Paragraph(f"The {what} that changed most", head),
        Table(
            [
                ["place", "sameness", "treated pictures", "lowest score of 100"],
                *(_line(place) for place in places[:_WORST_PLACES]),
            ],
            colWidths=[25 * mm, 35 * mm, 45 * mm, 55 * mm],
            style=rules,
            hAlign="LEFT",
        ),
        Spacer(1, 4 * mm),
        Paragraph("What the copy no longer has", head),
        Paragraph(escape("; ".join(proof["gone"][:12]) or "nothing was removed"), body),
        Spacer(1, 4 * mm),
        Paragraph(
            "Sameness: structural similarity as drawn, pages at 100 ppi and pictures alone at 150, "
            "1 for equal. Score: "
            "SSIMULACRA2 of a picture at the size it is shown at; from 90 on nobody sees a "
            "difference, 70 is high quality, 50 medium.",
            body,
        ),
    ]
    out = io.BytesIO()
    margin = 20 * mm
    SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=margin,
        rightMargin=margin,
        topMargin=margin,
        bottomMargin=margin,
        title=f"Proof of {proof['copy_name']}",
    ).build(story)
    return out.getvalue()


def _kinds_of(places: list[Json]) -> str:
    """Return the subject of the comparison: pages, pictures, or both."""
    kinds = {"pages" if place["page"] is not None else "pictures" for place in places}
    return " and ".join(sorted(kinds)) or "pages"


def _text_counts(places: list[Json]) -> list[list[str | int]]:
    """Return the number of regions with text, and of those with equal text."""
    equalities = [place["text_same"] for place in places if place["text_same"] is not None]
    return [["pages with the same text", len(equalities), sum(equalities)]] if equalities else []


def _line(place: Json) -> list[str]:
    scores = [picture["score"] for picture in place["pictures"] if picture["score"] is not None]
    return [
        place["title"],
        f"{place['likeness']:.4f}",
        str(len(place["pictures"])),
        f"{min(scores):.0f}" if scores else "",
    ]
