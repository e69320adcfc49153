"""The extras that a PDF may have, in the order in which sheets list them."""

from lighten.model.kinds import ExtraKind

__all__ = ["PDF_EXTRAS"]

PDF_EXTRAS = (
    ExtraKind.LEFTOVERS,
    ExtraKind.REPEATS,
    ExtraKind.THUMBNAILS,
    ExtraKind.PRIVATE_DATA,
    ExtraKind.ALTERNATES,
    ExtraKind.WEB_CAPTURE,
    ExtraKind.METADATA,
    ExtraKind.ATTACHMENTS,
    ExtraKind.SCRIPTS,
    ExtraKind.NOTES,
    ExtraKind.MARKINGS,
    ExtraKind.TYPED_TEXT,
    ExtraKind.DRAWN_MARKS,
    ExtraKind.STAMPS,
    ExtraKind.MEDIA,
    ExtraKind.HIDDEN_LAYERS,
    ExtraKind.LAYERS,
    ExtraKind.FORM_FIELDS,
    ExtraKind.BOOKMARKS,
    ExtraKind.TAGS,
)
