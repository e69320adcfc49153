"""A proof on one page of paper, to keep with the copy."""

import io
from typing import Any

__all__ = ["proof_as_pdf"]

Json = dict[str, Any]
_WORST_PAGES = 12
_INK, _GREEN, _RULE = "#1d2a24", "#1f5b43", "#d9d2c0"
_WORDS = {
    "same": "Same: no page differs to the eye.",
    "close": "Close: pictures differ a little.",
    "look": "Look: a person should look at what is named below.",
}


def proof_as_pdf(proof: Json) -> bytes:
    """One A4 page: weights, verdict, what was counted, and the pages that are least alike."""
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
    pages = sorted(proof["pages"], key=lambda page: page["likeness"])
    reasons = proof["reasons"][:6]
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
        Paragraph(escape(_WORDS[proof["verdict"]]), head),
        *(Paragraph(escape(reason), body) for reason in reasons),
        Spacer(1, 4 * mm),
        Paragraph("What was counted", head),
        Table(
            [
                ["", "original", "copy"],
                ["pages compared", len(pages), len(pages)],
                [
                    "pages with the same text",
                    len(pages),
                    sum(page["text_same"] for page in pages),
                ],
                *([one["kind"], one["before"], one["after"]] for one in proof["counts"]),
            ],
            colWidths=[90 * mm, 35 * mm, 35 * mm],
            style=rules,
            hAlign="LEFT",
        ),
        Spacer(1, 4 * mm),
        Paragraph("The pages that are least alike", head),
        Table(
            [
                ["page", "sameness", "treated pictures", "lowest score of 100"],
                *(_line(page) for page in pages[:_WORST_PAGES]),
            ],
            colWidths=[25 * mm, 35 * mm, 45 * mm, 55 * mm],
            style=rules,
            hAlign="LEFT",
        ),
        Spacer(1, 4 * mm),
        Paragraph("What the copy no longer has", head),
        Paragraph(escape("; ".join(proof["gone"][:12]) or "nothing was left out"), body),
        Spacer(1, 4 * mm),
        Paragraph(
            "Sameness: structural similarity of the drawn pages at 100 ppi, 1 for equal. Score: "
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


def _line(page: Json) -> list[str]:
    scores = [one["score"] for one in page["pictures"] if one["score"] is not None]
    return [
        str(page["page"]),
        f"{page['likeness']:.4f}",
        str(len(page["pictures"])),
        f"{min(scores):.0f}" if scores else "",
    ]
