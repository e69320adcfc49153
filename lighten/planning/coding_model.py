"""Predicted bytes of re-encoded pictures, fonts and drawing: every fitted constant, once.

`python -m benchmarks.coding_model` measures the pictures' constants again, on generated pictures
and on any files that are named. What belongs to one coding alone stands with it: the shares of
drafts in `codecs.jpeg` and `pictures.encode`, how much they flatter in `pictures.drafts`.
"""

from collections.abc import Mapping
from types import MappingProxyType

from lighten.model.kinds import FontCoding, PartKind, PictureClass

__all__ = [
    "BITONAL_BITS",
    "BITS_A_PIXEL",
    "DETAIL_EXPONENT",
    "EXACT_OVER_LOSSY",
    "EXACT_SCALE_EXPONENT",
    "EXACT_SHARE",
    "FULL_CHROMA_SHARE",
    "GREY_SHARE",
    "JBIG2_SHARE",
    "LAYERS_SHARE",
    "LINES",
    "PACKED_SHARE",
    "QUALITY_REFERENCE",
    "QUALITY_SLOPE",
    "SCALE_EXPONENT",
    "STROKES_SHARE",
    "SUBSET_SHARE",
    "WHOLE_FONT_SHARE",
]

# JPEG with colours at all pixels against the line through qualities with halved ones: 1.41 to 1.65
# at quality 88, 1.34 to 1.72 at 92 (three photos of scikit-image, seven of cameras).
FULL_CHROMA_SHARE = 1.5

# Bits a pixel that JPEG at the quality of reference comes to, and how they rise with quality,
# with the bits a pixel of the source (its detail) and with the share of its lines that stay:
# fitted to 166 pictures of 14 documents, of which it explains the middle and not the spread.
BITS_A_PIXEL: Mapping[PictureClass, float] = MappingProxyType(
    {PictureClass.PHOTO: 0.8, PictureClass.GRAPHIC: 0.9, PictureClass.PAGE_SCAN: 1.3}
)
QUALITY_REFERENCE = 75
QUALITY_SLOPE = 0.02
DETAIL_EXPONENT = 0.29
SCALE_EXPONENT = 0.3
# Exact codings spend that much more on the same detail.
EXACT_OVER_LOSSY = 3.0
# What an exact coding weighs at fewer pixels, by the share of the lines that stay.
EXACT_SCALE_EXPONENT = 1.5
# Of an exact coding, packed anew.
EXACT_SHARE = 0.9
# Of a JPEG, without its colour: the middle of 13 photos and scans, half of them from .77 to .90.
GREY_SHARE = 0.83
# Bits a pixel of text pages in JBIG2.
BITONAL_BITS = 0.07
# What JBIG2 leaves of other codings of two tones (28 pages); elsewhere they are packed as others.
JBIG2_SHARE: Mapping[str, float] = MappingProxyType({"CCITTFax": 0.6, "Flate": 0.45, "LZW": 0.35})
# Of a JPEG at 150 ppi, laid apart: seven pages, .23 to .47.
LAYERS_SHARE = 0.3
PACKED_SHARE: Mapping[PartKind, float] = MappingProxyType(
    {
        PartKind.FONT: 0.97,
        PartKind.DRAWING: 0.95,
        PartKind.TEXT: 0.85,
        PartKind.STYLES: 0.85,
        PartKind.EMBEDDED: 0.95,
        PartKind.STRUCTURE: 0.6,
    }
)
WHOLE_FONT_SHARE: Mapping[FontCoding, float] = MappingProxyType(
    {FontCoding.TRUETYPE: 0.3, FontCoding.TYPE_1: 0.3, FontCoding.CFF: 0.6}
)
SUBSET_SHARE: Mapping[FontCoding, float] = MappingProxyType(
    {FontCoding.TRUETYPE: 0.85, FontCoding.TYPE_1: 0.35, FontCoding.CFF: 0.97}
)
STROKES_SHARE = 0.5
LINES = (PictureClass.BITONAL, PictureClass.MASK)
