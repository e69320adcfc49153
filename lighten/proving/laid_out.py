"""Documents without pages of their own, compared as an office suite lays them out."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.contract import ConvertingFormat, PagedReading
from lighten.model.errors import LightenError
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Outcome
from lighten.model.proofs import PageProof
from lighten.model.source import Progress, Source
from lighten.model.weights import WeightSheet
from lighten.office_suite import OfficeSuite
from lighten.proving.page_batches import compare_all_pages
from lighten.proving.pages import PageBatch
from lighten.proving.permitted_losses import PermittedLosses
from lighten.registry import LAID_OUT_AS, format_named

__all__ = ["LaidOut", "compare_laid_out", "lay_out_both", "may_change_layout"]

# Some drawing takes seconds a page; everything else is proved without it.
_LONGEST_S = 30.0
_TOO_LONG = "drawing them takes too long"
_NO_SUITE = "pages were not laid out: no office suite is installed here"
# Extras that no layout depends on. Fields of a text may show its description, which is not one.
_BESIDE_PAGES = frozenset(
    {
        ExtraKind.THUMBNAILS,
        ExtraKind.PICTURE_METADATA,
        ExtraKind.CAMERA_DATA,
        ExtraKind.LOCATION,
        ExtraKind.MAKERS_NOTES,
        ExtraKind.LEFTOVERS,
        ExtraKind.PRINTER_SETTINGS,
        ExtraKind.VIEW_SETTINGS,
    }
)
_NOT_LAID_OUT = "pages were not laid out: the office suite made none of these files"


@dataclass(frozen=True, slots=True, kw_only=True)
class LaidOut:
    """Results of laid-out pages; faults: of the whole. remarks: reasons for missing pages."""

    pages: tuple[PageProof, ...] = ()
    faults: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()


def may_change_layout(sheet: WeightSheet, outcomes: tuple[Outcome, ...]) -> bool:
    """Return whether anything changed that the layout of pages may depend on.

    Pictures keep their frames and are compared by themselves. A file of an old form is converted,
    which may always change its layout.
    """
    if isinstance(format_named(sheet.format), ConvertingFormat):
        return True
    return any(
        outcome.action not in (Action.KEEP, Action.PACK)
        and part.picture is None
        and part.extra_kind not in _BESIDE_PAGES
        for part, outcome in zip(sheet.parts, outcomes, strict=True)
    )


def compare_laid_out(
    original: Source,
    copy: Source,
    sheet: WeightSheet,
    progress: Progress,
    suite: OfficeSuite | None = None,
) -> LaidOut:
    """Count, text and looks of the pages that both documents come to.

    Where pictures lie on them is not known, and treated ones are judged by themselves; so pages
    are held to be the same but for small things.
    """
    suite = suite or OfficeSuite()
    if not suite.available():
        return LaidOut(remarks=(_NO_SUITE,))
    with lay_out_both(original, copy, sheet.format, sheet.media_type, suite) as both:
        if both is None:
            return LaidOut(remarks=(_NOT_LAID_OUT,))
        before, after = (replace(original, path=path, password="") for path in both)
        try:
            counts = [_count(source) for source in (before, after)]
        except LightenError as error:
            return LaidOut(faults=(f"a laid-out file cannot be read: {error.message}",))
        if counts[0] != counts[1]:
            fault = f"laid out, the copy has {counts[1]} pages and the original {counts[0]}"
            return LaidOut(faults=(fault,))
        batch = PageBatch(
            format=LAID_OUT_AS.name,
            original=before,
            copy=after,
            pages=tuple((page, ()) for page in range(1, counts[0] + 1)),
            permitted=PermittedLosses(is_redrawn=True),
        )
        pages = compare_all_pages(batch, progress, seconds_at_most=_LONGEST_S)
        missing = counts[0] - len(pages)
        remark = (f"{missing} of {counts[0]} laid-out pages were not compared: {_TOO_LONG}",)
        return LaidOut(pages=pages, remarks=remark if missing else ())


@contextmanager
def lay_out_both(
    original: Source, copy: Source, format_name: str, media_type: str, suite: OfficeSuite
) -> Iterator[tuple[Path, ...] | None]:
    """Lay out both documents as temporary PDFs; None if the suite cannot.

    Of a file of an old form, what it became: the suite lays out old forms by other rules.
    """
    format_ = format_named(format_name)
    if isinstance(format_, ConvertingFormat):
        original, media_type = (
            format_.convert(original),
            format_.becomes.offers.kinds[0].media_type,
        )
    ending = format_.offers.kind_of(media_type).suffixes[0]
    with TemporaryDirectory(dir=copy.path.parent, prefix=".laid-out-") as folder:
        documents = [(source.path, ending) for source in (original, copy)]
        yield suite.lay_out(documents, Path(folder))


def _count(source: Source) -> int:
    with LAID_OUT_AS.read(source) as reading:
        assert isinstance(reading, PagedReading)
        return len(reading.page_sizes)
