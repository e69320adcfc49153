"""Findings of the comparison of a copy with its original."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

__all__ = ["Box", "PageProof", "PictureProof", "Proof", "Verdict"]


# Left, low, right, high, in points from the page's lower left.
Box = tuple[float, float, float, float]


class Verdict(StrEnum):
    """same: nothing differs to the eye; close: pictures differ a little; check: a person should."""

    SAME = "same"
    CLOSE = "close"
    CHECK = "check"

    @classmethod
    def _missing_(cls, value: object) -> "Verdict | None":
        """Read the word that proofs were stored with before."""
        return cls.CHECK if value == "look" else None


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureProof:
    """A treated picture as the two documents show it; likeness 0 to 1.

    page: None in a document without pages. score: how it looks on a screen of 100 ppi at the size
    it is shown at, by SSIMULACRA2; None where it was meant to look otherwise, or is too small to be
    judged. close_score: the same at 150 ppi, in a document without pages.
    box: where it is on its page, in points from the lower left. is_lost: it no longer shows what
    it showed. places: where something written is gone or was added, or has become hard to read.
    faults: in words. tint: how its colours have moved where that is seen, or "".
    unreadable: which words can no longer be read, one of the faults; or "". may_be_unreadable: a
    person chose so. size_pt, worst: in a document without pages, as for a page.
    """

    part_id: str
    page: int | None
    likeness: float
    score: float | None = None
    close_score: float | None = None
    box: Box | None = None
    is_lost: bool = False
    places: tuple[Box, ...] = ()
    tint: str = ""
    size_pt: tuple[float, float] = (0.0, 0.0)
    worst: Box | None = None
    faults: tuple[str, ...] = ()
    unreadable: str = ""
    may_be_unreadable: bool = False

    @property
    def is_suspect(self) -> bool:
        """True where finer coding may help; not for words that a person gave up."""
        has_lost_words = bool(self.unreadable) and not self.may_be_unreadable
        return self.is_lost or has_lost_words or any(one != self.unreadable for one in self.faults)


@dataclass(frozen=True, slots=True, kw_only=True)
class PageProof:
    """One page of the two files side by side.

    likeness: structural similarity of the rendered pages, 0 to 1.
    size_pt: width and height. stray: the share of pixels off by more than 64 of 255.
    worst: the place that is least alike, in points from the lower left; None where all is equal.
    faults: what a person should look at, or nothing.
    """

    page: int
    likeness: float
    stray: float
    is_text_same: bool
    size_pt: tuple[float, float] = (0.0, 0.0)
    worst: Box | None = None
    pictures: tuple[PictureProof, ...] = ()
    faults: tuple[str, ...] = field(default=())


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """The verdict, with its reasons; `pages` in page order; `faults` concern the whole file.

    pictures: the treated ones of a document without pages, in the order of its weight sheet.
    counts: of links, bookmarks, fields and so on, in the original and in the copy.
    readers: what was read by which program. remarks: what was not looked at, and why. is_sound: a
    second reader opens the copy, finds as many pages as in its original, and every reference in use
    leads somewhere; a copy that is not sound is nobody's to have.
    """

    verdict: Verdict
    reasons: tuple[str, ...]
    pages: tuple[PageProof, ...] = ()
    pictures: tuple[PictureProof, ...] = ()
    faults: tuple[str, ...] = field(default=())
    counts: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()
    is_sound: bool = True
    readers: tuple[str, ...] = ()

    @property
    def suspects(self) -> frozenset[str]:
        """Return the ids of pictures that may be behind the faults.

        Those with faults; all of a page with faults for which these do not account.
        """
        on_pages = (
            picture
            for page in self.pages
            if page.faults
            for picture in page.pictures
            if picture.is_suspect or len(page.faults) > _accounted_for(page)
        )
        alone = (picture for picture in self.pictures if picture.is_suspect)
        return frozenset(picture.part_id for picture in (*on_pages, *alone))


def _accounted_for(page: PageProof) -> int:
    """Return the page's faults that are its pictures' faults."""
    return sum(len(picture.faults) for picture in page.pictures)
