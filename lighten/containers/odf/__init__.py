"""Packages as ISO/IEC 26300 part 2 has them, and the frames of their text."""

from lighten.containers.odf.frames import Frame, picture_frames
from lighten.containers.odf.package import OdfPackage, open_package

__all__ = ["Frame", "OdfPackage", "open_package", "picture_frames"]
