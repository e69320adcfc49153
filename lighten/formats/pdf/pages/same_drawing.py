"""Pages that two PDFs draw from the same contents, found without drawing them.

Both files are read from disk and followed side by side: contents, resources, forms, patterns,
states and annotations of each page. A stream counts by its decoded bytes, a picture by its decoded
samples, whatever codes them. The files of fonts may differ: `compare_fonts` proves them.
"""

from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of
from lighten.formats.pdf.pictures.same_samples import (
    base_space,
    colour_transform,
    have_same_samples,
)

__all__ = ["SameDrawing"]

Pair = tuple[ObjectId, ObjectId]

# Entries that say how a stream is packed (ISO 32000-2, table 5).
_PACKING = frozenset({"/Length", "/Filter", "/DecodeParms", "/DL"})
# Entries that no reader draws from: the way back up the tree, descriptions, private data.
_IDLE = frozenset(
    {
        "/Parent",
        "/Metadata",
        "/PieceInfo",
        "/StructParent",
        "/StructParents",
        "/Thumb",
        "/LastModified",
        "/PTEX.FileName",
        "/PTEX.InfoDict",
        "/PTEX.PageNumber",
    }
)
# Entries of annotations that no reader draws from: targets, which `preserved_features` compares,
# actions, names, dates, and other annotations.
_IDLE_IN_ANNOTATIONS = _IDLE | {
    "/P",
    "/Popup",
    "/IRT",
    "/A",
    "/AA",
    "/PA",
    "/Dest",
    "/NM",
    "/M",
    "/Kids",
}
_PAGE_KEYS = ("/MediaBox", "/CropBox", "/Rotate", "/Resources")
_OWN_PAGE_KEYS = ("/UserUnit", "/Group")
_ROOT_KEYS = ("/OCProperties", "/OutputIntents")
_FORM_KEYS = ("/NeedAppearances", "/XFA", "/DR", "/DA", "/Q")
_FONT_FILES = frozenset({"/FontFile", "/FontFile2", "/FontFile3"})
# Names and lists of glyphs in a descriptor, which change with its file.
_SUBSET_LISTS = frozenset({"/CharSet", "/CIDSet"})
_FONT_NAMES = frozenset({"/BaseFont", "/FontName"})
# Entries of a picture that change with its coding.
_CODING = _PACKING | {"/Width", "/Height", "/BitsPerComponent", "/ColorSpace"}
_DEEPEST = 60


@dataclass(slots=True)
class _Node:
    """Comparison of two objects: what differs in them, and the pairs they lead to.

    reads_by_file: a font whose text can be read by its file alone. has_other_font: another font
    file. pictures: those in another coding, whose samples are to be compared.
    """

    differs: str = ""
    reads_by_file: bool = False
    has_other_font: bool = False
    pictures: list[tuple[pikepdf.Stream, pikepdf.Stream]] = field(default_factory=list)
    pairs: list[tuple[Pair, pikepdf.Object, pikepdf.Object]] = field(default_factory=list)


class _DifferentError(Exception):
    """Something that may not differ does."""


@contextmanager
def _noting(node: _Node) -> Iterator[None]:
    """Note in the node what differs, or why it cannot be compared."""
    try:
        yield
    except (_DifferentError, pikepdf.PdfError, RuntimeError) as error:
        node.differs = str(error) or "unknown"


