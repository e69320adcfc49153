"""The members of a text document that hold what people wrote, and the words in them.

Source: ECMA-376 part 1, clause 17. Names are compared without their namespaces, which differ
between the editions.
"""

from collections.abc import Mapping
from typing import Any

from lighten.containers.opc import OpcPackage
from lighten.containers.xml_parts import local_name

__all__ = ["story_members", "style_names", "words_near"]

_MAIN = "wordprocessingml"
_BODIES = ("body", "hdr", "ftr", "footnote", "endnote", "comment", "docPartBody")
_LOOKED_BACK = 400  # paragraphs and tables
# Of the styles that come with every document, which have English names in every language.
_HEADINGS = ("heading", "title")


def story_members(package: OpcPackage) -> list[str]:
    """Return the XML members with text, the document itself first."""
    own = [
        name
        for name in package.archive.members
        if _MAIN in package.content_type(name) or "ms-word" in package.content_type(name)
    ]
    return sorted(
        (name for name in own if package.is_xml(name)),
        key=lambda name: (name != package.main, name),
    )


def words_near(element: Any, headings: Mapping[str, str]) -> str:
    """Return the nearest heading before an element, else nearby words; "" if there are none.

    headings: names of styles by their ids.
    """
    own = next(element.iterancestors("{*}p"), None)
    if own is None:
        return ""
    # What stands in frames and tables is found from the paragraph around them.
    outermost = own
    for above in own.iterancestors():
        if local_name(above) in _BODIES:
            break
        outermost = above
    before = ""
    for number, sibling in enumerate((outermost, *outermost.itersiblings(preceding=True))):
        if number > _LOOKED_BACK:
            break
        if local_name(sibling) != "p":
            continue
        if _is_heading(sibling, headings) and (words := _words_of(sibling)):
            return words
        before = before or _words_of(sibling)
    return before or _words_of(next(outermost.itersiblings("{*}p"), None))


def _words_of(paragraph: Any) -> str:
    if paragraph is None:
        return ""
    texts = (text.text or " " for text in paragraph.iter("{*}t", "{*}tab"))
    return "".join(texts).strip()


def _is_heading(paragraph: Any, headings: Mapping[str, str]) -> bool:
    style = paragraph.find("{*}pPr/{*}pStyle")
    if style is None:
        return paragraph.find("{*}pPr/{*}outlineLvl") is not None
    style_name = next((value for key, value in style.attrib.items() if key.endswith("}val")), "")
    return headings.get(style_name, style_name).lower().startswith(_HEADINGS)


def style_names(package: OpcPackage) -> dict[str, str]:
    """Return the names of styles by their ids."""
    names: dict[str, str] = {}
    for member in package.archive.members:
        if package.content_type(member).endswith("wordprocessingml.styles+xml"):
            for style in package.root(member).iter("{*}style"):
                attributes = {key.rpartition("}")[2]: value for key, value in style.attrib.items()}
                name = style.find("{*}name")
                if name is not None:
                    names[attributes.get("styleId", "")] = next(iter(name.attrib.values()), "")
    return names
