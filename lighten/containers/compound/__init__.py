"""Compound files ([MS-CFB]): a file system in a file, as documents inside documents come in."""

from lighten.containers.compound.compound_file import (
    Entry,
    is_compound,
    read_compound,
    write_compound,
)
from lighten.containers.compound.file_inside import file_inside, with_file_inside

__all__ = [
    "Entry",
    "file_inside",
    "is_compound",
    "read_compound",
    "with_file_inside",
    "write_compound",
]
