"""The kind of file, and the extras that it may carry, in the order in which sheets list them."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["TIFF", "TIFF_EXTRAS"]

TIFF = FileKind(title="TIFF", media_type="image/tiff", suffixes=(".tif", ".tiff"))
TIFF_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PRIVATE_DATA,
    ExtraKind.MAKERS_NOTES,
    ExtraKind.METADATA,
    ExtraKind.CAMERA_DATA,
    ExtraKind.LOCATION,
)
