"""Fonts that a presentation brings along (ECMA-376 part 1, 19.2.1.9)."""

from collections.abc import Collection, Mapping
from typing import Any

from lighten.containers.eot import coding_of_eot
from lighten.containers.fonts import EmbeddedFont
from lighten.containers.opc import OpcPackage, relation_of
from lighten.containers.xml_parts import local_name
from lighten.model.kinds import FontCoding
from lighten.model.weights import FontFacts

__all__ = ["drop_fonts", "embedded_fonts", "letters_in"]


def embedded_fonts(package: OpcPackage) -> Mapping[str, EmbeddedFont]:
    """Return the embedded fonts, by their members."""
    fonts: dict[str, EmbeddedFont] = {}
    links = package.names_of(package.main)
    for entry in package.root(package.main).iterfind("{*}embeddedFontLst/{*}embeddedFont"):
        font = entry.find("{*}font")
        name = font.get("typeface", "Font") if font is not None else "Font"
        for cut in entry:
            link = links.get(relation_of(cut))
            if link is None or link.target not in package.archive.members:
                continue
            coding = coding_of_eot(package.archive.content(link.target))
            fonts[link.target] = EmbeddedFont(
                title=f"{name}, {local_name(cut).lower()}",
                facts=FontFacts(
                    # What cannot be taken apart stays whole, as that coding does.
                    coding=coding or FontCoding.OPENTYPE,
                    is_subset=False,
                    is_brought_along=True,
                ),
            )
    return fonts


def drop_fonts(root: Any, gone: Collection[str]) -> None:
    """The list of fonts without the cuts of those relationships."""
    for listed in list(root.iterfind("{*}embeddedFontLst")):
        for entry in list(listed):
            for cut in list(entry):
                if relation_of(cut) in gone:
                    entry.remove(cut)
            if not any(relation_of(cut) for cut in entry):
                listed.remove(entry)
        if not len(listed):
            root.remove(listed)


def letters_in(package: OpcPackage, members: Collection[str]) -> frozenset[str]:
    """Every letter that any text of those members has, in either case, and marks of lists."""
    letters: set[str] = set()
    for member in members:
        root = package.root(member)
        for text in root.itertext():
            letters.update(text)
        for mark in root.iter("{*}buChar"):
            letters.update(mark.get("char", ""))
    both = "".join(letters)
    return frozenset(letters | set(both.upper()) | set(both.lower()))
