"""Removable parts of documents: one table with the purpose of each and the loss without it."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from lighten.model.kinds import ExtraKind

__all__ = ["EXTRAS", "SAFE_EXTRAS", "Extra", "extras_of_name"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Extra:
    """A kind of extra.

    title, purpose, loss: for a person. warning: said before a copy is made without it, or "".
    is_safe: nobody sees its loss, and few ever miss it.
    may_lack: what else a copy without it may lack, by the names that readings promise it under.
    may_gain_text, may_lose_text: what leaving it out may do to the text of pages.
    """

    title: str
    purpose: str
    loss: str
    warning: str = ""
    is_safe: bool = False
    may_lack: tuple[str, ...] = ()
    may_gain_text: bool = False
    may_lose_text: bool = False


EXTRAS: Mapping[ExtraKind, Extra] = MappingProxyType(
    {
        ExtraKind.LEFTOVERS: Extra(
            title="Leftovers of earlier saves",
            purpose="What was replaced or deleted before and is still in the file.",
            loss="Nothing that any page or list still leads to.",
            is_safe=True,
        ),
        ExtraKind.REPEATS: Extra(
            title="The same thing stored again",
            purpose="Equal pictures, fonts and colour profiles stored several times.",
            loss="Nothing: one copy stays and serves all places.",
            is_safe=True,
        ),
        ExtraKind.THUMBNAILS: Extra(
            title="Preview thumbnails",
            purpose="Small pictures of the pages or of the picture, for old readers and cameras.",
            loss="Nothing: readers draw their own.",
            is_safe=True,
        ),
        ExtraKind.PRIVATE_DATA: Extra(
            title="Private editing data",
            purpose="What the program that made the file kept for itself, such as its history.",
            loss="That program may no longer open it as its own work.",
            is_safe=True,
        ),
        ExtraKind.MAKERS_NOTES: Extra(
            title="Maker's notes",
            purpose="What the maker of a camera writes into its pictures for its own programs.",
            loss="Settings of the camera that only its maker's programs understand.",
            is_safe=True,
        ),
        ExtraKind.ALTERNATES: Extra(
            title="Stand-ins for pictures",
            purpose="Other versions of pictures, as for print.",
            loss="The other versions; what the screen shows stays.",
            is_safe=True,
        ),
        ExtraKind.WEB_CAPTURE: Extra(
            title="Traces of web pages",
            purpose="Where captured pages came from, to fetch them again.",
            loss="They cannot be fetched again from within the file.",
            is_safe=True,
        ),
        ExtraKind.UNUSED: Extra(
            title="Things no page shows",
            purpose="Pictures and resources that are listed and never drawn.",
            loss="Nothing that can be seen.",
            is_safe=True,
        ),
        ExtraKind.METADATA: Extra(
            title="Descriptions",
            purpose="Title, author, dates, captions and descriptions of pictures.",
            loss="Searches by title or author find the file no longer.",
            warning="Title, author and other descriptions go.",
            may_lack=("descriptions",),
        ),
        ExtraKind.CAMERA_DATA: Extra(
            title="Camera data",
            purpose="Camera, lens, exposure and the time a picture was taken.",
            loss="How and when the picture was taken.",
            warning="Camera, exposure and the time of the picture go.",
            may_lack=("camera data",),
        ),
        ExtraKind.LOCATION: Extra(
            title="Location",
            purpose="Where on earth a picture was taken.",
            loss="The place; nobody can read it from the copy any more.",
            warning="The place where the picture was taken goes.",
            may_lack=("location",),
        ),
        ExtraKind.ATTACHMENTS: Extra(
            title="Attached files",
            purpose="Files that travel inside this one.",
            loss="The attached files.",
            warning="Attached files go.",
            may_lack=("attachments", "annotations"),
        ),
        ExtraKind.SCRIPTS: Extra(
            title="Scripts",
            purpose="Small programs that check or fill in forms.",
            loss="Fields no longer compute or check themselves.",
            warning="Scripts go; forms may no longer calculate or check what is typed.",
        ),
        ExtraKind.NOTES: Extra(
            title="Notes",
            purpose="Notes beside the text, their windows and answers.",
            loss="What people have said about the pages.",
            warning="Notes and answers to them go.",
            may_lack=("annotations", "comments", "styles in use", "pictures in use"),
        ),
        ExtraKind.MARKINGS: Extra(
            title="Markings of text",
            purpose="Highlighting, underlining and striking out.",
            loss="The markings, and notes tied to them; the text itself stays.",
            warning="Highlighting and other markings of text go.",
            may_lack=("annotations",),
        ),
        ExtraKind.TYPED_TEXT: Extra(
            title="Typed text",
            purpose="Text that was typed onto pages afterwards.",
            loss="That text, which may be all that fills in a form.",
            warning="Text that was typed onto pages goes.",
            may_lack=("annotations",),
        ),
        ExtraKind.DRAWN_MARKS: Extra(
            title="Drawn marks",
            purpose="Lines, shapes and handwriting put onto pages.",
            loss="The marks, and notes tied to them.",
            warning="Lines, shapes and handwriting that were drawn onto pages go.",
            may_lack=("annotations",),
        ),
        ExtraKind.STAMPS: Extra(
            title="Stamps",
            purpose="Stamps and pasted pictures, such as of a signature.",
            loss="The stamps; what lies under them shows.",
            warning="Stamps go.",
            may_lack=("annotations",),
        ),
        ExtraKind.MEDIA: Extra(
            title="Sound, films, models",
            purpose="What pages play, or show to be turned round.",
            loss="It can no longer be played. Slides keep its still picture, pages do not.",
            warning="Sound, films and solid models go.",
            may_lack=("annotations", "films and sounds", "animations", "pictures in use"),
        ),
        ExtraKind.HIDDEN_LAYERS: Extra(
            title="Layers that are off",
            purpose="Content that is switched off when the file is opened.",
            loss="It can no longer be switched on.",
            warning="Layers that are switched off go and cannot be switched on again.",
            may_lack=("layers", "annotations", "links"),
            may_lose_text=True,
        ),
        ExtraKind.LAYERS: Extra(
            title="Layer switches",
            purpose="Lets readers switch content on and off.",
            loss="What shows stays for good, what does not is gone.",
            warning="All layers become one; those switched off go.",
            may_lack=("layers", "annotations", "links"),
            may_lose_text=True,
        ),
        ExtraKind.FORM_FIELDS: Extra(
            title="Form fields",
            purpose="Lets people fill the form in.",
            loss="What is filled in stays as plain text; nothing more can be.",
            warning="Form fields become plain content and can no longer be filled in.",
            may_lack=("form fields", "annotations"),
            may_gain_text=True,
        ),
        ExtraKind.BOOKMARKS: Extra(
            title="Bookmarks",
            purpose="The outline beside the pages.",
            loss="The outline.",
            warning="Bookmarks go.",
            may_lack=("bookmarks",),
        ),
        ExtraKind.TAGS: Extra(
            title="Tags for screen readers",
            purpose="Tells reading order, headings and descriptions of pictures.",
            loss="People who listen to the file lose their way in it.",
            warning=("Tags go: screen readers no longer know headings, tables and reading order."),
            may_lack=("tags",),
        ),
        ExtraKind.PICTURE_METADATA: Extra(
            title="Camera data inside pictures",
            purpose="When, where and how pictures in the document were taken, their previews.",
            loss="Nobody can read from the copy's pictures when and where they were taken.",
            is_safe=True,
        ),
        ExtraKind.EDITING_TRACES: Extra(
            title="Traces of editing",
            purpose="Numbers of editing sessions, spelling marks, where pages ended last time.",
            loss="Comparing two versions of the file in its program finds changes less well.",
            is_safe=True,
        ),
        ExtraKind.UNUSED_STYLES: Extra(
            title="Built-in styles and lists nothing uses",
            purpose="Written out by programs that bring them anyway, or left from other texts.",
            loss="Nothing: programs bring the same again; styles that people made or changed stay.",
            is_safe=True,
        ),
        ExtraKind.DRAWING_COPIES: Extra(
            title="Second copies of drawings",
            purpose="Packed into the form of a drawing that only readers of before 2010 look at.",
            loss="Nothing: the drawing and its older form stay.",
            is_safe=True,
        ),
        ExtraKind.PRINTER_SETTINGS: Extra(
            title="Printer settings",
            purpose="How one printer was set up when the file was saved.",
            loss="The printer's own usual settings are taken.",
            is_safe=True,
        ),
        ExtraKind.VIEW_SETTINGS: Extra(
            title="Window settings",
            purpose="Where the window stood, its toolbars, how far it was zoomed in.",
            loss="The file opens as any other does.",
            is_safe=True,
        ),
        ExtraKind.OBJECT_IMAGES: Extra(
            title="Pictures of embedded objects",
            purpose="Shown for a chart or a formula by readers that cannot draw it themselves.",
            loss="Such readers show an empty frame.",
            warning="Readers that cannot draw charts or formulas show empty frames for them.",
        ),
        ExtraKind.UNUSED_LAYOUTS: Extra(
            title="Slide layouts no slide uses",
            purpose="Layouts and masters to pick for new slides, with pictures only they show.",
            loss="They can no longer be picked; slides look as they did.",
            warning="Slide layouts that no slide uses go, and cannot be picked for new slides.",
            may_lack=("layouts", "pictures in use"),
        ),
        ExtraKind.CONNECTION_SITES: Extra(
            title="Connection points nothing connects to",
            purpose="Where connecting lines could be fastened to drawn shapes.",
            loss="New connecting lines no longer find these points; lines that are there stay.",
            is_safe=True,
        ),
        ExtraKind.CELL_SPELLING: Extra(
            title="Cells spelt out at length",
            purpose=(
                "Numbers with more digits than they need, hints, text stored twice or shown "
                "nowhere, blank cells that look as their column does anyway."
            ),
            loss="Nothing: every cell reads and looks the same.",
            is_safe=True,
        ),
        ExtraKind.CELL_PLACES: Extra(
            title="Places written in every cell",
            purpose="Tells each cell where it stands, though it follows from the cell before.",
            loss="The standard lets it be left out, and some programs cannot do without.",
            warning=(
                "Cells no longer say where they stand. The standard allows it, but some "
                "spreadsheet programs and converters then read wrong data without saying so: "
                "open the copy in every program that is to read it."
            ),
        ),
        ExtraKind.PAST_FORMATS: Extra(
            title="Formats past the data",
            purpose="Blank cells with a format that shows nothing, beyond the last content.",
            loss="What is typed there later has the format of its column.",
            warning="Blank cells beyond the data lose formats that show nothing there.",
            may_lack=("formats past the data",),
        ),
        ExtraKind.PAST_FILLS: Extra(
            title="Coloured cells past the data",
            purpose="Blank cells with a fill or lines beyond the last content, as where a whole "
            "column was coloured.",
            loss="The colours and lines of those cells: the sheet looks blank there.",
            warning="Blank cells beyond the data lose their fills and lines.",
            may_lack=("fills past the data",),
        ),
        ExtraKind.UNUSED_CELL_STYLES: Extra(
            title="Cell styles nothing uses",
            purpose="Came along with cells from other workbooks, and stayed when these went.",
            loss="They can no longer be picked by name; cells look as they did.",
            is_safe=True,
        ),
        ExtraKind.CALCULATION_ORDER: Extra(
            title="Order of calculation",
            purpose="In which order formulas were worked out last time.",
            loss="Nothing: programs find it again when they open the file.",
            is_safe=True,
        ),
        ExtraKind.STRAY_NAMES: Extra(
            title="Leftover names nothing uses",
            purpose="Broken names, and hidden ones without a target: they pile up as a workbook "
            "is passed on and copied from.",
            loss="Macros of other workbooks that know them find them no longer.",
            warning="Leftover names go that nothing in the workbook uses.",
        ),
        ExtraKind.OTHER_WORKBOOKS: Extra(
            title="Links to other workbooks",
            purpose="Formulas that look into other workbooks, with copies of what they saw there.",
            loss="Those formulas: cells keep their values, and no longer change with the others.",
            warning="Links to other workbooks end: cells keep values and lose those formulas.",
            may_lack=(
                "formulas to other workbooks",
                "names to other workbooks",
                "values from other workbooks",
            ),
        ),
        ExtraKind.IDLE_RULES: Extra(
            title="Rules for formats that repeat others",
            purpose="Conditional formats stored twice for the same cells, or for none at all.",
            loss="Nothing that shows: of equal rules for equal cells the first stays.",
            warning="Conditional formats go that repeat others, or that are for no cells.",
            may_lack=("conditional formats",),
        ),
        ExtraKind.PIVOT_RECORDS: Extra(
            title="Copies of data behind pivot tables",
            purpose="The rows that pivot tables were made of, kept beside them.",
            loss="Pivot tables fetch their data again when the file is opened, if it is there.",
            warning="Pivot tables have to fetch their data again: it must be in reach.",
            may_lack=("pivot records",),
        ),
        ExtraKind.SPEAKER_NOTES: Extra(
            title="Speaker notes",
            purpose="What the speaker reads; not shown with the slides.",
            loss="The notes of every slide.",
            warning="Speaker notes go, of every slide.",
            may_lack=("speaker notes", "pictures in notes", "pictures in use"),
        ),
    }
)

SAFE_EXTRAS = frozenset(kind for kind, extra in EXTRAS.items() if extra.is_safe)

# What presets and slips of an earlier version say in one word.
_FORMER_NAMES = {
    "comments": (
        ExtraKind.NOTES,
        ExtraKind.MARKINGS,
        ExtraKind.TYPED_TEXT,
        ExtraKind.DRAWN_MARKS,
        ExtraKind.STAMPS,
    )
}


def extras_of_name(name: str) -> tuple[ExtraKind, ...]:
    """Return the kinds of a present or former extra name. Raises: ValueError."""
    return _FORMER_NAMES.get(name) or (ExtraKind(name),)
