"""Recognition of the kind of OpenDocument, in sound and damaged files."""

import re
import zipfile
import zlib

from lighten.containers.odf.package import MANIFEST, MIMETYPE
from lighten.containers.recognise import ZIP_MARK
from lighten.model.source import Source

__all__ = ["is_open_document"]

# The first member, stored, so that the kind can be read at a place that is known (part 3, 3.3).
_AT_START = re.compile(
    rb"PK\x03\x04.{26}mimetype.{0,64}?application/vnd\.oasis\.opendocument\.([a-z]+)", re.DOTALL
)
_KIND = re.compile(rb"application/vnd\.oasis\.opendocument\.([a-z]+)")
_ENTRY = re.compile(rb"<(?:[\w.-]+:)?file-entry\s[^>]*>")
_LOOKED_AT, _MOST_READ = 4096, 1_000_000


def is_open_document(source: Source, kind: str) -> bool:
    """Return True for a document of that kind, as "text". Raises: OSError.

    Some programs write `mimetype` last, or packed: then that member declares the kind, or the
    manifest does.
    """
    with source.path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    found = _AT_START.match(head)
    if found is None and head.startswith(ZIP_MARK):
        found = _KIND.search(_kind_inside(source))
    return found is not None and found[1].decode() == kind


def _kind_inside(source: Source) -> bytes:
    """Return the media type that a member of the archive declares; b"" for none."""
    try:
        with zipfile.ZipFile(source.path) as archive:
            for name, kind_of in ((MIMETYPE, bytes), (MANIFEST, _kind_in_manifest)):
                if name in archive.NameToInfo:
                    with archive.open(name) as member:
                        if found := kind_of(member.read(_MOST_READ)):
                            return found
    except (zipfile.BadZipFile, zlib.error, RuntimeError, ValueError, EOFError):
        pass
    return b""


def _kind_in_manifest(manifest: bytes) -> bytes:
    """Return the media type of the whole document (part 3, 4.3); b"" where it has none."""
    for entry in _ENTRY.findall(manifest):
        if re.search(rb"full-path\s*=\s*[\"']/[\"']", entry):
            media_type = re.search(rb"media-type\s*=\s*[\"']([^\"']*)", entry)
            return media_type[1] if media_type else b""
    return b""
