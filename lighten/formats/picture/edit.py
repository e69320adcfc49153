"""A picture file opened to be changed, and built anew."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from lighten.contract import FileKind
from lighten.formats.picture.kinds import kind_named
from lighten.formats.picture.open_file import open_picture
from lighten.model.errors import LimitExceededError
from lighten.model.kinds import PartKind
from lighten.model.plans import Action, Decision, Outcome, Plan
from lighten.model.source import Source
from lighten.model.treatments import LOSSLESS
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.files import (
    BadPictureError,
    PictureFile,
    build_picture_file,
    coded_as_stored,
    stored_picture,
)
from lighten.pictures.metadata.carried import carried_by, exif_of
from lighten.pictures.metadata.exif import ExifChange, exif_orientation
from lighten.pictures.pixels.find_skew import with_skew
from lighten.pictures.pixels.sizes import screen_px
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.recoding.recode_job import within_cut

__all__ = ["PictureEditing", "edit_picture"]


@contextmanager
def edit_picture(source: Source, sheet: WeightSheet) -> Iterator["PictureEditing"]:
    """The file opened; nothing is written before `save`. Raises: as `open_picture`."""
    yield PictureEditing(open_picture(source), sheet, source.name)


class PictureEditing:
    """See `lighten.contract.Editing`."""

    def __init__(self, file: PictureFile, sheet: WeightSheet, name: str) -> None:
        self._file, self._sheet, self._name = file, sheet, name
        self._recoded: Recoded | None = None

    def leave_out(self, plan: Plan) -> Mapping[str, Outcome]:
        """Return no outcomes: parts are dropped when the file is built."""
        return {}

    def job(self, part: Part, decision: Decision) -> RecodeJob:
        if part.picture is None:
            raise KeyError(part.id)
        job = RecodeJob(
            picture=stored_picture(self._file),
            picture_class=part.picture.picture_class,
            target_px=within_cut(decision.target_px, decision.cut),
            treatment=decision.picture or LOSSLESS,
            cut=decision.cut,
            replacement=decision.replacement,
            holder=Holder.FILE,
            shown_px=screen_px(part.picture),
            may_repack=part.picture.may_repack,
            orientation=exif_orientation(exif_of(self._file)),
        )
        return with_skew(job)

    def put(self, part: Part, recoded: Recoded) -> int:
        self._recoded = recoded
        return part.size_bytes - recoded.picture.weight if recoded.picture is not None else 0

    def apply_rest(self, plan: Plan, workers: Workers) -> Mapping[str, Outcome]:
        """Return the outcomes of extras as decided, and of the profile as the picture came out."""
        decisions = plan.by_part()
        return {
            part.id: self._outcome(part, decisions[part.id])
            for part in self._sheet.parts
            if part.kind not in (PartKind.PICTURE, PartKind.STRUCTURE)
        }

    def save(self, plan: Plan, out: Path) -> FileKind:
        coded = self._coded()
        if coded is None:
            # A kind that cannot be built anew: the file stays as it was.
            out.write_bytes(self._file.data)
            return kind_named(self._file.kind)
        size = (coded.width_px, coded.height_px)
        is_resized = size != (self._file.width_px, self._file.height_px)
        change = ExifChange(
            dropped=plan.dropped_extras(self._sheet),
            size_px=size if is_resized else None,
            share=coded.width_px / self._file.width_px,
        )
        carried = carried_by(self._file, change, coded.coding, keeps_profile=self._keeps_profile())
        try:
            out.write_bytes(build_picture_file(coded, carried))
        except BadPictureError as error:
            raise LimitExceededError(
                f"{self._name}: its Exif data are longer than a {kind_named(coded.coding).title} "
                "can carry. Leave out descriptions and camera data, or ask for lossless coding."
            ) from error
        return kind_named(coded.coding)

    def _coded(self) -> CodedPicture | None:
        """Return the picture to write; None if its kind is only read here."""
        if self._recoded is not None and self._recoded.picture is not None:
            return self._recoded.picture
        return coded_as_stored(self._file)

    def _keeps_profile(self) -> bool:
        return self._recoded is None or not self._recoded.has_plain_colours

    def _outcome(self, part: Part, decision: Decision) -> Outcome:
        action, reason = decision.action, decision.reason
        if part.kind is PartKind.PROFILE:
            keeps = self._keeps_profile()
            action = Action.KEEP if keeps else Action.DROP
            reason = "kept" if keeps else "its colours are plain now, and need none"
        elif self._coded() is None:
            action, reason = Action.KEEP, "kept: this kind of file is not built anew"
        return Outcome(
            part_id=part.id,
            action=action,
            reason=reason,
            bytes_before=part.size_bytes,
            bytes_after=0 if action is Action.DROP else part.size_bytes,
        )
