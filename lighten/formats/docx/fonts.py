"""Fonts embedded in a text document.

Source: ECMA-376 part 1, 17.8.3 (the list of fonts names embedded ones, and their keys).
"""

from collections.abc import Iterable, Mapping

from lighten.containers.fonts import EmbeddedFont, font_coding, mixed_with_key
from lighten.containers.opc import OpcPackage
from lighten.model.weights import FontFacts

__all__ = ["embedded_fonts", "letters_in"]

_EMBEDDED = ("embedRegular", "embedBold", "embedItalic", "embedBoldItalic")


def embedded_fonts(package: OpcPackage) -> Mapping[str, EmbeddedFont]:
    """Return the embedded fonts that can be worked on, by their members. Raises: as
    `Archive.content`.
    """
    fonts: dict[str, EmbeddedFont] = {}
    for table in package.archive.members:
        if not package.content_type(table).endswith("fontTable+xml"):
            continue
        links = package.names_of(table)
        for element in package.root(table).iter(*(f"{{*}}{name}" for name in _EMBEDDED)):
            attributes = {name.rpartition("}")[2]: value for name, value in element.attrib.items()}
            link, key = links.get(attributes.get("id", "")), attributes.get("fontKey", "")
            if link is None or link.target not in package.archive.members:
                continue
            content = package.archive.content(link.target)
            try:
                plain = mixed_with_key(content, key) if key else content
            except ValueError:
                continue
            coding = font_coding(plain)
            names = {name.rpartition("}")[2]: text for name, text in element.getparent().items()}
            cut = element.tag.rpartition("}embed")[2]
            if coding is not None:
                fonts[link.target] = EmbeddedFont(
                    title=f"{names.get('name', 'Font')}, {cut.lower()}",
                    key=key,
                    facts=FontFacts(
                        coding=coding,
                        is_subset=attributes.get("subsetted", "") in ("1", "true", "on"),
                        is_brought_along=True,
                    ),
                )
    return fonts


def letters_in(package: OpcPackage, members: Iterable[str]) -> frozenset[str]:
    """Every letter that any text of those members has, shown or not, in either case."""
    letters: set[str] = set()
    for member in members:
        root = package.root(member)
        for text in root.itertext():
            letters.update(text)
        # Numbers of lists and symbols stand in attributes.
        for element in root.iter("{*}lvlText", "{*}sym"):
            for name, value in element.attrib.items():
                letters.update(value)
                if name.endswith("}char"):
                    letters.add(chr(int(value, 16)))
    return frozenset(letters | set("".join(letters).upper()) | set("".join(letters).lower()))
