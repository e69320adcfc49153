"""Kinds of parts, extras, pictures and fonts in a weight sheet."""

from enum import StrEnum

__all__ = ["ExtraKind", "FontCoding", "PartKind", "PictureClass", "PictureCoding"]


class PartKind(StrEnum):
    """Kind of part."""

    PICTURE = "picture"
    PROFILE = "profile"
    FONT = "font"
    DRAWING = "drawing"
    TEXT = "text"
    CELLS = "cells"
    NAME = "name"
    STYLES = "styles"
    EMBEDDED = "embedded"
    MEDIA = "media"
    LAYER = "layer"
    EXTRA = "extra"
    STRUCTURE = "structure"
    LEGACY_FORM = "old-form"


class ExtraKind(StrEnum):
    """Things a document does not need to look as it does."""

    LEFTOVERS = "leftovers"
    REPEATS = "repeats"
    THUMBNAILS = "thumbnails"
    PRIVATE_DATA = "private-data"
    MAKERS_NOTES = "makers-notes"
    ALTERNATES = "alternates"
    WEB_CAPTURE = "web-capture"
    UNUSED = "unused"
    METADATA = "metadata"
    CAMERA_DATA = "camera-data"
    LOCATION = "location"
    ATTACHMENTS = "attachments"
    SCRIPTS = "scripts"
    NOTES = "notes"
    MARKINGS = "markings"
    TYPED_TEXT = "typed-text"
    DRAWN_MARKS = "drawn-marks"
    STAMPS = "stamps"
    MEDIA = "media"
    HIDDEN_LAYERS = "hidden-layers"
    LAYERS = "layers"
    FORM_FIELDS = "form-fields"
    BOOKMARKS = "bookmarks"
    TAGS = "tags"
    PICTURE_METADATA = "picture-metadata"
    EDITING_TRACES = "editing-traces"
    UNUSED_STYLES = "unused-styles"
    DRAWING_COPIES = "drawing-copies"
    PRINTER_SETTINGS = "printer-settings"
    VIEW_SETTINGS = "view-settings"
    OBJECT_IMAGES = "object-images"
    UNUSED_LAYOUTS = "unused-layouts"
    CONNECTION_SITES = "connection-sites"
    SPEAKER_NOTES = "speaker-notes"
    CELL_SPELLING = "cell-spelling"
    CELL_PLACES = "cell-places"
    PAST_FORMATS = "past-formats"
    PAST_FILLS = "past-fills"
    UNUSED_CELL_STYLES = "unused-cell-styles"
    CALCULATION_ORDER = "calculation-order"
    PIVOT_RECORDS = "pivot-records"
    STRAY_NAMES = "stray-names"
    OTHER_WORKBOOKS = "other-workbooks"
    IDLE_RULES = "idle-rules"


class PictureCoding(StrEnum):
    """Coding of a treated picture."""

    AUTOMATIC = "automatic"  # the smallest that keeps the asked quality
    JPEG = "jpeg"
    LOSSLESS = "lossless"
    GROUP_4 = "group-4"  # bitonal only
    JPEG_2000 = "jpeg-2000"
    LAYERS = "layers"  # scanned pages only: paper, strokes and pictures apart


class PictureClass(StrEnum):
    """Class of a picture, by its pixels and its use."""

    PHOTO = "photo"
    GRAPHIC = "graphic"
    PAGE_SCAN = "page-scan"
    BITONAL = "bitonal"
    MASK = "mask"


class FontCoding(StrEnum):
    """Coding of an embedded font."""

    TRUETYPE = "TrueType"
    TYPE_1 = "Type 1"
    CFF = "CFF"
    OPENTYPE = "OpenType"
