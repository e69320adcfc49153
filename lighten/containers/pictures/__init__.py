"""Pictures that are members of a package: read, weighed and built anew."""

from lighten.containers.pictures.build_member import BuiltPicture, build_member_picture
from lighten.containers.pictures.group_members import group_pictures
from lighten.containers.pictures.member_file import member_picture
from lighten.containers.pictures.weigh_members import MemberPicture, Showing, weigh_members

__all__ = [
    "BuiltPicture",
    "MemberPicture",
    "Showing",
    "build_member_picture",
    "group_pictures",
    "member_picture",
    "weigh_members",
]
