"""Parsed XML of a sheet's shell, and digests of its elements."""

import hashlib
from typing import Any

from lighten.containers.zip_reading import name_of
from lighten.model.errors import UnreadableFileError

__all__ = ["element_digest", "parse_shell"]


def parse_shell(shell: bytes, name: str) -> Any:
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        return etree.fromstring(shell, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise UnreadableFileError(f"{name} cannot be read.") from error


def element_digest(element: Any, without: tuple[str, ...] = ()) -> str:
    parts: list[str] = []
    _tell(element, without, parts)
    return hashlib.md5("".join(parts).encode(), usedforsecurity=False).hexdigest()[:16]


def _tell(element: Any, without: tuple[str, ...], parts: list[str]) -> None:
    name = name_of(element)
    if not name or name in without:
        return
    # What leads to members is left to those who look at them.
    attributes = sorted(
        (key.split("}")[-1], value)
        for key, value in element.attrib.items()
        if not key.split("}")[0].endswith("/relationships")
    )
    parts.append(f"<{name}{attributes}{(element.text or '').strip()}")
    for child in element:
        _tell(child, without, parts)
        parts.append((child.tail or "").strip())
    parts.append(">")
