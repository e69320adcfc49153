"""A presentation through a reader that had no part in writing it: what it says and shows.

Source: ECMA-376 part 1, clauses 19 and 20.
"""

import hashlib
import posixpath
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from lighten.containers.opc.reading import OpcReading, link_of
from lighten.containers.zip_reading import name_of, open_zip
from lighten.model.source import Source

__all__ = ["PptxReading", "read_pptx"]

# What numbers versions of shapes, and where lines could be fastened: neither shows.
_TRACES = ("dirty", "err", "smtClean", "smtId")
_UNSEEN = ("cxnLst", "gdLst", "extLst")
_STEPS = ("anim", "animClr", "animEffect", "animMotion", "animRot", "animScale", "cmd", "set")
_PLAYED = ("video", "audio")
_FILMS = ("videoFile", "audioFile", "media", "wavAudioFile", "quickTimeFile", "snd")


class PptxReading(OpcReading):
    """Its promises are the words, slide by slide, and all that stands and moves on them."""

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        slides = self._slides()
        features: dict[str, list[str]] = {
            "slides": [f"slide {number}" for number in range(1, len(slides) + 1)],
            "text": [],
            "text formatting": [],
            "shapes": [],
            "tables": [],
            "links": [],
            "films and sounds": [],
            "animations": [],
            "transitions": [],
            "layouts of slides": [],
            "speaker notes": [],
            "comments": [],
        }
        for number, slide in enumerate(slides, start=1):
            self._look_through(slide, f"slide {number}", features)
        return {
            **{kind: tuple(entries) for kind, entries in features.items()},
            "layouts": tuple(self._layouts()),
            "fonts": tuple(self._fonts()),
            "charts": tuple(self._charts()),
            "embedded files": tuple(self.embedded_files()),
            "broken references": self.dangling(),
            "pictures in use": tuple(self.pictures_in_use()),
        }

    def _slides(self) -> list[str]:
        links = self.relations(self.main)
        listed = self.tree(self.main).find("{*}sldIdLst")
        entries = listed if listed is not None else ()
        targets = [links.get(link_of(entry), ("", ""))[1] for entry in entries]
        return [target for target in targets if target in self.members]

    def _look_through(self, slide: str, where: str, features: dict[str, list[str]]) -> None:
        root, links = self.tree(slide), self.relations(slide)
        features["text"] += [
            f"{where}: {_words(one)}" for one in root.iter("{*}p") if _is_text(one)
        ]
        features["text formatting"] += [f"{where}: {_looks(one)}" for one in root.iter("{*}p")]
        features["shapes"] += [f"{where}: {shape}" for shape in _shapes(root)]
        for table in root.iter("{*}tbl"):
            rows = [[_span(cell) for cell in row.iter("{*}tc")] for row in table.iter("{*}tr")]
            features["tables"].append(f"{where}: {rows}")
        for element in root.iter("{*}hlinkClick", "{*}hlinkHover", "{*}hlinkMouseOver"):
            _, target = links.get(link_of(element), ("", ""))
            action = element.get("action", "")
            if target or "media" not in action:
                features["links"].append(f"{where}: {target} {action}")
        for element in root.iter(*(f"{{*}}{name}" for name in _FILMS)):
            kind, target = links.get(link_of(element), ("", ""))
            features["films and sounds"].append(f"{where}: {kind} {target}")
        for element in root.iter(*(f"{{*}}{name}" for name in (*_STEPS, *_PLAYED))):
            if any(name_of(above) == "timing" for above in element.iterancestors()):
                features["animations"].append(f"{where}: {name_of(element)} {_digest(element)}")
        for element in root.iter("{*}transition"):
            features["transitions"].append(f"{where}: {_digest(element, without=('sndAc',))}")
        for kind, target in links.values():
            if kind == "slideLayout" and target in self.members:
                layout = self.tree(target)
                words = [_words(one) for one in layout.iter("{*}p")]
                name = _slide_name(layout)
                features["layouts of slides"].append(
                    f"{where}: {name} {words} {[*_shapes(layout)]}"
                )
            elif kind == "notesSlide" and target in self.members:
                notes = self.tree(target)
                features["speaker notes"] += [
                    f"{where}: {_words(one)}" for one in notes.iter("{*}p")
                ]
            elif "comment" in kind.lower() and target in self.members:
                said = ["".join(one.itertext()) for one in self.tree(target)]
                features["comments"] += [f"{where}: {words}" for words in said]

    def _layouts(self) -> Iterator[str]:
        for member in sorted(self.members):
            if member.startswith(("ppt/slideLayouts/slide", "ppt/slideMasters/slide")):
                name = _slide_name(self.tree(member))
                yield f"{posixpath.basename(member)} {name}"

    def _fonts(self) -> Iterator[str]:
        for font in self.tree(self.main).iter("{*}embeddedFont"):
            names = [one.get("typeface", "") for one in font.iter("{*}font")]
            yield f"{names} {[name_of(one) for one in font]}"

    def _charts(self) -> Iterator[str]:
        for member in sorted(self.members):
            if member.startswith("ppt/charts/chart") and member.endswith(".xml"):
                yield f"{member} {_digest(self.tree(member))}"


