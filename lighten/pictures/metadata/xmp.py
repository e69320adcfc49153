"""XMP packets (ISO 16684-1): properties by kind, and packets written without some."""

import hashlib
import re
from collections.abc import Callable, Collection, Iterator
from copy import deepcopy
from functools import partial

from lxml import etree

from lighten.model.kinds import ExtraKind

__all__ = ["join_packets", "rewrite_xmp", "split_packet", "xmp_weights"]

_RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
_ABOUT, _DESCRIPTION = f"{{{_RDF}}}about", f"{{{_RDF}}}Description"
_EXIF = "http://ns.adobe.com/exif/1.0/"
_NOTE = "http://ns.adobe.com/xmp/note/"
# Longer texts than any person writes: data of a program.
_MOST_PROSE_BYTES = 20_000
_PRIVATE = (
    "http://ns.adobe.com/xap/1.0/mm/",
    "http://ns.adobe.com/xap/1.0/sType/",
    "http://ns.adobe.com/camera-raw-settings/",
    "http://ns.adobe.com/crd/",
    "http://ns.google.com/photos/1.0/depthmap/",
    "http://ns.google.com/photos/1.0/image/",
    "http://ns.google.com/photos/1.0/focus/",
    "http://ns.google.com/photos/1.0/audio/",
    "http://ns.adobe.com/illustrator/",
    "http://ns.adobe.com/xap/1.0/t/pg/",
)
_PRIVATE_NAMES = ("History", "DocumentAncestors", "TextLayers", "CreatorTool", "MetadataDate")
_CAMERA = (
    _EXIF,
    "http://cipa.jp/exif/1.0/",
    "http://ns.adobe.com/tiff/1.0/",
    "http://ns.adobe.com/exif/1.0/aux/",
)
_PREVIEW_NAMES = ("Thumbnails",)
_PLACE_NAMES = ("City", "State", "Country", "CountryCode", "Location", "LocationCreated")
# The name of a further packet, as it stands in the first.
_DIGEST_BYTES = 200
_SPACES = re.compile(rb' xmlns:\w+="[^"]*"')
_PADDING = re.compile(rb"\s{64,}(?=<\?xpacket end)")


def xmp_weights(content: bytes) -> dict[ExtraKind, int]:
    """Return bytes by kind, adding up to the content; unreadable parts count as descriptions."""
    padding = sum(len(run) for run in _PADDING.findall(content))
    weights = {ExtraKind.LEFTOVERS: padding} if padding else {}
    left = len(content) - padding
    root = _parsed(content)
    for _, kind, size in _properties(root) if root is not None else ():
        if kind is not ExtraKind.METADATA:
            size = min(size, left)  # noqa: PLW2901 - as much as there is
            weights[kind] = weights.get(kind, 0) + size
            left -= size
    weights[ExtraKind.METADATA] = left
    return {kind: size for kind, size in weights.items() if size}


def rewrite_xmp(content: bytes, dropped: Collection[ExtraKind], *, more: bytes = b"") -> bytes:
    """Return the packet without dropped properties; b"" if none remains.

    more: what the packet says in a further block, which it then names by digest.
    """
    if ExtraKind.LEFTOVERS in dropped:
        content = _PADDING.sub(b"\n", content)
    root = _parsed(content)
    if root is None:
        return b"" if ExtraKind.METADATA in dropped else content
    properties = list(_properties(root))
    gone = [remove for remove, kind, _ in properties if kind in dropped]
    has_note = any(_is_note(name) for name in _names(root))
    if not gone and not has_note:
        return content
    for remove in gone:
        remove()
    _name_more(root, more)
    if not any(True for _ in _properties(root)) and not more:
        return b""
    return _packet(root)


def join_packets(content: bytes, more: bytes) -> bytes:
    """Join two packets into one with the properties of both. more: as of `rewrite_xmp`."""
    root, further = _parsed(content), _parsed(more)
    first = None if root is None else next(_descriptions(root), None)
    if root is None or further is None or first is None:
        return content
    _name_more(root, b"")
    for description in reversed(list(_descriptions(further))):
        first.addnext(description)
    return _packet(root)


