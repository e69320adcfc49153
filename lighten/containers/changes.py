"""Changes to the members of a package, and the writing of one member."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from lighten.containers.archive import Member, PackedMember, pack_member, pack_piece, pack_pieces
from lighten.model.kinds import ExtraKind
from lighten.parallel import Workers
from lighten.pictures.recoding.recode_job import Cut

__all__ = [
    "Changes",
    "MemberJob",
    "MemberStream",
    "Rewrite",
    "chain_rewrites",
    "pack_job",
    "pack_stream",
    "with_other_ending",
]

# Bytes that one core writes and packs.
_PACKED_A_SECOND = 4_000_000

# The bytes of a member as they are to be; a function of a module, so that workers can have it.
Rewrite = Callable[[bytes], bytes]


@dataclass(slots=True)
class Changes:
    """Changes to a package, collected until it is written.

    dropped: kinds of extras. removed: members that go. replaced: new contents by old names.
    renamed: members under another name. media_types: of renamed members, by their new names.
    merged: members that go because another, as named, holds the same.
    cuts: by the id of a picture's part, what stays of it, as shares of its sides.
    """

    dropped: set[ExtraKind] = field(default_factory=set)
    removed: set[str] = field(default_factory=set)
    replaced: dict[str, bytes] = field(default_factory=dict)
    renamed: dict[str, str] = field(default_factory=dict)
    media_types: dict[str, str] = field(default_factory=dict)
    merged: dict[str, str] = field(default_factory=dict)
    cuts: dict[str, Cut] = field(default_factory=dict)

    def name_now(self, member: str) -> str:
        """Return the present name of the content of `member`."""
        member = self.merged.get(member, member)
        return self.renamed.get(member, member)

    def names_alone(self) -> "Changes":
        """Return the changes without contents, to send to another process."""
        return Changes(renamed=self.renamed, media_types=self.media_types)


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberJob:
    """A member to be written. before: as it was packed; rewrite: what is done to it first."""

    name: str
    content: bytes = field(repr=False)
    before: Member | None = field(default=None, repr=False)
    rewrite: Rewrite | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberStream:
    """A long member that is written piece by piece.

    pieces: what `work`, a function that workers can have, makes the bytes of. bytes_about: of all.
    """

    pieces: Callable[[], Iterable[Any]] = field(repr=False)
    work: Callable[[Any], bytes]
    bytes_about: int


def pack_stream(
    name: str, stream: MemberStream, before: Member | None, workers: Workers
) -> PackedMember:
    """Rewrite and pack a member too long for memory, several pieces at a time."""
    seconds = stream.bytes_about / _PACKED_A_SECOND
    pieces = ((stream.work, piece) for piece in stream.pieces())
    return pack_pieces(name, workers.in_processes(_work_and_pack, pieces, seconds=seconds), before)


def _work_and_pack(job: tuple[Callable[[Any], bytes], Any]) -> tuple[bytes, bytes]:
    work, piece = job
    content = work(piece)
    return content, pack_piece(content)


def chain_rewrites(*rewrites: Rewrite | None) -> Rewrite:
    """Apply the given rewrites one after the other; None entries are skipped."""
    return partial(_run_in_turn, [rewrite for rewrite in rewrites if rewrite is not None])


def _run_in_turn(rewrites: list[Rewrite], content: bytes) -> bytes:
    for rewrite in rewrites:
        content = rewrite(content)
    return content


def with_other_ending(member: str, suffix: str) -> str:
    """A member's name with that ending, or its own where that is another word for it."""
    stem, _, ending = member.rpartition(".")
    same = {"jpg": "jpeg", "jpe": "jpeg"}.get(ending.lower(), ending.lower())
    return member if same == suffix else f"{stem or ending}.{suffix}"


def pack_job(job: MemberJob) -> PackedMember:
    """Rewrite and pack a member; runs in a worker process."""
    if job.rewrite is None:
        return pack_member(job.name, job.content, job.before)
    content = job.rewrite(job.content)
    return pack_member(job.name, content, job.before if content == job.content else None)
