"""A TIFF file opened to be changed, and written anew page by page."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from lighten.contract import FileKind
from lighten.formats.tiff import tags
from lighten.formats.tiff.coded_page import chunk_of, pixel_fields
from lighten.formats.tiff.directories import TiffFile
from lighten.formats.tiff.kinds import TIFF
from lighten.formats.tiff.open_file import open_tiff
from lighten.formats.tiff.page import Photometric, TiffPage, pages_of, structure_obstacle
from lighten.formats.tiff.stored_page import copied, stored_page
from lighten.formats.tiff.write import PageToWrite, longs, ratio, write_tiff
from lighten.model.kinds import ExtraKind, PartKind
from lighten.model.plans import Action, Decision, Outcome, Plan
from lighten.model.source import Source
from lighten.model.treatments import LOSSLESS
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.pixels.find_skew import with_skew
from lighten.pictures.pixels.sizes import screen_px
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.recoding.recode_job import within_cut

__all__ = ["TiffEditing", "edit_tiff"]

# Size of the picture, which Exif declares as well (Exif 2.32, table 5).
_EXIF_WIDTH, _EXIF_HEIGHT = 40962, 40963


@contextmanager
def edit_tiff(source: Source, sheet: WeightSheet) -> Iterator["TiffEditing"]:
    """The file opened; nothing is written before `save`. Raises: as `open_tiff`."""
    with open_tiff(source) as file:
        yield TiffEditing(file, sheet)


class TiffEditing:
    """See `lighten.contract.Editing`."""

    def __init__(self, file: TiffFile, sheet: WeightSheet) -> None:
        self._file, self._sheet = file, sheet
        self._pages = {page.id: page for page in pages_of(file)}
        self._obstacle = structure_obstacle(file)
        self._recoded: dict[str, Recoded] = {}

    def leave_out(self, plan: Plan) -> Mapping[str, Outcome]:
        """Return no outcomes: parts are dropped when the file is written."""
        return {}

    def job(self, part: Part, decision: Decision) -> RecodeJob:
        if part.picture is None:
            raise KeyError(part.id)
        page = self._pages[part.id]
        treatment = decision.picture or LOSSLESS
        job = RecodeJob(
            picture=stored_page(self._file, page),
            picture_class=part.picture.picture_class,
            target_px=None if page.is_exact_only else within_cut(decision.target_px, decision.cut),
            treatment=LOSSLESS if page.is_exact_only else treatment,
            cut=None if page.is_exact_only else decision.cut,
            replacement=decision.replacement,
            holder=Holder.TIFF,
            shown_px=screen_px(part.picture),
            orientation=page.orientation,
        )
        return with_skew(job)

    def put(self, part: Part, recoded: Recoded) -> int:
        self._recoded[part.id] = recoded
        return part.size_bytes - recoded.picture.weight if recoded.picture is not None else 0

    def apply_rest(self, plan: Plan, workers: Workers) -> Mapping[str, Outcome]:
        """Return the outcomes of extras as decided, and of profiles as the pictures came out."""
        decisions = plan.by_part()
        return {
            part.id: self._outcome(part, decisions[part.id])
            for part in self._sheet.parts
            if part.kind not in (PartKind.PICTURE, PartKind.STRUCTURE)
        }

    def save(self, plan: Plan, out: Path) -> FileKind:
        with out.open("wb") as opened:
            if self._obstacle:
                opened.write(self._file.data[:])
                return TIFF
            write_tiff(
                self._written(plan.dropped_extras(self._sheet)),
                opened,
                order=self._file.order,
                most_bytes=self._file.size_bytes,
            )
        return TIFF

    def _written(self, dropped: set[ExtraKind]) -> Iterator[PageToWrite]:
        by_start = {page.directory.start: page for page in self._pages.values()}
        left_out = _tags_of(self._file, dropped)
        for directory in self._file.pages:
            page = by_start.get(directory.start)
            if page is None and ExtraKind.THUMBNAILS in dropped:
                continue
            as_it_was = copied(self._file, directory, left_out)
            recoded = self._recoded.get(page.id) if page is not None else None
            if page is None or recoded is None or recoded.picture is None:
                yield as_it_was
            else:
                yield _with_pixels(
                    as_it_was,
                    page,
                    recoded.picture,
                    self._file.order,
                    keeps_profile=_keeps(recoded),
                )

    def _outcome(self, part: Part, decision: Decision) -> Outcome:
        action, reason = decision.action, decision.reason
        if self._obstacle:
            action, reason = Action.KEEP, f"kept: the file is {self._obstacle}"
        elif part.kind is PartKind.PROFILE:
            recoded = self._recoded.get(part.id.replace("profile:", "page:"))
            is_kept = recoded is None or _keeps(recoded)
            action = Action.KEEP if is_kept else Action.DROP
            reason = "kept" if is_kept else "its colours are plain now, and need none"
        elif part.extra is ExtraKind.LEFTOVERS:
            action, reason = Action.DROP, "nothing in the file points to it"
        return Outcome(
            part_id=part.id,
            action=action,
            reason=reason,
            bytes_before=part.size_bytes,
            bytes_after=0 if action is Action.DROP else part.size_bytes,
        )


def _keeps(recoded: Recoded) -> bool:
    return not recoded.has_plain_colours


def _tags_of(file: TiffFile, dropped: set[ExtraKind]) -> frozenset[int]:
    present = {tag for directory in file.pages for tag in directory.entries}
    left_out = {tag for tag in present if tags.extra_of_tag(tag) in dropped}
    if ExtraKind.THUMBNAILS in dropped:
        left_out.add(tags.SUB_IFDS)
    if ExtraKind.MAKERS_NOTES in dropped:
        left_out.add(tags.MAKERS_NOTE)
    return frozenset(left_out)


def _with_pixels(
    before: PageToWrite, page: TiffPage, coded: CodedPicture, order: str, *, keeps_profile: bool
) -> PageToWrite:
    """Return a page with new pixels and its other tags."""
    fields = {tag: value for tag, value in before.fields.items() if tag not in tags.OF_PIXELS}
    if not keeps_profile:
        fields.pop(tags.PROFILE, None)
    below = dict(before.below)
    size = (coded.width_px, coded.height_px)
    if size != (page.width_px, page.height_px):
        if page.dots is not None:
            shares = size[0] / page.width_px, size[1] / page.height_px
            for tag, dots, share in zip(
                (tags.XRESOLUTION, tags.YRESOLUTION),
                _declared_resolution(page),
                shares,
                strict=True,
            ):
                fields[tag] = ratio(order, dots * share)
        if tags.EXIF in below:
            below[tags.EXIF] = tuple(_of_size(one, size, order) for one in below[tags.EXIF])
    fields |= pixel_fields(
        coded,
        order,
        extra_samples=before.fields.get(tags.EXTRA_SAMPLES) if page.extra_samples else None,
        is_inks=page.photometric == Photometric.INKS and coded.colours > 3,
    )
    return PageToWrite(fields=fields, chunks=(chunk_of(coded, order),), below=below)


def _declared_resolution(page: TiffPage) -> tuple[float, float]:
    """Return the resolution per inch or centimetre, in the page's own unit."""
    assert page.dots is not None
    return page.dots[0] / page.units_per_inch, page.dots[1] / page.units_per_inch


def _of_size(directory: PageToWrite, size: tuple[int, int], order: str) -> PageToWrite:
    sizes = {
        tag: longs(order, side)
        for tag, side in zip((_EXIF_WIDTH, _EXIF_HEIGHT), size, strict=True)
        if tag in directory.fields
    }
    return replace(directory, fields={**directory.fields, **sizes})
