"""An OpenDocument presentation through a reader that had no part in writing it.

Source: ISO/IEC 26300 part 1, 9.2 (pages), 10 (shapes) and 15 (animations).
"""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from lighten.containers.odf.reading import OdfReading, attribute_value
from lighten.containers.zip_reading import open_zip
from lighten.model.source import Source

__all__ = ["OdpReading", "read_odp"]

_SHAPES = (
    *("frame", "custom-shape", "rect", "line", "polyline", "polygon", "path", "circle", "ellipse"),
    *("connector", "g", "caption", "measure", "regular-polygon", "page-thumbnail", "control"),
)
_STYLED = ("style-name", "text-style-name")


class OdpReading(OdfReading):
    """Its promises are the words, slide by slide, and all that stands and moves on them."""

    def preserved_features(self) -> dict[str, tuple[str, ...]]:
        """See `Reading`."""
        kinds: tuple[str, ...] = ("slides", "text", "text formatting", "shapes", "links", "masters")
        kinds += ("films and sounds", "animations", "speaker notes", "comments")
        features: dict[str, list[str]] = {kind: [] for kind in kinds}
        looks = self.automatic("content.xml")
        body = self.tree("content.xml").find("{*}body/{*}presentation")
        for number, page in enumerate(body.iterchildren("{*}page"), start=1):
            style = attribute_value(page, "style-name")
            master = attribute_value(page, "master-page-name")
            name = attribute_value(page, "name")
            features["slides"].append(f"{number} {name} {master} {looks.get(style, style)}")
            self._look_through(f"slide {number}", page, looks, features)
        if "styles.xml" in self.members:
            own = self.automatic("styles.xml")
            for master in self.tree("styles.xml").iterfind("{*}master-styles/{*}master-page"):
                shapes = [_shape(shape, own) for shape in master.iter(*_tags(_SHAPES))]
                features["masters"].append(f"{attribute_value(master, 'name')} {shapes}")
        return {
            **{kind: tuple(entries) for kind, entries in features.items()},
            "embedded files": tuple(self.embedded()),
            "broken references": self.dangling(),
        }

    def _look_through(
        self, where: str, page: Any, looks: dict[str, str], features: dict[str, list[str]]
    ) -> None:
        for element in page.iter("*"):
            name = element.tag.split("}")[-1]
            in_notes = next(element.iterancestors("{*}notes"), None) is not None
            if name == "p":
                words = "".join(element.itertext())
                features["speaker notes" if in_notes else "text"].append(f"{where}: {words}")
                if not in_notes:
                    features["text formatting"].append(f"{where}: {_looks_of(element, looks)}")
            elif name in _SHAPES and not in_notes:
                features["shapes"].append(f"{where}: {_shape(element, looks)}")
            elif name == "a":
                features["links"].append(f"{where}: {attribute_value(element, 'href')}")
            elif name in ("plugin", "sound", "audio", "video"):
                features["films and sounds"].append(f"{where}: {attribute_value(element, 'href')}")
            elif name == "annotation":
                features["comments"].append(f"{where}: {''.join(element.itertext())}")
            elif "animation:1.0" in element.tag:
                steps = sorted((key.split("}")[-1], value) for key, value in element.attrib.items())
                features["animations"].append(f"{where}: {name} {steps}")


@contextmanager
def read_odp(source: Source) -> Iterator[OdpReading]:
    """The file opened for comparison. Raises: UnreadableFileError."""
    with open_zip(source.path, source.name) as file:
        yield OdpReading(file, source.name)


def _tags(names: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(f"{{*}}{name}" for name in names)


def _shape(shape: Any, looks: dict[str, str]) -> str:
    """Describe kind, position and drawing of a shape, without its content."""
    attributes = sorted(
        (name, looks.get(value, value) if name in _STYLED else value)
        for name, value in ((key.split("}")[-1], text) for key, text in shape.attrib.items())
    )
    geometry = [sorted(part.attrib.items()) for part in shape.iterchildren("{*}enhanced-geometry")]
    text = f"{attributes} {geometry}".encode()
    digest = hashlib.md5(text, usedforsecurity=False).hexdigest()[:12]
    return f"{shape.tag.split('}')[-1]} {attribute_value(shape, 'name')} {digest}"


def _looks_of(paragraph: Any, looks: dict[str, str]) -> str:
    """Return the formatting of the runs of a paragraph, equal neighbours joined, without their
    text.
    """
    own = attribute_value(paragraph, "style-name")
    pieces: list[tuple[str, int]] = []

    def add(look: str, text: str | None) -> None:
        if text and pieces and pieces[-1][0] == look:
            pieces[-1] = (look, pieces[-1][1] + len(text))
        elif text:
            pieces.append((look, len(text)))

    def walk(element: Any, look: str) -> None:
        add(look, element.text)
        for child in element.iterchildren("*"):
            style = attribute_value(child, "style-name")
            walk(child, looks.get(style, style) if style else look)
            add(look, child.tail)

    walk(paragraph, "")
    return f"{looks.get(own, own)} {pieces}"
