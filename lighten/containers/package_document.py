"""Facts of packages that every format reads before weighing."""

from collections.abc import Sequence
from typing import Protocol

from lighten.containers.pictures import MemberPicture
from lighten.containers.xml_members import XmlMembers
from lighten.model.kinds import ExtraKind

__all__ = ["Package", "PackageDocument"]


class Package(XmlMembers):
    """Package of any kind, as the formats read it."""

    @property
    def is_signed(self) -> bool:
        """Return whether any change would invalidate a signature."""
        raise NotImplementedError

    @property
    def outside_pictures(self) -> frozenset[str]:
        """Return the addresses of pictures that are shown and lie outside the file."""
        raise NotImplementedError


class PackageDocument(Protocol):
    """A package as its format has opened it."""

    @property
    def package(self) -> Package:
        """Return the package of the document."""

    @property
    def media_type(self) -> str:
        """Return the media type of the file, as IANA lists it."""

    @property
    def pictures(self) -> Sequence[MemberPicture]:
        """Return each picture once, with all its placements."""

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Return the members that hold extras of that kind and nothing else."""
