"""A member of a package as a picture file."""

import io
import struct
from dataclasses import replace

from lighten.containers.pictures.metafiles import (
    is_metafile,
    metafile_inches,
    metafile_size,
    wrapped_bitmap,
)
from lighten.pictures.files import (
    BadPictureError,
    Block,
    PictureFile,
    Role,
    kind_of_picture,
    read_picture_file,
)

__all__ = ["METAFILE", "SCREEN_DOTS", "SVG", "member_picture", "natural_size_pt"]

METAFILE, SVG = "metafile", "svg"
_SVG_MARK, _SVG_WITHIN = b"<svg", 2000
# What readers take a picture for that says nothing of its dots: those of a screen.
SCREEN_DOTS = 96.0
_POINTS_PER_INCH = 72.0
_TIFF_MARKS = (b"II*\0", b"MM\0*")
_HEAD_BYTES = 32
_VECTOR = "kept: it is drawn by commands, not made of pixels"


def member_picture(content: bytes) -> PictureFile | None:
    """Return the facts of a picture by its structure; None for an unknown kind.

    A metafile that is nothing but a bitmap is that bitmap; other drawings have the kind `METAFILE`
    or `SVG`.
    Raises: BadPictureError if damaged.
    """
    if is_metafile(content):
        bitmap = wrapped_bitmap(content)
        return _metafile(content) if bitmap is None else _unwrapped(content, bitmap)
    if content.startswith(_TIFF_MARKS):
        return _tiff(content)
    if not kind_of_picture(content[:_HEAD_BYTES]):
        return _metafile(content, SVG) if _SVG_MARK in content[:_SVG_WITHIN] else None
    try:
        return read_picture_file(content)
    except (KeyError, IndexError, ValueError, struct.error) as error:
        raise BadPictureError("It is damaged.") from error


def _unwrapped(content: bytes, bitmap: bytes) -> PictureFile:
    """Return the bitmap that a metafile wraps, at the size it declares."""
    file = read_picture_file(bitmap)
    inches = metafile_inches(content)
    if inches is None:
        return file
    return replace(file, dots=(file.width_px / inches[0], file.height_px / inches[1]))


def natural_size_pt(file: PictureFile) -> tuple[float, float]:
    """Return width and height by the picture's own resolution, in points."""
    across, down = file.dots or (SCREEN_DOTS, SCREEN_DOTS)
    across, down = (dots if dots > 0 else SCREEN_DOTS for dots in (across, down))
    return file.width_px / across * _POINTS_PER_INCH, file.height_px / down * _POINTS_PER_INCH


def _metafile(content: bytes, kind: str = METAFILE) -> PictureFile:
    width, height = metafile_size(content)
    return PictureFile(
        kind=kind,
        data=content,
        blocks=_whole(content),
        width_px=width,
        height_px=height,
        bits=8,
        colours=3,
        obstacle=_VECTOR,
    )


def _tiff(content: bytes) -> PictureFile:
    """Read a TIFF by the imaging library, which decodes it as well."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(content), formats=["TIFF"]) as image:
            frames = getattr(image, "n_frames", 1)
            dots = image.info.get("dpi")
            is_grey = image.mode in ("1", "L")
            has_opacity = image.mode in ("RGBA", "LA", "PA")
            is_plain = image.mode in ("1", "L", "P", "RGB", "RGBA")
            size, profile = image.size, image.info.get("icc_profile") or b""
    except (OSError, SyntaxError, ValueError, EOFError) as error:
        raise BadPictureError("It is damaged.") from error
    return PictureFile(
        kind="tiff",
        data=content,
        blocks=_whole(content),
        width_px=size[0],
        height_px=size[1],
        bits=8,
        colours=1 if is_grey else 3,
        has_opacity=has_opacity,
        frames=frames,
        dots=(float(dots[0]), float(dots[1])) if dots else None,
        profile=profile,
        obstacle="" if is_plain else "kept: a rare kind of TIFF",
    )


def _whole(content: bytes) -> tuple[Block, ...]:
    return (Block(role=Role.PICTURE, name="all", start=0, end=len(content), content=0),)
