"""Styles and lists that a text document defines and nothing uses.

Source: ECMA-376 part 1, 17.7 (styles) and 17.9 (numbering).
"""

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from typing import Any

from lighten.containers.opc import OpcPackage
from lighten.containers.xml_parts import attribute, parse_xml, write_xml
from lighten.formats.docx.built_in_styles import is_built_in

__all__ = ["Definitions", "drop_definitions", "unused_definitions"]

_STYLE_USES = ("pStyle", "rStyle", "tblStyle", "clickAndTypeStyle", "defaultTableStyle")
_STYLE_LINKS = ("basedOn", "next", "link")
_YES = ("1", "true", "on")
_LIST_LINKS = ("styleLink", "numStyleLink")


@dataclass(frozen=True, slots=True, kw_only=True)
class Definitions:
    """Ids of styles, of numberings and of the abstract numberings that they rest on."""

    styles: frozenset[str] = field(default=frozenset())
    numberings: frozenset[str] = field(default=frozenset())
    lists: frozenset[str] = field(default=frozenset())

    def __bool__(self) -> bool:
        return bool(self.styles or self.numberings or self.lists)


def unused_definitions(package: OpcPackage, stories: Iterable[str]) -> Definitions:
    """Return the definitions that no story, setting or other definition in use refers to.

    Of styles only those whose definition is one that programs bring themselves: a person's own stay
    to be picked, and so do built-in ones that somebody changed.
    """
    styles: dict[str, Any] = {}
    numberings: dict[str, Any] = {}
    lists: dict[str, Any] = {}
    used_styles: set[str] = set()
    used_numberings: set[str] = set()
    fields: list[str] = []
    for member in stories:
        root, content_type = package.root(member), package.content_type(member)
        if content_type.endswith("styles+xml"):
            styles |= {attribute(style, "styleId"): style for style in root.iter("{*}style")}
        elif content_type.endswith("numbering+xml"):
            numberings |= {
                attribute(element, "numId"): element for element in root.iterchildren("{*}num")
            }
            lists |= {
                attribute(element, "abstractNumId"): element
                for element in root.iterchildren("{*}abstractNum")
            }
        else:
            used_styles |= _values(root, _STYLE_USES)
            used_numberings |= _values(root, ("numId",))
            fields += [text.text or "" for text in root.iter("{*}instrText")]
            fields += [attribute(element, "instr") for element in root.iter("{*}fldSimple")]
    used_styles |= {
        style_id
        for style_id, style in styles.items()
        if attribute(style, "default") in _YES
        or attribute(style, "customStyle") in _YES
        or not is_built_in(style)
        or _is_named(style, "".join(fields))
    }
    used_lists = _close(styles, numberings, lists, used_styles, used_numberings)
    return Definitions(
        styles=frozenset(styles.keys() - used_styles),
        numberings=frozenset(numberings.keys() - used_numberings),
        lists=frozenset(lists.keys() - used_lists),
    )


def _close(
    styles: dict[str, Any],
    numberings: dict[str, Any],
    lists: dict[str, Any],
    used_styles: set[str],
    used_numberings: set[str],
) -> set[str]:
    """Add everything that the used definitions refer to, abstract lists included."""
    used_lists: set[str] = set()
    while True:
        before = len(used_styles), len(used_numberings), len(used_lists)
        for style_id in list(used_styles & styles.keys()):
            used_styles |= _values(styles[style_id], _STYLE_LINKS)
            used_numberings |= _values(styles[style_id], ("numId",))
        for numbering in list(used_numberings & numberings.keys()):
            used_lists |= _values(numberings[numbering], ("abstractNumId",))
        for list_id in list(used_lists & lists.keys()):
            used_styles |= _values(lists[list_id], ("pStyle", *_LIST_LINKS))
        # Lists that are tied by a style stand for one another.
        for list_id, element in lists.items():
            if _values(element, _LIST_LINKS) & used_styles:
                used_lists.add(list_id)
        if before == (len(used_styles), len(used_numberings), len(used_lists)):
            return used_lists


def drop_definitions(content: bytes, dropped: Definitions) -> bytes:
    """Remove unused definitions from a member of styles or numberings."""
    root = parse_xml(content, "a member", "")
    for tag, key, ids in (
        ("style", "styleId", dropped.styles),
        ("num", "numId", dropped.numberings),
        ("abstractNum", "abstractNumId", dropped.lists),
    ):
        for element in list(root.iterchildren(f"{{*}}{tag}")):
            if attribute(element, key) in ids:
                root.remove(element)
    return write_xml(root)


def _values(root: Any, names: Collection[str]) -> set[str]:
    """Return the values that elements of those names hold."""
    return {attribute(element, "val") for element in root.iter(*(f"{{*}}{name}" for name in names))}


def _is_named(style: Any, fields: str) -> bool:
    """A field asks for it by its name, as tables of contents do."""
    return bool(_name(style)) and _name(style) in fields


def _name(style: Any) -> str:
    name = style.find("{*}name")
    return attribute(name, "val") if name is not None else ""
