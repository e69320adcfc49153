"""The verdict that follows from compared pages and pictures."""

from lighten.model.proofs import PageProof, PictureProof, Proof, Verdict

__all__ = ["proof_from", "verdict_of_page"]

# A page this alike looks like its original on a screen.
_SAME_LIKENESS = 0.995
_SAME_PICTURE_LIKENESS = 0.97
# From 90 on pictures are indistinguishable (SSIMULACRA2's own scale); a few places of a picture
# score some points lower than the whole.
_SAME_SCORE = 85.0


def proof_from(
    faults: tuple[str, ...],
    pages: tuple[PageProof, ...],
    pictures: tuple[PictureProof, ...] = (),
    *,
    has_text: bool = False,
    may_be_same: bool = True,
) -> Proof:
    """Decide the verdict. has_text: text and what depends on it were compared besides looks.

    may_be_same: nothing in it was too fine to be proved.
    """
    reasons = (
        *faults,
        *(fault for page in pages for fault in page.faults),
        *(fault for picture in pictures for fault in picture.faults),
    )
    if not reasons and not pages and not pictures and not has_text:
        reasons = ("nothing in it could be compared with the original",)
    if reasons:
        return Proof(
            verdict=Verdict.CHECK, reasons=reasons, pages=pages, pictures=pictures, faults=faults
        )
    is_same = (
        may_be_same
        and all(verdict_of_page(page) is Verdict.SAME for page in pages)
        and all(_is_same(picture) for picture in pictures)
    )
    verdict = Verdict.SAME if is_same else Verdict.CLOSE
    reason = _reason(pages, pictures, is_same=is_same)
    return Proof(verdict=verdict, reasons=(reason,), pages=pages, pictures=pictures)


def verdict_of_page(page: PageProof) -> Verdict:
    """Return the verdict of one page by itself."""
    if page.faults:
        return Verdict.CHECK
    is_same = page.likeness >= _SAME_LIKENESS and all(map(_is_same, page.pictures))
    return Verdict.SAME if is_same else Verdict.CLOSE


def _is_same(picture: PictureProof) -> bool:
    return (
        picture.likeness >= _SAME_PICTURE_LIKENESS
        and all(
            score is None or score >= _SAME_SCORE for score in (picture.score, picture.close_score)
        )
        and not picture.tint
    )


def _reason(
    pages: tuple[PageProof, ...], pictures: tuple[PictureProof, ...], *, is_same: bool
) -> str:
    if not pages and not pictures:
        return "text and all that hangs on it are equal"
    if is_same:
        return "every page looks the same, text and links are equal" if pages else "looks the same"
    tints = [
        (picture.tint, page.page) for page in pages for picture in page.pictures if picture.tint
    ]
    if tints:
        tint, number = tints[0]
        return f"nothing written is lost; colours are {tint}, first on page {number}"
    tint = next((picture.tint for picture in pictures if picture.tint), "")
    if tint:
        return f"nothing written is lost; colours are {tint}"
    shown = (*pictures, *(picture for page in pages for picture in page.pictures))
    scores = [picture for picture in shown if picture.score is not None]
    worst = min(scores, key=lambda picture: picture.score or 0.0, default=None)
    if worst is None or worst.score is None or worst.score >= _SAME_SCORE:
        return "nothing written is lost; pictures differ less than is seen"
    where = f", the worst on page {worst.page}" if worst.page else ""
    return (
        f"nothing written is lost; the lowest score of a picture is {worst.score:.0f} of 100{where}"
    )
