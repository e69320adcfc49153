"""Whole picture files: read into blocks, turned into stored pictures, and built from coded ones."""

from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role
from lighten.pictures.files.build import Carried, build_picture_file
from lighten.pictures.files.jpeg import MOST_XMP_BYTES
from lighten.pictures.files.picture_facts import obstacle_of, picture_facts
from lighten.pictures.files.png import text_chunk, text_of
from lighten.pictures.files.read import (
    coded_as_stored,
    coded_for_pdf,
    kind_of_picture,
    read_picture_file,
    stored_picture,
)
from lighten.pictures.files.write_resolution import with_resolution

__all__ = [
    "MOST_XMP_BYTES",
    "BadPictureError",
    "Block",
    "Carried",
    "PictureFile",
    "Role",
    "build_picture_file",
    "coded_as_stored",
    "coded_for_pdf",
    "kind_of_picture",
    "obstacle_of",
    "picture_facts",
    "read_picture_file",
    "stored_picture",
    "text_chunk",
    "text_of",
    "with_resolution",
]
