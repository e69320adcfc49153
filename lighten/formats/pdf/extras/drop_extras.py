"""Extras taken out: the ties to them are cut; what nothing leads to is not written."""

from collections.abc import Callable, Iterator

import pikepdf
from pikepdf.sanitize import remove_attachments, remove_collection, remove_javascript

from lighten.formats.pdf.extras.annotations import annotations_of, extra_of
from lighten.formats.pdf.extras.layers import hidden_layers, is_hidden, without_hidden
from lighten.formats.pdf.objects.open_file import archive_standard
from lighten.formats.pdf.objects.repeats import find_repeats, merge_repeats
from lighten.formats.pdf.objects.values import text_of, whole_number
from lighten.formats.pdf.pages.placements import appearance_matrix
from lighten.model.kinds import ExtraKind

__all__ = ["drop_extras"]

_ANNOTATIONS = (
    ExtraKind.MARKINGS,
    ExtraKind.TYPED_TEXT,
    ExtraKind.DRAWN_MARKS,
    ExtraKind.STAMPS,
    ExtraKind.MEDIA,
    ExtraKind.NOTES,
)
_HIDDEN_FLAGS = 0b10 | 0b100000  # Hidden and NoView (ISO 32000-1, table 165)


def drop_extras(pdf: pikepdf.Pdf, dropped: set[ExtraKind]) -> None:
    """Cut the ties to extras of those kinds."""
    for kind, work in _WORK.items():
        if kind in dropped:
            work(pdf)


def _drop_from_holders(key: str) -> Callable[[pikepdf.Pdf], None]:
    def drop(pdf: pikepdf.Pdf) -> None:
        for holder in _holders(pdf):
            if key in holder:
                del holder[key]

    return drop


def _holders(pdf: pikepdf.Pdf) -> Iterator[pikepdf.Object]:
    """The catalogue, pages, and all streams."""
    yield pdf.Root
    for page in pdf.pages:
        yield page.obj
    for value in pdf.objects:
        if isinstance(value, pikepdf.Stream):
            yield value


def _drop_web_capture(pdf: pikepdf.Pdf) -> None:
    """Remove the data of Web Capture (ISO 32000-1, 14.10)."""
    _delete(pdf.Root, "/SpiderInfo")
    _delete(pdf.Root.get("/Names"), "/IDS", "/URLS")


def _drop_unused(pdf: pikepdf.Pdf) -> None:
    pdf.remove_unreferenced_resources()


def _drop_metadata(pdf: pikepdf.Pdf) -> None:
    """Remove descriptions of the document and of its objects, and the producer's line."""
    if archive_standard(pdf):
        return
    for value in [pdf.Root, *pdf.objects]:
        if isinstance(value, pikepdf.Dictionary | pikepdf.Stream):
            _delete(value, "/Metadata")
    _delete(pdf.trailer, "/Info")


def _drop_attachments(pdf: pikepdf.Pdf) -> None:
    remove_attachments(pdf)
    remove_collection(pdf)
    _drop_annotations(ExtraKind.ATTACHMENTS)(pdf)


def _drop_annotations(kind: ExtraKind) -> Callable[[pikepdf.Pdf], None]:
    return lambda pdf: _keep_annotations(pdf, lambda annotation: extra_of(annotation) is not kind)


def _drop_hidden_layers(pdf: pikepdf.Pdf) -> None:
    hidden = hidden_layers(pdf)
    if not hidden:
        return
    for page in pdf.pages:
        content = without_hidden(page.obj, page.resources, hidden)
        if content is not None:
            page.obj.Contents = pdf.make_stream(content)
    for value in list(pdf.objects):
        if isinstance(value, pikepdf.Stream) and value.get("/Subtype") == "/Form":
            content = without_hidden(value, value.get("/Resources"), hidden)
            if content is not None:
                value.write(content)
    _keep_annotations(pdf, lambda annotation: not is_hidden(annotation.get("/OC"), hidden))
    pdf.remove_unreferenced_resources()
    _forget_groups(pdf, hidden)


def _forget_groups(pdf: pikepdf.Pdf, gone: set[tuple[int, int]]) -> None:
    """Take groups off every list of the layer settings."""
    waiting: list[pikepdf.Object] = [pdf.Root.OCProperties]
    while waiting:
        holder = waiting.pop()
        if isinstance(holder, pikepdf.Array):
            for place in reversed(range(len(holder))):
                if _is_group(holder[place]) and holder[place].objgen in gone:
                    del holder[place]
        members = list(holder.values() if isinstance(holder, pikepdf.Dictionary) else holder)
        waiting.extend(
            member
            for member in members
            if isinstance(member, pikepdf.Dictionary | pikepdf.Array) and not _is_group(member)
        )


def _is_group(value: object) -> bool:
    return isinstance(value, pikepdf.Dictionary) and value.get("/Type") == "/OCG"