@contextmanager
def read_pptx(source: Source) -> Iterator[PptxReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield PptxReading(file, source.name)


def _shapes(root: Any) -> Iterator[str]:
    """Describe the shapes of a slide in their order, and their drawing; crops belong to the
    pictures.
    """
    for element in root.iter("{*}sp", "{*}pic", "{*}graphicFrame", "{*}cxnSp", "{*}grpSp"):
        named: Any = next(element.iter("{*}cNvPr"), {})
        own = [child for child in element if name_of(child) in ("spPr", "grpSpPr", "xfrm", "style")]
        drawn = " ".join(_digest(child, without=(*_UNSEEN, "srcRect")) for child in own)
        names = (named.get("name", ""), named.get("descr", ""), named.get("hidden", ""))
        yield f"{name_of(element)} {named.get('id', '')} {names} {drawn}"
    background = root.find("{*}cSld/{*}bg")
    if background is not None:
        yield f"bg {_digest(background, without=('srcRect',))}"


def _words(paragraph: Any) -> str:
    return "".join(
        "\n" if name_of(element) == "br" else element.text or ""
        for element in paragraph.iter("{*}t", "{*}br", "{*}fld")
    )


def _is_text(paragraph: Any) -> bool:
    return "drawingml" in paragraph.tag


def _looks(paragraph: Any) -> str:
    """Return the formatting of the runs of a paragraph, equal neighbours joined, without their
    text.
    """
    looks = [_digest(paragraph.find("{*}pPr"))]
    lengths: list[int] = []
    for run in paragraph:
        if name_of(run) not in ("r", "fld", "br"):
            continue
        own = f"{name_of(run)} {_digest(run.find('{*}rPr'))}"
        length = len("".join(text.text or "" for text in run.iter("{*}t")))
        if lengths and looks[-1] == own and own.startswith("r "):
            lengths[-1] += length
        else:
            looks.append(own)
            lengths.append(length)
    return " ".join((*looks, *map(str, lengths)))


def _span(cell: Any) -> str:
    return f"{cell.get('gridSpan', '')}{cell.get('rowSpan', '')}{cell.get('hMerge', '')}"


def _digest(element: Any, without: tuple[str, ...] = ()) -> str:
    """Return a digest that is equal for elements of equal content, references to members aside."""
    if element is None:
        return "-"
    parts: list[str] = []
    _tell(element, without, parts)
    return hashlib.md5("".join(parts).encode(), usedforsecurity=False).hexdigest()[:12]


def _tell(element: Any, without: tuple[str, ...], parts: list[str]) -> None:
    if not isinstance(element.tag, str) or name_of(element) in without:
        return
    attributes = sorted(
        (key.split("}")[-1], value)
        for key, value in element.attrib.items()
        if key.split("}")[-1] not in _TRACES
    )
    parts.append(f"<{name_of(element)}{attributes}{(element.text or '').strip()}")
    for child in element:
        if name_of(child) == "extLst":
            continue
        _tell(child, without, parts)
    parts.append(">")


def _slide_name(root: Any) -> str:
    common = root.find("{*}cSld")
    return common.get("name", "") if common is not None else ""
