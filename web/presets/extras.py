"""What can be left out of a document, in words: what it is for, and what is lost without it."""

from dataclasses import dataclass

from lighten import ExtraKind
from lighten.treatments import SAFE_EXTRAS

__all__ = ["EXTRAS", "Extra"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Extra:
    """A kind of extra as a switch shows it."""

    kind: ExtraKind
    title: str
    purpose: str
    loss: str

    @property
    def is_safe(self) -> bool:
        return self.kind in SAFE_EXTRAS


def _extra(kind: ExtraKind, title: str, purpose: str, loss: str) -> Extra:
    return Extra(kind=kind, title=title, purpose=purpose, loss=loss)


EXTRAS = (
    _extra(
        ExtraKind.LEFTOVERS,
        "Leftovers of earlier saves",
        "What was replaced or deleted before and is still in the file.",
        "Nothing that any page or list still leads to.",
    ),
    _extra(
        ExtraKind.REPEATS,
        "The same thing stored again",
        "Equal pictures, fonts and colour profiles stored several times.",
        "Nothing: one copy stays and serves all places.",
    ),
    _extra(
        ExtraKind.THUMBNAILS,
        "Preview thumbnails",
        "Small pictures of the pages for old readers.",
        "Nothing: readers draw their own.",
    ),
    _extra(
        ExtraKind.PRIVATE_DATA,
        "Private editing data",
        "What the program that made the file kept for itself.",
        "That program may no longer open it as its own work.",
    ),
    _extra(
        ExtraKind.ALTERNATES,
        "Stand-ins for pictures",
        "Other versions of pictures, as for print.",
        "The other versions; what the screen shows stays.",
    ),
    _extra(
        ExtraKind.WEB_CAPTURE,
        "Traces of web pages",
        "Where captured pages came from, to fetch them again.",
        "They cannot be fetched again from within the file.",
    ),
    _extra(
        ExtraKind.UNUSED,
        "Things no page shows",
        "Pictures and resources that are listed and never drawn.",
        "Nothing that can be seen.",
    ),
    _extra(
        ExtraKind.METADATA,
        "Descriptions",
        "Title, author, dates and descriptions of pictures.",
        "Searches by title or author find the file no longer.",
    ),
    _extra(
        ExtraKind.ATTACHMENTS,
        "Attached files",
        "Files that travel inside this one.",
        "The attached files.",
    ),
    _extra(
        ExtraKind.SCRIPTS,
        "Scripts",
        "Small programs that check or fill in forms.",
        "Fields no longer compute or check themselves.",
    ),
    _extra(
        ExtraKind.NOTES,
        "Notes",
        "Notes beside the text, their windows and answers.",
        "What people have said about the pages.",
    ),
    _extra(
        ExtraKind.MARKINGS,
        "Markings of text",
        "Highlighting, underlining and striking out.",
        "The markings, and notes tied to them; the text itself stays.",
    ),
    _extra(
        ExtraKind.TYPED_TEXT,
        "Typed text",
        "Text that was typed onto pages afterwards.",
        "That text, which may be all that fills in a form.",
    ),
    _extra(
        ExtraKind.DRAWN_MARKS,
        "Drawn marks",
        "Lines, shapes and handwriting put onto pages.",
        "The marks, and notes tied to them.",
    ),
    _extra(
        ExtraKind.STAMPS,
        "Stamps",
        "Stamps and pasted pictures, such as of a signature.",
        "The stamps; what lies under them shows.",
    ),
    _extra(
        ExtraKind.MEDIA,
        "Sound, films, models",
        "What pages play, or show to be turned round.",
        "It can no longer be played; its still picture goes too.",
    ),
    _extra(
        ExtraKind.HIDDEN_LAYERS,
        "Layers that are off",
        "Content that is switched off when the file is opened.",
        "It can no longer be switched on.",
    ),
    _extra(
        ExtraKind.LAYERS,
        "Layer switches",
        "Lets readers switch content on and off.",
        "What shows stays for good, what does not is gone.",
    ),
    _extra(
        ExtraKind.FORM_FIELDS,
        "Form fields",
        "Lets people fill the form in.",
        "What is filled in stays as plain text; nothing more can be.",
    ),
    _extra(ExtraKind.BOOKMARKS, "Bookmarks", "The outline beside the pages.", "The outline."),
    _extra(
        ExtraKind.TAGS,
        "Tags for screen readers",
        "Tells reading order, headings and descriptions of pictures.",
        "People who listen to the file lose their way in it.",
    ),
)