def split_packet(content: bytes, most_bytes: int) -> tuple[bytes, bytes]:
    """The packet in two, the heaviest properties in the second, which the first names by digest.

    most_bytes: of the first. Source: XMP part 3, 1.1.3.1.
    """
    root = _parsed(content)
    if root is None:
        return content, b""
    # A copy knows the same namespaces, so that none is declared anew on each property.
    further = deepcopy(root)
    for remove, _, _ in list(_properties(further)):
        remove()
    into = next(_descriptions(further), None)
    if into is None:
        return content, b""
    properties = [child for described in _descriptions(root) for child in described]
    properties.sort(key=lambda child: len(etree.tostring(child)), reverse=True)
    for child in properties:
        if len(_packet(root)) + _DIGEST_BYTES <= most_bytes:
            break
        into.append(child)
    more: bytes = etree.tostring(further, encoding="utf-8")
    _name_more(root, more)
    return _packet(root), more


def _packet(root: "etree._Element") -> bytes:
    body: bytes = etree.tostring(root, encoding="utf-8")
    return b'<?xpacket begin="" id="W5M0MpCehiHzreSzNTczkc9d"?>' + body + b'<?xpacket end="w"?>'


def _parsed(content: bytes) -> "etree._Element | None":
    """Parse the packet; None if malformed. No entity is resolved, nothing is fetched."""
    body = re.sub(rb"<\?xpacket.*?\?>", b"", content, flags=re.DOTALL).strip(
        b" \t\r\n\0\xef\xbb\xbf"
    )
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)
    try:
        root = etree.fromstring(body, parser)
    except (etree.XMLSyntaxError, ValueError):
        return None
    doctype = getattr(root.getroottree().docinfo, "doctype", "")
    return None if doctype else root


def _properties(
    root: "etree._Element",
) -> Iterator[tuple[Callable[[], object], ExtraKind, int]]:
    """Yield each property: a function to remove it, its kind, and its approximate bytes."""
    for description in _descriptions(root):
        for attribute, value in list(description.attrib.items()):
            name = str(attribute)
            if name == _ABOUT or _is_note(name):
                continue
            size = len(name.rpartition("}")[2]) + len(str(value).encode()) + 12
            yield partial(description.attrib.pop, attribute), _kind_of(name, size), size
        for child in list(description):
            if not isinstance(child.tag, str) or _is_note(child.tag):
                continue
            size = len(_SPACES.sub(b"", etree.tostring(child)))
            yield partial(description.remove, child), _kind_of(child.tag, size), size


def _descriptions(root: "etree._Element") -> Iterator["etree._Element"]:
    """Return the descriptions of the picture itself."""
    for description in root.iter(_DESCRIPTION):
        parent = description.getparent()
        if parent is None or parent.tag == f"{{{_RDF}}}RDF":
            yield description


def _names(root: "etree._Element") -> Iterator[str]:
    for element in _descriptions(root):
        yield from (str(name) for name in element.attrib)
        yield from (str(child.tag) for child in element)


def _is_note(name: str) -> bool:
    """Return whether the property announces a further block."""
    return name.startswith(f"{{{_NOTE}}}")


def _name_more(root: "etree._Element", more: bytes) -> None:
    name = f"{{{_NOTE}}}HasExtendedXMP"
    for element in root.iter(_DESCRIPTION):
        for child in [child for child in element if child.tag == name]:
            element.remove(child)
        if name in element.attrib:
            del element.attrib[name]
    first = next(root.iter(_DESCRIPTION), None)
    if more and first is not None:
        digest = hashlib.md5(more, usedforsecurity=False).hexdigest().upper()
        first.set(name, digest)


def _kind_of(name: str, size_bytes: int) -> ExtraKind:
    space, _, local = name.lstrip("{").rpartition("}")
    if local in _PREVIEW_NAMES:
        return ExtraKind.THUMBNAILS
    if space in _PRIVATE or local in _PRIVATE_NAMES or size_bytes > _MOST_PROSE_BYTES:
        return ExtraKind.PRIVATE_DATA
    if (space == _EXIF and local.startswith("GPS")) or local in _PLACE_NAMES:
        return ExtraKind.LOCATION
    return ExtraKind.CAMERA_DATA if space in _CAMERA else ExtraKind.METADATA
