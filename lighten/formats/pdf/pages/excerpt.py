"""Some pages of a PDF as a file of their own, with what belongs to them."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pikepdf

from lighten.formats.pdf.objects.open_file import open_pdf
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of, whole_number
from lighten.formats.pdf.objects.write_file import save_pdf
from lighten.model.source import Source

__all__ = ["write_excerpt"]

_MOST_DEPTH = 60
Pages = set[tuple[int, int]]


def write_excerpt(source: Source, first: int, last: int, out: Path) -> None:
    """Write the pages `first` to `last`, counted from 1, to a new file at `out`.

    Bookmarks and links stay where they lead to these pages or out of the document; fields stay
    that stand on these pages; of the tags, those of these pages.
    """
    with open_pdf(source) as pdf:
        kept: Pages = {page.obj.objgen for page in list(pdf.pages)[first - 1 : last]}
        gone = [page.obj for page in pdf.pages if page.obj.objgen not in kept]
        numbers = {page.objgen for page in gone}
        leads = _leads_to(_named_places(pdf), numbers)
        _prune_bookmarks(pdf, leads)
        _prune_links(pdf, kept, leads)
        _prune_fields(pdf, kept)
        _prune_tags(pdf, numbers)
        for key in ("/OpenAction", "/Threads", "/PageLabels", "/Perms"):
            if key in pdf.Root:
                del pdf.Root[key]
        del pdf.pages[last:]
        del pdf.pages[: first - 1]
        # Whatever still points to a page that is gone finds an empty one that weighs nothing.
        for page in gone:
            for key in list(page.keys()):
                del page[key]
        pdf.remove_unreferenced_resources()
        save_pdf(pdf, out)


def _named_places(pdf: pikepdf.Pdf) -> dict[str, pikepdf.Object]:
    """Return the destinations that links refer to by name (ISO 32000-1, 12.3.2.3)."""
    places = {text_of(name): place for name, place in dictionary_of(pdf.Root.get("/Dests")).items()}
    waiting = [dictionary_of(pdf.Root.get("/Names")).get("/Dests")]
    depth = 0
    while waiting and depth < 100_000:
        depth += 1
        node = dictionary_of(waiting.pop())
        names = array_of(node.get("/Names"))
        for name, place in zip(names[::2], names[1::2], strict=False):
            places[text_of(name)] = place
        waiting += array_of(node.get("/Kids"))
    return places


def _leads_to(
    named: dict[str, pikepdf.Object], gone: Pages
) -> Callable[[pikepdf.Dictionary], bool]:
    """Return whether a bookmark or link leads to a removed page."""

    def leads_there(holder: pikepdf.Dictionary) -> bool:
        action = dictionary_of(holder.get("/A"))
        if action.get("/S", "/GoTo") != "/GoTo":
            return False
        place = holder.get("/Dest", action.get("/D"))
        if isinstance(place, pikepdf.String | pikepdf.Name):
            place = named.get(text_of(place))
        if isinstance(place, pikepdf.Dictionary):
            place = place.get("/D")
        page = place[0] if isinstance(place, pikepdf.Array) and len(place) else None
        return isinstance(page, pikepdf.Dictionary) and page.objgen in gone

    return leads_there


def _prune_links(
    pdf: pikepdf.Pdf, kept: Pages, leads_there: Callable[[pikepdf.Dictionary], bool]
) -> None:
    for page in pdf.pages:
        if page.obj.objgen not in kept or "/Annots" not in page.obj:
            continue
        page.obj.Annots = pikepdf.Array(
            [
                annotation
                for annotation in array_of(page.obj.Annots)
                if not (isinstance(annotation, pikepdf.Dictionary) and leads_there(annotation))
            ]
        )


def _prune_bookmarks(pdf: pikepdf.Pdf, leads_there: Callable[[pikepdf.Dictionary], bool]) -> None:
    """Keep bookmarks to these pages and their ancestors."""
    outlines = pdf.Root.get("/Outlines")
    if not isinstance(outlines, pikepdf.Dictionary):
        return
    if _pruned_level(outlines, leads_there, 0) == 0:
        del pdf.Root["/Outlines"]


def _pruned_level(
    parent: pikepdf.Dictionary, leads_there: Callable[[pikepdf.Dictionary], bool], depth: int
) -> int:
    """Return the kept entries below `parent`, linked to each other."""
    left: list[pikepdf.Dictionary] = []
    for entry in list(_level(parent)):
        below = _pruned_level(entry, leads_there, depth + 1) if depth < _MOST_DEPTH else 0
        if leads_there(entry):
            if not below:
                continue
            for key in ("/Dest", "/A"):
                if key in entry:
                    del entry[key]
        left.append(entry)
    for key in ("/First", "/Last", "/Count"):
        if key in parent:
            del parent[key]
    if left:
        parent.First, parent.Last, parent.Count = left[0], left[-1], len(left)
    for index, entry in enumerate(left):
        for key, place in (("/Prev", index - 1), ("/Next", index + 1)):
            if key in entry:
                del entry[key]
            if 0 <= place < len(left):
                entry[key] = left[place]
    return len(left)


def _level(parent: pikepdf.Dictionary) -> Iterator[pikepdf.Dictionary]:
    entry, seen = parent.get("/First"), set()
    while isinstance(entry, pikepdf.Dictionary) and entry.objgen not in seen:
        seen.add(entry.objgen)
        yield entry
        entry = entry.get("/Next")


def _prune_fields(pdf: pikepdf.Pdf, kept: Pages) -> None:
    """Remove form fields whose widgets are all on other pages."""
    form = pdf.Root.get("/AcroForm")
    if not isinstance(form, pikepdf.Dictionary):
        return
    here = {
        annotation.objgen
        for page in pdf.pages
        if page.obj.objgen in kept
        for annotation in array_of(page.obj.get("/Annots"))
        if isinstance(annotation, pikepdf.Dictionary)
    }
    fields = [field for field in array_of(form.get("/Fields")) if _stands_here(field, here, 0)]
    if fields:
        form.Fields = pikepdf.Array(fields)
    else:
        del pdf.Root["/AcroForm"]


def _stands_here(field: pikepdf.Object, here: set[tuple[int, int]], depth: int) -> bool:
    if not isinstance(field, pikepdf.Dictionary) or depth > _MOST_DEPTH:
        return False
    kids = array_of(field.get("/Kids"))
    if not kids:
        return field.objgen in here
    left = [kid for kid in kids if _stands_here(kid, here, depth + 1)]
    field.Kids = pikepdf.Array(left)
    return bool(left)


def _prune_tags(pdf: pikepdf.Pdf, gone: Pages) -> None:
    """Remove structure elements of removed pages (ISO 32000-1, 14.7)."""
    root = pdf.Root.get("/StructTreeRoot")
    if not isinstance(root, pikepdf.Dictionary):
        return
    if not _has_tags_here(root, gone, None, 0):
        del pdf.Root["/StructTreeRoot"]
        return
    keys = {
        whole_number(holder[name], -1)
        for page in pdf.pages
        if page.obj.objgen not in gone
        for holder in (page.obj, *array_of(page.obj.get("/Annots")))
        if isinstance(holder, pikepdf.Dictionary)
        for name in ("/StructParents", "/StructParent")
        if name in holder
    }
    entries = sorted(
        ((key, value) for key, value in _numbered(root.get("/ParentTree")) if key in keys),
        key=lambda entry: entry[0],
    )
    flat = [piece for entry in entries for piece in entry]
    root.ParentTree = pdf.make_indirect(pikepdf.Dictionary(Nums=pikepdf.Array(flat)))
    if "/IDTree" in root:
        del root["/IDTree"]


def _has_tags_here(
    element: pikepdf.Dictionary, gone: Pages, page: tuple[int, int] | None, depth: int
) -> bool:
    """Return whether any of the element is on kept pages; the rest is removed from it."""
    own = element.get("/Pg")
    page = own.objgen if isinstance(own, pikepdf.Dictionary) else page
    held = element.get("/K")
    kids = array_of(held) if isinstance(held, pikepdf.Array) else [held]
    left: list[pikepdf.Object] = []
    for kid in kids:
        if isinstance(kid, pikepdf.Dictionary):
            if depth < 3 * _MOST_DEPTH and _has_tags_here(kid, gone, page, depth + 1):
                left.append(kid)
        elif kid is not None and page not in gone:
            left.append(kid)
    if "/K" not in element:
        return page is not None and page not in gone
    element.K = pikepdf.Array(left)
    return bool(left)


def _numbered(tree: object) -> Iterator[tuple[int, pikepdf.Object]]:
    """The entries of a number tree (ISO 32000-1, 7.9.7)."""
    waiting = [tree]
    while waiting:
        node = dictionary_of(waiting.pop())
        pairs = array_of(node.get("/Nums"))
        for key, value in zip(pairs[::2], pairs[1::2], strict=False):
            yield whole_number(key, -1), value
        waiting += array_of(node.get("/Kids"))