def _drop_layers(pdf: pikepdf.Pdf) -> None:
    """Drop layers; visible content becomes plain content."""
    _drop_hidden_layers(pdf)
    _delete(pdf.Root, "/OCProperties")
    for value in pdf.objects:
        if isinstance(value, pikepdf.Dictionary | pikepdf.Stream):
            _delete(value, "/OC")


def _drop_form_fields(pdf: pikepdf.Pdf) -> None:
    """Draw the appearances of fields into their pages, and drop the fields."""
    form = pdf.Root.get("/AcroForm")
    if not isinstance(form, pikepdf.Dictionary):
        return
    if form.get("/NeedAppearances", False):
        pdf.generate_appearance_streams()
    for page in pdf.pages:
        shown = [
            one
            for one in annotations_of(page.obj)
            if one.get("/Subtype") == "/Widget" and not whole_number(one.get("/F")) & _HIDDEN_FLAGS
        ]
        _draw_into(pdf, page, shown)
    _keep_annotations(pdf, lambda annotation: annotation.get("/Subtype") != "/Widget")
    del pdf.Root["/AcroForm"]


def _draw_into(pdf: pikepdf.Pdf, page: pikepdf.Page, widgets: list[pikepdf.Dictionary]) -> None:
    drawing = []
    for widget in widgets:
        appearance = _appearance(widget)
        if appearance is not None:
            try:
                matrix = appearance_matrix(appearance, widget)
            except ValueError:
                continue
            appearance.Subtype = pikepdf.Name.Form
            name = page.add_resource(appearance, pikepdf.Name.XObject)
            numbers = " ".join(f"{number:.5f}" for number in matrix.shorthand)
            drawing.append(f"q {numbers} cm {name} Do Q")
    if drawing:
        page.contents_add(b"q", prepend=True)
        page.contents_add(("Q " + " ".join(drawing)).encode())


def _appearance(widget: pikepdf.Dictionary) -> pikepdf.Stream | None:
    """Return the appearance of a widget in its present state."""
    appearances = widget.get("/AP")
    normal = appearances.get("/N") if isinstance(appearances, pikepdf.Dictionary) else None
    if isinstance(normal, pikepdf.Dictionary) and not isinstance(normal, pikepdf.Stream):
        normal = normal.get(text_of(widget.get("/AS", "/Off")))
    return normal if isinstance(normal, pikepdf.Stream) and "/BBox" in normal else None


def _drop_bookmarks(pdf: pikepdf.Pdf) -> None:
    _delete(pdf.Root, "/Outlines")
    if pdf.Root.get("/PageMode") == "/UseOutlines":
        del pdf.Root["/PageMode"]


def _drop_tags(pdf: pikepdf.Pdf) -> None:
    _delete(pdf.Root, "/StructTreeRoot", "/MarkInfo")
    for value in pdf.objects:
        if isinstance(value, pikepdf.Dictionary | pikepdf.Stream):
            _delete(value, "/StructParents", "/StructParent")


def _keep_annotations(pdf: pikepdf.Pdf, is_kept: Callable[[pikepdf.Dictionary], bool]) -> None:
    for page in pdf.pages:
        annotations = list(annotations_of(page.obj))
        kept = [annotation for annotation in annotations if is_kept(annotation)]
        if len(kept) < len(annotations):
            page.obj.Annots = pikepdf.Array(kept)
        if annotations and not kept:
            del page.obj["/Annots"]


def _delete(holder: pikepdf.Object | None, *keys: str) -> None:
    if isinstance(holder, pikepdf.Dictionary | pikepdf.Stream):
        for key in keys:
            if key in holder:
                del holder[key]


# In the order in which they are dropped: fields are drawn before layers are flattened.
_WORK: dict[ExtraKind, Callable[[pikepdf.Pdf], None]] = {
    ExtraKind.REPEATS: lambda pdf: merge_repeats(pdf, find_repeats(pdf)),
    ExtraKind.THUMBNAILS: _drop_from_holders("/Thumb"),
    ExtraKind.PRIVATE_DATA: _drop_from_holders("/PieceInfo"),
    ExtraKind.ALTERNATES: _drop_from_holders("/Alternates"),
    ExtraKind.WEB_CAPTURE: _drop_web_capture,
    ExtraKind.METADATA: _drop_metadata,
    ExtraKind.ATTACHMENTS: _drop_attachments,
    ExtraKind.SCRIPTS: remove_javascript,
    **{kind: _drop_annotations(kind) for kind in _ANNOTATIONS},
    ExtraKind.FORM_FIELDS: _drop_form_fields,
    ExtraKind.LAYERS: _drop_layers,
    ExtraKind.HIDDEN_LAYERS: lambda pdf: (
        _drop_hidden_layers(pdf) if "/OCProperties" in pdf.Root else None
    ),
    ExtraKind.BOOKMARKS: _drop_bookmarks,
    ExtraKind.TAGS: _drop_tags,
    ExtraKind.UNUSED: _drop_unused,
}
