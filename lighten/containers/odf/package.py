"""A package opened: its members, and what its manifest says of them.

Source: ISO/IEC 26300 part 3 (packages): "mimetype" first and stored, META-INF/manifest.xml.
"""

import re
from collections.abc import Mapping
from functools import cached_property

from lighten.containers.archive import read_archive
from lighten.containers.package_document import Package
from lighten.model.errors import PasswordNeededError, UnreadableFileError
from lighten.model.source import Source

__all__ = ["MANIFEST", "MIMETYPE", "OdfPackage", "open_package"]

MANIFEST, MIMETYPE = "META-INF/manifest.xml", "mimetype"
_NAMESPACE = "{urn:oasis:names:tc:opendocument:xmlns:manifest:1.0}"
_HREF = "{http://www.w3.org/1999/xlink}href"
# An address with a scheme, or a path that leaves the package (part 3, 2.2.3).
_OUTSIDE = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:|\.\./|/")
_SIGNATURES = ("META-INF/documentsignatures.xml", "META-INF/macrosignatures.xml")


class OdfPackage(Package):
    """A package of that kind, opened."""

    @cached_property
    def media_types(self) -> Mapping[str, str]:
        """Return the media type of each member by the manifest."""
        return {
            entry.get(f"{_NAMESPACE}full-path", ""): entry.get(f"{_NAMESPACE}media-type", "")
            for entry in self.root(MANIFEST).iter(f"{_NAMESPACE}file-entry")
        }

    @property
    def media_type(self) -> str:
        """The kind of document by `mimetype`, or by the manifest where that member is missing."""
        if MIMETYPE not in self.archive.members:
            return self.media_types.get("/", "")
        return self.archive.content(MIMETYPE).decode("ascii", "replace").strip()

    @property
    def is_locked(self) -> bool:
        return next(self.root(MANIFEST).iter(f"{_NAMESPACE}encryption-data"), None) is not None

    @property
    def is_signed(self) -> bool:
        return any(name in self.archive.members for name in _SIGNATURES)

    @property
    def outside_pictures(self) -> frozenset[str]:
        found = set()
        for member in ("content.xml", "styles.xml"):
            if member in self.archive.members:
                for image in self.root(member).iter("{*}image"):
                    address = image.get(_HREF, "")
                    if _OUTSIDE.match(address):
                        found.add(address)
        return frozenset(found)


def open_package(source: Source) -> OdfPackage:
    """Open an OpenDocument package. Raises: as `read_archive`; UnreadableFileError if incomplete;
    PasswordNeededError.
    """
    package = OdfPackage(read_archive(source))
    for needed in (MANIFEST, "content.xml"):
        if needed not in package.archive.members:
            raise UnreadableFileError(
                f"{source.name}: {needed} is missing in it. Fetch or save it again, and try that "
                "file."
            )
    if package.is_locked:
        raise PasswordNeededError(
            f"{source.name}: is locked with a password. Save it without one, and try that file."
        )
    return package
