"""Zip archives, read with limits and written anew."""

from lighten.containers.archive.read_archive import Archive, Member, member_names, read_archive
from lighten.containers.archive.write_archive import (
    PackedMember,
    pack_member,
    pack_piece,
    pack_pieces,
    write_archive,
)

__all__ = [
    "Archive",
    "Member",
    "PackedMember",
    "member_names",
    "pack_member",
    "pack_piece",
    "pack_pieces",
    "read_archive",
    "write_archive",
]
