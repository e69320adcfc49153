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
        """Any change would end a signature."""
        raise NotImplementedError


class PackageDocument(Protocol):
    """A package as its format has opened it."""

    @property
    def package(self) -> Package:
        """Its members."""

    @property
    def media_type(self) -> str:
        """Media type of the file, as IANA lists it."""

    @property
    def pictures(self) -> Sequence[MemberPicture]:
        """Each once, with all its showings."""

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        """Members that are nothing but extras of that kind."""
