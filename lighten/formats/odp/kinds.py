"""The kinds of presentations of ISO/IEC 26300, and the extras that they may have."""

from lighten.contract import FileKind
from lighten.model.kinds import ExtraKind

__all__ = ["KINDS", "ODP_EXTRAS", "TEMPLATE"]

_SLIDES = "application/vnd.oasis.opendocument.presentation"
TEMPLATE = f"{_SLIDES}-template"
KINDS = (
    FileKind(title="OpenDocument slides", media_type=_SLIDES, suffixes=(".odp",)),
    FileKind(title="OpenDocument template for slides", media_type=TEMPLATE, suffixes=(".otp",)),
)
# In the order in which sheets list them.
ODP_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PICTURE_METADATA,
    ExtraKind.PRINTER_SETTINGS,
    ExtraKind.VIEW_SETTINGS,
    ExtraKind.MEDIA,
    ExtraKind.NOTES,
    ExtraKind.SPEAKER_NOTES,
    ExtraKind.OBJECT_IMAGES,
    ExtraKind.METADATA,
)
