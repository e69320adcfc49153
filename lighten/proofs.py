"""What the comparison of a copy with its original found."""

from dataclasses import dataclass, field
from enum import StrEnum

__all__ = ["PageProof", "PictureProof", "Proof", "Verdict"]


class Verdict(StrEnum):
    """same: no page differs to the eye; close: pictures differ a little; look: a person should."""

    SAME = "same"
    CLOSE = "close"
    LOOK = "look"


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureProof:
    """A treated picture as the two rendered pages show it; likeness 0 to 1.

    is_lost: it no longer shows what it showed.
    """

    part_id: str
    page: int
    likeness: float
    is_lost: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PageProof:
    """One page of the two files side by side.

    likeness: structural similarity of the rendered pages, 0 to 1.
    stray: the share of pixels off by more than 64 of 255.
    faults: what a person should look at, or nothing.
    """

    page: int
    likeness: float
    stray: float
    is_text_same: bool
    pictures: tuple[PictureProof, ...] = ()
    faults: tuple[str, ...] = field(default=())


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """The verdict, with its reasons; `pages` in page order; `faults` concern the whole file."""

    verdict: Verdict
    reasons: tuple[str, ...]
    pages: tuple[PageProof, ...]
    faults: tuple[str, ...] = field(default=())

    @property
    def suspects(self) -> frozenset[str]:
        """Ids of the pictures that may be behind the faults of pages.

        Those that are lost; all of a page that has faults for which these do not account.
        """
        return frozenset(
            picture.part_id
            for page in self.pages
            if page.faults
            for picture in page.pictures
            if picture.is_lost or len(page.faults) > sum(one.is_lost for one in page.pictures)
        )
