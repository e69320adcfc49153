"""The kinds of picture files that are read, or made."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "PICTURE_EXTRAS", "kind_named"]

_JPEG_SUFFIXES = (".jpg", ".jpeg", ".jpe", ".jfif")
KINDS = {
    "jpeg": FileKind(title="JPEG", media_type="image/jpeg", suffixes=_JPEG_SUFFIXES),
    "png": FileKind(title="PNG", media_type="image/png", suffixes=(".png",)),
    "webp": FileKind(title="WebP", media_type="image/webp", suffixes=(".webp",)),
    "gif": FileKind(title="GIF", media_type="image/gif", suffixes=(".gif",)),
    "heic": FileKind(title="HEIC", media_type="image/heic", suffixes=(".heic", ".heif")),
    "bmp": FileKind(title="BMP", media_type="image/bmp", suffixes=(".bmp", ".dib")),
}
# In the order in which sheets list them.
PICTURE_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PRIVATE_DATA,
    ExtraKind.MAKERS_NOTES,
    ExtraKind.METADATA,
    ExtraKind.CAMERA_DATA,
    ExtraKind.LOCATION,
)


def kind_named(name: str) -> FileKind:
    """Return the kind of a picture file by the engine's name or by a coding. Raises: KeyError."""
    return KINDS[name]
