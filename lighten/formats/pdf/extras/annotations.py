"""Annotations by what people use them for (ISO 32000-1, 12.5.6; media also ISO 32000-2)."""

from collections.abc import Iterator

import pikepdf

from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of
from lighten.model.kinds import ExtraKind

__all__ = ["ANNOTATION_KINDS", "annotations_of", "extra_of"]

# Links, form fields and marks for the press are no extras.
_SUBTYPES = {
    ExtraKind.NOTES: "Text Popup Caret",
    ExtraKind.MARKINGS: "Highlight Underline Squiggly StrikeOut Redact",
    ExtraKind.TYPED_TEXT: "FreeText",
    ExtraKind.DRAWN_MARKS: "Line Square Circle Polygon PolyLine Ink",
    ExtraKind.STAMPS: "Stamp",
    ExtraKind.MEDIA: "Sound Movie Screen RichMedia 3D",
    ExtraKind.ATTACHMENTS: "FileAttachment",
}
_KINDS = {f"/{name}": kind for kind, names in _SUBTYPES.items() for name in names.split()}
ANNOTATION_KINDS = frozenset(_SUBTYPES)
_LONGEST_THREAD = 100


def extra_of(annotation: pikepdf.Dictionary) -> ExtraKind | None:
    """Return the extra of an annotation, or None; pop-ups and replies follow their parent."""
    for _ in range(_LONGEST_THREAD):
        about = dictionary_of(annotation.get("/IRT", annotation.get("/Parent")))
        if text_of(about.get("/Subtype")) not in _KINDS:
            break
        annotation = about
    return _KINDS.get(text_of(annotation.get("/Subtype")))


def annotations_of(page: pikepdf.Object) -> Iterator[pikepdf.Dictionary]:
    """Return the annotations of a page, without malformed ones."""
    for annotation in array_of(page.get("/Annots")):
        if isinstance(annotation, pikepdf.Dictionary):
            yield annotation
