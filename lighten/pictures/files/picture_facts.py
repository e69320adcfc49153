"""Facts of a picture file's structure, as a weight sheet has them."""

from lighten.model.kinds import PictureClass
from lighten.model.weights import PictureFacts
from lighten.pictures.files.blocks import PictureFile

__all__ = ["obstacle_of", "picture_facts"]

_RGB = 3
_CODINGS = {
    "jpeg": "JPEG",
    "png": "PNG",
    "webp": "WebP",
    "gif": "GIF",
    "bmp": "BMP",
    "heic": "HEIC",
    "tiff": "TIFF",
    "metafile": "metafile",
    "svg": "SVG",
}


def obstacle_of(file: PictureFile) -> str:
    """Return the reason for leaving the picture unchanged, or ""."""
    if file.frames > 1:
        return f"kept: it moves ({file.frames} pictures)"
    return file.obstacle


def picture_facts(file: PictureFile, picture_class: PictureClass) -> PictureFacts:
    """Return the facts of a picture file that do not depend on its placement."""
    return PictureFacts(
        width_px=file.width_px,
        height_px=file.height_px,
        coding=_CODINGS[file.kind],
        colour=_colour(file),
        bits=file.bits,
        is_lossy=file.is_lossy,
        has_colour=file.colours > 1,
        has_palette=file.has_palette,
        may_repack=file.kind in ("jpeg", "png"),
        mask="within" if file.has_opacity else "",
        rgb_profile_bytes=len(file.profile) if file.colours == _RGB else 0,
        untouchable=obstacle_of(file),
        picture_class=picture_class,
    )


def _colour(file: PictureFile) -> str:
    if file.has_palette:
        return "palette"
    name = {1: "grey", 3: "RGB", 4: "CMYK"}.get(file.colours, f"{file.colours} colours")
    return f"{name} with a profile" if file.profile else name
