"""Explanations of each preset, class of pictures and verdict: effect, cost and purpose.

The page explains itself with them, and the printed guide is made of them; extras bring their own
(`extras.py`).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from lighten.model.kinds import PictureClass
from lighten.model.proofs import Verdict

__all__ = ["CLASSES_EXPLAINED", "PRESETS_EXPLAINED", "VERDICTS_EXPLAINED", "Explanation"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """Words for a person. does: what it is, or does. loses: what is lost by it, or "" for nothing.

    use: when to. summary: half a sentence that goes with the title; of verdicts.
    """

    title: str
    summary: str = ""
    does: str
    loses: str = ""
    use: str


PRESETS_EXPLAINED: Mapping[str, Explanation] = MappingProxyType(
    {
        "as-it-was": Explanation(
            title="As it was",
            does="Packs everything tighter and leaves out what no reader shows: leftovers of "
            "earlier saves, things stored twice, old previews.",
            use="For what must not change in a single pixel, and as the first thing to try.",
        ),
        "print-room": Explanation(
            title="Print room",
            does="Brings pictures to 300 pixels an inch where they are shown, in high quality.",
            loses="Pixels that a press cannot show. Enlarging a picture much shows it.",
            use="For what will be printed well, or enlarged a little.",
        ),
        "reading-desk": Explanation(
            title="Reading desk",
            does="Brings pictures to 150 pixels an inch, and cuts off what a frame hides of them.",
            loses="Detail that shows on enlarging to twice the size, and hidden edges of pictures.",
            use="For reading on a screen and printing in an office. The usual choice.",
        ),
        "post": Explanation(
            title="Post",
            does="Brings pictures to 110 pixels an inch and codes them more tightly; scanned pages "
            "keep 150, so that small print reads.",
            loses="Fine texture in photos, seen when they are looked at closely.",
            use="For mail and portals with a limit.",
        ),
        "feather": Explanation(
            title="Feather",
            does="Brings pictures to 72 pixels an inch; scanned pages keep 150.",
            loses="Photos look soft, and do not print well.",
            use="When it has to be as light as it can be and still be read.",
        ),
        "scan-stack": Explanation(
            title="Scan stack",
            does="Takes scanned pages apart: strokes stay sharp in a layer of their own, paper and "
            "stains become coarse behind them.",
            loses="The grain of the paper. Pencil so faint that it cannot be told from paper is "
            "looked for by the proof, and such pages stay whole.",
            use="For scanned letters, forms, and typed pages. Not for scanned photos.",
        ),
        "record-office": Explanation(
            title="Record office",
            does="Keeps every pixel, font, tag and the PDF/A level; bitonal pages become Group 4, "
            "which archives read.",
            use="For archives and records that must last.",
        ),
        "data-sheets": Explanation(
            title="Data sheets",
            does="Writes the cells of workbooks in their compact form and leaves out formats past "
            "the data, unused styles, repeated rules and leftovers. Pictures keep every pixel.",
            loses="What is typed below the data later has the format of its column.",
            use="For workbooks whose weight is in their sheets, not in pictures.",
        ),
    }
)

CLASSES_EXPLAINED: Mapping[PictureClass, Explanation] = MappingProxyType(
    {
        PictureClass.PHOTO: Explanation(
            title="Photos",
            does="Pictures with gradual changes between many colours, as cameras take them.",
            loses="Little: the eye hardly notices fewer pixels and less grain.",
            use="Most of the weight is usually here. Lower the resolution of photos first.",
        ),
        PictureClass.GRAPHIC: Explanation(
            title="Graphics",
            does="Screenshots, charts and logos: flat colours with hard edges.",
            loses="Edges and small letters blur sooner than in photos.",
            use="Keep their pixels; use lossless coding where it is lighter.",
        ),
        PictureClass.PAGE_SCAN: Explanation(
            title="Page scans",
            does="Pictures that fill the page: paper with print or handwriting.",
            loses="Below about 150 ppi, small print, dots and pencil are lost first.",
            use="Code pages with mostly text in layers.",
        ),
        PictureClass.BITONAL: Explanation(
            title="Black and white",
            does="Pictures with black and white pixels only, such as faxes and line drawings.",
            loses="Nothing at full resolution; at a lower one, thin lines break.",
            use="They are light already. Leave them at 300 ppi or more.",
        ),
        PictureClass.MASK: Explanation(
            title="Masks",
            does="Shapes that are painted in one colour: letters of a scanned page, signatures.",
            loses="The same as black and white pictures.",
            use="Keep their resolution.",
        ),
    }
)

VERDICTS_EXPLAINED: Mapping[Verdict, Explanation] = MappingProxyType(
    {
        Verdict.SAME: Explanation(
            title="Same",
            summary="nothing differs to the eye",
            does="Every page of both files was compared and no difference is visible; text, "
            "links, fields and bookmarks are equal.",
            use="Send it.",
        ),
        Verdict.CLOSE: Explanation(
            title="Close",
            summary="pictures differ a little, nothing written is lost",
            does="Text, links, fields and bookmarks are equal and all words stay readable; "
            "pictures differ a little, as the preset allows.",
            use="Send it. The worst place is one click away in the loupe.",
        ),
        Verdict.CHECK: Explanation(
            title="Check",
            summary="look at the named places before you send it",
            does="Something differs more than the preset allows, words in a picture can no longer "
            "be read, or something could not be compared. The page and the reason are named.",
            use="Look at the named place in the loupe. Gentler brings a picture back as it was.",
        ),
    }
)
