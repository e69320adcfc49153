"""XML members read without trust, and written again."""

import re
from typing import Any

from lighten.model.errors import LimitExceededError, UnreadableFileError

__all__ = ["XML_NAMESPACE", "attribute", "local_name", "parse_xml", "write_xml"]

XML_NAMESPACE = "http://www.w3.org/XML/1998/namespace"
# A tree takes six to ten times its text in memory.
_MOST_BYTES = 60_000_000
# Entities make bombs and reach for other files; the standards have no use for them in packages
# (ECMA-376 part 2, 8.1.4).
_ENTITY = re.compile(rb"<!ENTITY|<\0!\0E\0N\0T\0I\0T\0Y|\0<\0!\0E\0N\0T\0I\0T\0Y")


def parse_xml(content: bytes, name: str, shown_as: str) -> Any:
    """The root of a member called `name` in the file `shown_as`.

    Raises: UnreadableFileError if it is not well formed, too deep or declares entities;
    LimitExceededError.
    """
    from lxml import etree

    if len(content) > _MOST_BYTES:
        raise LimitExceededError(
            f"{shown_as}: {name} in it is longer than can be worked on safely "
            f"({_MOST_BYTES // 1_000_000} MB of XML)."
        )
    if _ENTITY.search(content):
        raise UnreadableFileError(
            f"{shown_as}: {name} in it declares entities, which office files may not. It may have "
            "been made to do harm; ask whoever sent it for another."
        )
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, remove_comments=False
    )
    try:
        return etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise UnreadableFileError(
            f"{shown_as}: {name} in it cannot be read ({error}). Open the file in the program it "
            "came from and save it again, and try that file."
        ) from error


def write_xml(root: Any) -> bytes:
    """The member's bytes, with all that stood before and after its root."""
    from lxml import etree

    tree = root.getroottree()
    if tree.docinfo.standalone:
        return bytes(etree.tostring(tree, xml_declaration=True, encoding="UTF-8", standalone=True))
    # "no" is what is meant where nothing is said (XML 1.0, 2.9).
    return bytes(etree.tostring(tree, xml_declaration=True, encoding="UTF-8"))


def local_name(element: Any) -> str:
    """The element's name without its namespace; "" for comments and instructions."""
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def attribute(element: Any, name: str) -> str:
    """Return the value of an attribute in any namespace; "" for none."""
    for key, value in element.attrib.items():
        if key.rpartition("}")[2] == name:
            return str(value)
    return ""
