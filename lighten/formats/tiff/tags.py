"""Tags of TIFF by name, and what each is for.

Source: TIFF 6.0 with its supplements and technical notes; Exif 2.32, tables 3 to 15; the list of
registered private tags (from memory where no standard is named).
"""

from lighten.model.kinds import ExtraKind

__all__ = [
    "BITS",
    "COLOUR_MAP",
    "COMPRESSION",
    "DESCRIPTION",
    "EXIF",
    "EXTRA_SAMPLES",
    "FILL_ORDER",
    "GPS",
    "HEIGHT",
    "INTEROPERABILITY",
    "JPEG_TABLES",
    "MAKERS_NOTE",
    "NEW_SUBFILE",
    "OF_PIXELS",
    "ORIENTATION",
    "PHOTOMETRIC",
    "PLANAR",
    "PREDICTOR",
    "PROFILE",
    "RESOLUTION_UNIT",
    "ROWS_PER_STRIP",
    "SAMPLES",
    "SAMPLE_FORMAT",
    "SCIENTIFIC",
    "STRIP_BYTES",
    "STRIP_OFFSETS",
    "SUBDIRECTORIES",
    "SUBFILE",
    "SUB_IFDS",
    "TILE_BYTES",
    "TILE_HEIGHT",
    "TILE_OFFSETS",
    "TILE_WIDTH",
    "TIME",
    "WIDTH",
    "XRESOLUTION",
    "YCBCR_SUBSAMPLING",
    "YRESOLUTION",
    "extra_of_tag",
    "is_known",
]

NEW_SUBFILE, SUBFILE = 254, 255
WIDTH, HEIGHT, BITS, COMPRESSION, PHOTOMETRIC = 256, 257, 258, 259, 262
FILL_ORDER, DESCRIPTION, TIME = 266, 270, 306
STRIP_OFFSETS, ORIENTATION, SAMPLES, ROWS_PER_STRIP, STRIP_BYTES = 273, 274, 277, 278, 279
XRESOLUTION, YRESOLUTION, PLANAR, RESOLUTION_UNIT = 282, 283, 284, 296
PREDICTOR, COLOUR_MAP = 317, 320
TILE_WIDTH, TILE_HEIGHT, TILE_OFFSETS, TILE_BYTES = 322, 323, 324, 325
SUB_IFDS, EXTRA_SAMPLES, SAMPLE_FORMAT, JPEG_TABLES = 330, 338, 339, 347
YCBCR_SUBSAMPLING = 530
PROFILE, EXIF, GPS, INTEROPERABILITY, MAKERS_NOTE = 34675, 34665, 34853, 40965, 37500
SUBDIRECTORIES = (EXIF, GPS, INTEROPERABILITY)
_DEPTH = 32997

# How pixels are stored: with other pixels, these are written anew.
OF_PIXELS = frozenset(
    {WIDTH, HEIGHT, BITS, COMPRESSION, PHOTOMETRIC, STRIP_OFFSETS, SAMPLES, ROWS_PER_STRIP}
    | {STRIP_BYTES, PLANAR, PREDICTOR, COLOUR_MAP, TILE_WIDTH, TILE_HEIGHT, TILE_OFFSETS}
    | {TILE_BYTES, EXTRA_SAMPLES, SAMPLE_FORMAT, JPEG_TABLES, FILL_ORDER}
    # Least and greatest sample, options of Group 3 and 4, halftone hints, curve and unit of greys,
    # what white and inks are, coefficients of YCbCr, consecutive bad fax lines and their count.
    | {280, 281, 288, 289, 290, 291, 292, 293, 301, 318, 319, 321, 326, 327, 328}
    | {332, 333, 334, 336, 340, 341, 342}
    # Of JPEG as TIFF 6.0 first had it; of YCbCr; reference black and white.
    | {*range(512, 522), 529, YCBCR_SUBSAMPLING, 531, 532}
)
# Where one of these stands, pixels are measurements or have a place on the earth: of volumes,
# microscopes, maps and cameras' raw data.
SCIENTIFIC = {
    _DEPTH: "slices of a volume",
    33550: "a map with coordinates",
    33922: "a map with coordinates",
    34264: "a map with coordinates",
    34735: "a map with coordinates",
    42112: "a map with coordinates",
    33628: "microscopy data",
    33629: "microscopy data",
    34412: "microscopy data",
    50838: "measurement data",
    50839: "measurement data",
    50706: "raw data of a camera",
    65000: "measurement data",
}
# Title, author, rights, what it was made with and when, and blocks with such values.
_METADATA = {269, DESCRIPTION, 315, 316, 33432, 700, 33723, 34377, *range(40091, 40096)}
_CAMERA = {271, 272, 305, TIME, EXIF}
# Layers and settings of the program that drew it, hints for printers, marks of one reader.
_PRIVATE = {37724, 50341, 50255, 34118, 34232}
# Kept, and no more: page names and numbers, copyright of inks, transfer curves of scanners.
_PLAIN = {NEW_SUBFILE, SUBFILE, 263, 264, 265, ORIENTATION, XRESOLUTION, YRESOLUTION}
_PLAIN |= {285, 286, 287, RESOLUTION_UNIT, 297, 337, PROFILE, SUB_IFDS}


def is_known(tag: int) -> bool:
    """Return whether the tag's meaning is known, and that it holds no offset into the file."""
    return (
        tag in OF_PIXELS
        or tag in _PLAIN
        or tag in SUBDIRECTORIES
        or extra_of_tag(tag) is not None
        # Exif's own, which some writers put beside the picture's.
        or 33434 <= tag <= 37522
        or 40960 <= tag <= 42240
    )


def extra_of_tag(tag: int) -> ExtraKind | None:
    """Return the extra of a tag; None if the page needs it or it is always kept."""
    if tag in _METADATA:
        return ExtraKind.METADATA
    if tag == GPS:
        return ExtraKind.LOCATION
    if tag in _CAMERA:
        return ExtraKind.CAMERA_DATA
    return ExtraKind.PRIVATE_DATA if tag in _PRIVATE else None