class SameDrawing:
    """Two opened PDFs, compared by what their pages are drawn from.

    differing: pictures of the original that are taken to differ, so that they need not be decoded.
    """

    def __init__(
        self, before: pikepdf.Pdf, after: pikepdf.Pdf, *, differing: Collection[ObjectId] = ()
    ) -> None:
        self._before, self._after, self._differing = before, after, differing
        self._nodes: dict[Pair, _Node] = {}
        self._same_samples: dict[Pair, bool] = {}
        self.reasons: dict[int, str] = {}  # by page, for those that differ; 0 for the document

    def equal_pages(self, numbers: Collection[int]) -> Mapping[int, bool]:
        """Return those of the pages, by number from 1, that are drawn from the same.

        With each, whether it has text that only a font file which differs explains.
        """
        if len(self._before.pages) != len(self._after.pages):
            return {}
        document = _Node()
        with _noting(document):
            self._compare_document(document)
        if reason := self._first_difference(list(self._reached(document))):
            self.reasons[0] = reason
            return {}
        equal = {}
        for number in numbers:
            page = _Node()
            with _noting(page):
                one, other = (pdf.pages[number - 1].obj for pdf in (self._before, self._after))
                self._compare_page(page, one, other)
            reached = list(self._reached(page))
            if reason := self._first_difference(reached):
                self.reasons[number] = reason
                continue
            equal[number] = any(node.has_other_font for node in reached) and any(
                node.reads_by_file for node in reached
            )
        return equal

    def _first_difference(self, nodes: list[_Node]) -> str:
        """Return why nodes are not drawn alike; or ""."""
        if reason := next((node.differs for node in nodes if node.differs), ""):
            return reason
        pictures = (pair for node in nodes for pair in node.pictures)
        return "" if all(self._are_same(*pair) for pair in pictures) else "a picture"

    def _are_same(self, one: pikepdf.Stream, other: pikepdf.Stream) -> bool:
        pair = one.objgen, other.objgen
        if pair not in self._same_samples:
            self._same_samples[pair] = have_same_samples(one, other)
        return self._same_samples[pair]

    def _reached(self, start: _Node) -> Iterator[_Node]:
        """Yield the node and all that it leads to, each pair compared once for the document."""
        waiting, seen = [start], set[Pair]()
        while waiting:
            node = waiting.pop()
            yield node
            for pair, one, other in node.pairs:
                if pair in seen:
                    continue
                seen.add(pair)
                if pair not in self._nodes:
                    self._nodes[pair] = _Node()
                    with _noting(self._nodes[pair]):
                        self._compare_objects(self._nodes[pair], one, other, 0)
                waiting.append(self._nodes[pair])

    def _compare_document(self, node: _Node) -> None:
        """Compare what shows, hides and colours content all over the document."""
        roots = self._before.Root, self._after.Root
        for key in _ROOT_KEYS:
            self._compare(node, roots[0].get(key), roots[1].get(key), 0)
        one, other = (dictionary_of(root.get("/AcroForm")) for root in roots)
        for key in _FORM_KEYS:
            self._compare(node, one.get(key), other.get(key), 0)

    def _compare_page(self, node: _Node, one: pikepdf.Object, other: pikepdf.Object) -> None:
        for key in _PAGE_KEYS:
            self._compare(node, _inherited(one, key), _inherited(other, key), 0)
        for key in _OWN_PAGE_KEYS:
            self._compare(node, one.get(key), other.get(key), 0)
        _compare_contents(one.get("/Contents"), other.get("/Contents"))
        annotations = [array_of(page.get("/Annots")) for page in (one, other)]
        if len(annotations[0]) != len(annotations[1]):
            raise _DifferentError("annotations")
        for first, second in zip(*annotations, strict=True):
            if isinstance(first, pikepdf.Dictionary) and isinstance(second, pikepdf.Dictionary):
                self._compare_entries(node, first, second, _IDLE_IN_ANNOTATIONS, 0)
            else:
                self._compare(node, first, second, 0)

    def _compare(self, node: _Node, one: object, other: object, depth: int) -> None:
        """Compare two values; those that are objects of their own become pairs of the node."""
        is_object = isinstance(one, pikepdf.Object), isinstance(other, pikepdf.Object)
        if not all(is_object):
            if any(is_object) or type(one) is not type(other) or one != other:
                raise _DifferentError(f"{one!r:.60} became {other!r:.60}")
            return
        assert isinstance(one, pikepdf.Object) and isinstance(other, pikepdf.Object)
        if one.is_indirect and other.is_indirect:
            node.pairs.append(((one.objgen, other.objgen), one, other))
        elif depth > _DEEPEST:
            raise _DifferentError("nested too deep")
        else:
            self._compare_objects(node, one, other, depth + 1)

    def _compare_objects(
        self, node: _Node, one: pikepdf.Object, other: pikepdf.Object, depth: int
    ) -> None:
        if isinstance(one, pikepdf.Stream) and isinstance(other, pikepdf.Stream):
            self._compare_streams(node, one, other, depth)
        elif isinstance(one, pikepdf.Dictionary) and isinstance(other, pikepdf.Dictionary):
            self._compare_dictionaries(node, one, other, depth)
        elif isinstance(one, pikepdf.Array) and isinstance(other, pikepdf.Array):
            if len(one) != len(other):
                raise _DifferentError("arrays of two lengths")
            for first, second in zip(one, other, strict=True):
                self._compare(node, first, second, depth)
        elif type(one) is not type(other) or one != other:
            raise _DifferentError(f"{one!r:.60} became {other!r:.60}")

    def _compare_dictionaries(
        self, node: _Node, one: pikepdf.Dictionary, other: pikepdf.Dictionary, depth: int
    ) -> None:
        kinds = text_of(one.get("/Type")), text_of(other.get("/Type"))
        if kinds[0] == kinds[1] and kinds[0] in ("/Page", "/Pages"):
            return
        is_descriptor = not _FONT_FILES.isdisjoint(one.keys() | other.keys())
        if not is_descriptor and kinds != ("/Font", "/Font"):
            self._compare_entries(node, one, other, _IDLE, depth)
            return
        idle = _IDLE | _FONT_NAMES
        if not is_descriptor and "/ToUnicode" not in one:
            is_composite = one.get("/Subtype") == "/Type0"
            node.reads_by_file |= is_composite or "/Encoding" not in one
        if is_descriptor:
            self._compare_font_files(node, one, other)
            idle |= _FONT_FILES | _SUBSET_LISTS
        for key in _FONT_NAMES:
            if _plain_name(one.get(key)) != _plain_name(other.get(key)):
                raise _DifferentError("a font of another name")
        self._compare_entries(node, one, other, idle, depth)

    def _compare_font_files(
        self, node: _Node, one: pikepdf.Dictionary, other: pikepdf.Dictionary
    ) -> None:
        files = [
            next((font[key] for key in sorted(_FONT_FILES) if key in font), None)
            for font in (one, other)
        ]
        before, after = files
        if not (isinstance(before, pikepdf.Stream) and isinstance(after, pikepdf.Stream)):
            raise _DifferentError("a font file in one only")
        if before.get("/Subtype") != after.get("/Subtype") or not _are_same_bytes(before, after):
            node.has_other_font = True

    def _compare_streams(
        self, node: _Node, one: pikepdf.Stream, other: pikepdf.Stream, depth: int
    ) -> None:
        if one.get("/Subtype") == other.get("/Subtype") == "/Image":
            self._compare_pictures(node, one, other, depth)
            return
        if not _are_same_bytes(one, other):
            raise _DifferentError("a stream")
        self._compare_entries(node, one, other, _PACKING | _IDLE, depth)

    def _compare_pictures(
        self, node: _Node, one: pikepdf.Stream, other: pikepdf.Stream, depth: int
    ) -> None:
        trial = _Node()
        try:
            self._compare_entries(trial, one, other, _PACKING | _IDLE, depth)
            is_same = _are_same_bytes(one, other)
        except _DifferentError:
            is_same = False
        if is_same:
            node.pairs += trial.pairs
            return
        self._compare_entries(node, one, other, _CODING | _IDLE, depth)
        self._compare(node, base_space(one), base_space(other), depth)
        is_known = one.get("/SMaskInData", 0) == 0 and colour_transform(one) == colour_transform(
            other
        )
        if one.objgen in self._differing or not is_known:
            raise _DifferentError("a picture")
        if not (one.is_indirect and other.is_indirect):
            raise _DifferentError("a picture that is no object")
        node.pictures.append((one, other))

    def _compare_entries(
        self,
        node: _Node,
        one: pikepdf.Object,
        other: pikepdf.Object,
        idle: frozenset[str],
        depth: int,
    ) -> None:
        mine, theirs = dict(one.items()), dict(other.items())
        for key in (mine.keys() | theirs.keys()) - idle:
            if key not in mine or key not in theirs:
                raise _DifferentError(f"{key} in one only")
            self._compare(node, mine[key], theirs[key], depth)


