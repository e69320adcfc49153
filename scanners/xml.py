"""XML as eSCL has it: read without trusting it, written."""

from lxml import etree

from scanners.errors import ScannerError

__all__ = ["NAMESPACES", "find_all", "find_text", "read_xml", "tag"]

# As the protocol spells them; whose they were says nothing about whose scanner answers.
NAMESPACES = {
    "scan": "http://schemas.hp.com/imaging/escl/2011/05/03",
    "pwg": "http://www.pwg.org/schemas/2010/12/sm",
}
_MOST_BYTES, _MOST_ELEMENTS = 1_000_000, 20_000


def read_xml(content: bytes, what: str) -> "etree._Element":
    """The root of what a scanner sent. Raises: ScannerError for anything but plain XML."""
    odd = ScannerError("odd_answer", f"The scanner sent {what} that cannot be read. Try again.")
    # Of a document type nothing is needed, and it is where entities multiply.
    if len(content) > _MOST_BYTES or b"<!DOCTYPE" in content or b"<!ENTITY" in content:
        raise odd
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False)
    try:
        root = etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise odd from error
    if sum(1 for _ in root.iter()) > _MOST_ELEMENTS:
        raise odd
    return root


def tag(name: str) -> str:
    """ "scan:Duplex" as the library names it."""
    prefix, _, local = name.partition(":")
    return f"{{{NAMESPACES[prefix]}}}{local}"


def find_all(element: "etree._Element", path: str) -> "list[etree._Element]":
    return element.findall(path, NAMESPACES)


def find_text(element: "etree._Element", path: str) -> str:
    """Return the text of an element, or "" where there is none."""
    return (element.findtext(path, "", NAMESPACES) or "").strip()
