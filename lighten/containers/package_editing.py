"""A package opened to be changed: pictures in, what is dropped out, all else packed tighter."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path

from lighten.containers.archive import Member, PackedMember, write_archive
from lighten.containers.changes import (
    Changes,
    MemberJob,
    MemberStream,
    Rewrite,
    pack_job,
    pack_stream,
    with_other_ending,
)
from lighten.containers.compound import file_inside, is_compound, with_file_inside
from lighten.containers.package_document import PackageDocument
from lighten.containers.package_outcomes import PackageOutcomes
from lighten.containers.pictures import build_member_picture, member_picture
from lighten.containers.pictures.weigh_members import metadata_bytes
from lighten.contract import FileKind
from lighten.model.errors import LimitExceededError, SignedFileError, UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.plans import Action, Decision, Outcome, Plan
from lighten.model.treatments import LOSSLESS
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import Workers
from lighten.pictures.coding.coded import CodedPicture, Holder
from lighten.pictures.files import (
    BadPictureError,
    PictureFile,
    coded_as_stored,
    stored_picture,
)
from lighten.pictures.pixels.sizes import screen_px
from lighten.pictures.recoding.recode import Recoded, RecodeJob
from lighten.pictures.recoding.recode_job import Cut, within_cut

__all__ = ["PackageEditing"]

# As many as are worked on at a time.
_FILES_KEPT = 8
_LONG_BYTES = 12_000_000


class PackageEditing:
    """See `lighten.contract.Editing`; formats say what they do to members of their own."""

    # The document measures pictures in their own dots.
    needs_dots = False

    def __init__(
        self,
        document: PackageDocument,
        sheet: WeightSheet,
        kinds: Sequence[FileKind],
    ) -> None:
        """kinds: of files that the format reads; a copy stays of the one it was."""
        self.archive, self.sheet = document.package.archive, sheet
        self.members_of = document.members_of
        self._kind = next(kind for kind in kinds if kind.media_type == document.media_type)
        self._pictures = {picture.id: picture for picture in document.pictures}
        self._packed: list[PackedMember] = []
        self._files: dict[str, PictureFile] = {}
        self.changes = Changes()

    # What formats add.

    def rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        """Return the rewrites of members, by their names."""
        raise NotImplementedError

    def streams(self, plan: Plan) -> Mapping[str, MemberStream]:
        """Return the members that are too long to be rewritten in memory, by name."""
        return {}

    def order(self, names: list[str]) -> list[str]:
        """The order in which members are written."""
        return names

    # The steps of `Editing`.

    def leave_out(self, plan: Plan) -> Mapping[str, Outcome]:
        if self.sheet.is_signed and not plan.may_end_signature:
            raise SignedFileError(
                f"{self.archive.shown_as}: is signed, and any change ends the signature. Say that "
                "it may end, or hand the file over as it is."
            )
        decisions = plan.by_part()
        for part in self.sheet.parts:
            if decisions[part.id].action is not Action.DROP:
                continue
            if part.extra_kind is not None:
                self.changes.dropped.add(part.extra_kind)
            if part.extra is not None:
                if part.extra is not ExtraKind.REPEATS:
                    self.changes.removed |= self.members_of(part.extra)
            elif part.picture is not None:
                picture = self._pictures[part.id]
                self.changes.removed |= {picture.member, *picture.repeats}
            elif part.name_facts is None:
                self.changes.removed.add(part.id)
        if ExtraKind.REPEATS in self.changes.dropped:
            for picture in self._pictures.values():
                if picture.member not in self.changes.removed:
                    self.changes.merged |= dict.fromkeys(picture.repeats, picture.member)
        return {}

    def job(self, part: Part, decision: Decision) -> RecodeJob:
        if part.picture is None:
            raise KeyError(part.id)
        file = self._file(part.id)
        stored = stored_picture(file)
        return RecodeJob(
            # What Deflate made of it counts, where the archive has packed it.
            picture=replace(stored, weight=min(part.size_bytes, stored.weight)),
            picture_class=part.picture.picture_class,
            target_px=within_cut(decision.target_px, decision.cut),
            treatment=decision.picture or LOSSLESS,
            cut=decision.cut,
            replacement=decision.replacement,
            holder=Holder.FILE,
            shown_px=screen_px(part.picture),
            may_repack=part.picture.may_repack,
        )

    def put(self, part: Part, recoded: Recoded) -> int:
        saved = 0
        if recoded.picture is not None:
            saved = self._put(part, recoded.picture, recoded)
        self._files.pop(part.id, None)
        return saved

    def apply_rest(self, plan: Plan, workers: Workers) -> Mapping[str, Outcome]:
        if ExtraKind.PICTURE_METADATA in self.changes.dropped:
            self._strip_untreated(plan)
        rewrites = self.rewrites(plan)
        gone = self.changes.removed | self.changes.merged.keys()
        names = self.order([name for name in self.archive.members if name not in gone])
        streams = dict(self.streams(plan))
        streams |= {
            name: self._as_it_is(name)
            for name in names
            if _is_long_text(self.archive.members[name])
            and not (name in streams or name in rewrites or name in self.changes.replaced)
        }
        at_once = [name for name in names if name not in streams]
        jobs = (self._member_job(name, rewrites.get(name)) for name in at_once)
        packed = dict(zip(at_once, workers.in_threads(pack_job, jobs), strict=True))
        for name in names:
            if name in streams:
                before = self.archive.members[name]
                packed[name] = pack_stream(name, streams[name], before, workers)
        self._packed = [packed[name] for name in names]
        weights = {member.name: member.weight for member in self._packed}
        outcomes = PackageOutcomes(
            sheet=self.sheet,
            archive=self.archive,
            members_of=self.members_of,
            pictures=self._pictures,
            changes=self.changes,
        )
        return dict(outcomes.after(plan, weights))

    def save(self, plan: Plan, out: Path) -> FileKind:
        write_archive(self._packed, out)
        return self._kind

    # Documents inside, as `lighten.contract.Nesting` has them.

    def embedded(self, part: Part) -> bytes:
        content = self.archive.content(part.id)
        return (is_compound(content) and file_inside(content)) or content

    def put_embedded(self, part: Part, content: bytes) -> None:
        before = self.archive.content(part.id)
        is_wrapped = is_compound(before)
        self.changes.replaced[part.id] = (
            with_file_inside(before, content) if is_wrapped else content
        )

    # Pictures.

    def _file(self, part_id: str) -> PictureFile:
        """Read once for its jobs and for what comes of them."""
        if part_id not in self._files:
            while len(self._files) >= _FILES_KEPT:
                self._files.pop(next(iter(self._files)))
            self._files[part_id] = self._read_file(part_id)
        return self._files[part_id]

    def _read_file(self, part_id: str) -> PictureFile:
        member = self._pictures[part_id].member
        try:
            file = member_picture(self.archive.content(member))
        except BadPictureError:
            file = None
        if file is None:
            raise UnreadableFileError(f"{self.archive.shown_as}: {member} in it cannot be read.")
        return file

    def _put(self, part: Part, coded: CodedPicture, recoded: Recoded | None) -> int:
        picture = self._pictures[part.id]
        file = self._file(part.id)
        shown = (file.width_px, file.height_px)
        keeps_metadata = ExtraKind.PICTURE_METADATA not in self.changes.dropped
        if recoded is not None and recoded.cut is not None:
            self.changes.cuts[part.id] = cut = _in_whole_pixels(recoded.cut, shown)
            shown = (
                max(1, round((cut[2] - cut[0]) * shown[0])),
                max(1, round((cut[3] - cut[1]) * shown[1])),
            )
        try:
            built = build_member_picture(
                file,
                coded,
                shown_px=shown,
                keeps_profile=recoded is None or not recoded.has_plain_colours,
                keeps_metadata=keeps_metadata,
                needs_dots=self.needs_dots and (coded.width_px, coded.height_px) != shown,
            )
        except BadPictureError as error:
            raise LimitExceededError(
                f"{self.archive.shown_as}: the Exif data of {picture.member} in it are longer than "
                "its new coding can carry. Leave out camera data, or ask for lossless coding."
            ) from error
        self.changes.replaced[picture.member] = built.content
        new_name = self._new_name(picture.member, built.suffix)
        if new_name != picture.member:
            self.changes.renamed[picture.member] = new_name
            self.changes.media_types[new_name] = built.media_type
        heads = self.archive.members[picture.member].weight - len(
            self.archive.members[picture.member].packed
        )
        kept = metadata_bytes(self.archive, picture.member, file) if keeps_metadata else 0
        return part.size_bytes - (len(built.content) + heads - kept)

    def _strip_untreated(self, plan: Plan) -> None:
        """Strip metadata also from pictures that no coding made lighter."""
        decisions = plan.by_part()
        for part in self.sheet.parts:
            if part.picture is None or decisions[part.id].action in (Action.KEEP, Action.DROP):
                continue
            member = self._pictures[part.id].member
            if member in self.changes.replaced:
                continue
            file = self._file(part.id)
            stored = coded_as_stored(file)
            if stored is not None and metadata_bytes(self.archive, member, file):
                self._put(part, stored, None)
            self._files.pop(part.id, None)

    def _new_name(self, member: str, suffix: str) -> str:
        """Return a free member name with the file extension of its present content."""
        name = with_other_ending(member, suffix)
        if name == member:
            return member
        taken = self._taken_names
        number = 2
        while name.lower() in taken:
            name = with_other_ending(f"{member.rpartition('.')[0]}-{number}.x", suffix)
            number += 1
        taken.add(name.lower())
        return name

    @cached_property
    def _taken_names(self) -> set[str]:
        return {name.lower() for name in self.archive.members}

    # Members.

    def _as_it_is(self, name: str) -> MemberStream:
        return MemberStream(
            pieces=partial(self.archive.chunks, name),
            work=bytes,
            bytes_about=self.archive.members[name].size_bytes,
        )

    def _member_job(self, name: str, rewrite: Rewrite | None) -> MemberJob:
        if name in self.changes.replaced:
            return MemberJob(name=self.changes.name_now(name), content=self.changes.replaced[name])
        return MemberJob(
            name=name,
            content=self.archive.content(name),
            before=self.archive.members[name],
            rewrite=rewrite,
        )


def _is_long_text(member: Member) -> bool:
    """Return whether a long member is text; films and sounds gain nothing from packing."""
    return member.size_bytes > _LONG_BYTES and len(member.packed) < 0.8 * member.size_bytes


def _in_whole_pixels(cut: Cut, size_px: tuple[int, int]) -> Cut:
    """Return the cut in whole pixels, as `recode_job.cut_out` makes it."""
    width, height = size_px
    left, top, right, bottom = cut
    return (
        round(left * width) / width,
        round(top * height) / height,
        max(round(left * width) + 1, round(right * width)) / width,
        max(round(top * height) + 1, round(bottom * height)) / height,
    )