def _compare_contents(one: object, other: object) -> None:
    before, after = _streams_of(one), _streams_of(other)
    if len(before) != len(after) or not all(map(_are_same_bytes, before, after)):
        raise _DifferentError("contents")


def _streams_of(contents: object) -> list[pikepdf.Stream]:
    if isinstance(contents, pikepdf.Stream):
        return [contents]
    return [one for one in array_of(contents) if isinstance(one, pikepdf.Stream)]


def _inherited(page: pikepdf.Object, key: str) -> object:
    """Return an entry of a page or of the nodes above it (ISO 32000-2, 7.7.3.4)."""
    node: pikepdf.Object | None = page
    for _ in range(_DEEPEST):
        if node is None or key in node:
            break
        node = node.get("/Parent")
    return None if node is None else node.get(key)


def _plain_name(name: object) -> str:
    """Return the name of a font without the tag of a subset (ISO 32000-2, 9.9.2)."""
    text = "" if name is None else text_of(name).removeprefix("/")
    is_tagged = len(text) > 7 and text[6] == "+" and text[:6].isalpha() and text[:6].isupper()
    return text[7:] if is_tagged else text


def _are_same_bytes(one: pikepdf.Stream, other: pikepdf.Stream) -> bool:
    """Compare two streams as they are stored, or else decoded."""
    packed = [(stream.get("/Filter"), stream.get("/DecodeParms")) for stream in (one, other)]
    if packed[0] == packed[1] and one.read_raw_bytes() == other.read_raw_bytes():
        return True
    try:
        return one.read_bytes() == other.read_bytes()
    except pikepdf.PdfError:
        return False
