"""A picture file as a row of blocks that cover it to the byte."""

from dataclasses import dataclass
from enum import StrEnum

from lighten.model.errors import LightenError
from lighten.pictures.files.multi_picture import FurtherPicture

__all__ = ["BadPictureError", "Block", "PictureFile", "Role", "covering"]


class BadPictureError(LightenError):
    """Bytes that begin like a picture file and do not hold what that promises."""

    code = "unreadable"


class Role(StrEnum):
    """Purpose of a block."""

    PICTURE = "picture"  # all that a decoder needs
    STRUCTURE = "structure"  # what other programs expect
    PROFILE = "profile"
    EXIF = "exif"
    XMP = "xmp"
    XMP_MORE = "xmp-more"  # what did not fit into one block
    IMAGE_RESOURCES = "image-resources"  # among them IPTC captions
    TEXT = "text"  # comments and captions
    PREVIEW = "preview"
    FURTHER = "further"  # pictures besides the first
    PRIVATE = "private"  # of some program
    LEFTOVER = "leftover"  # after the end


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """start, end: in the file. content: where what it carries begins; it ends with the block,
    less `tail` bytes. name: as the kind of file calls it.
    """

    role: Role
    name: str
    start: int
    end: int
    content: int
    tail: int = 0

    @property
    def size_bytes(self) -> int:
        return self.end - self.start


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFile:
    """A picture file by its structure.

    kind: "jpeg", "png", "webp", "gif", "bmp" or "heic". bits: a sample. colours: samples a pixel,
    without opacity; 1 for grey. frames: more than one where it moves. dots: per inch, across and
    down, as a tag of the kind itself says, or None. profile: an ICC profile, or none.
    is_lossy: its coding threw something away. is_interlaced: rows of a PNG are not in order.
    obstacle: why it cannot be worked on, or "". further: pictures besides the first, of a JPEG.
    """

    kind: str
    data: bytes
    blocks: tuple[Block, ...]
    width_px: int
    height_px: int
    bits: int
    colours: int
    has_opacity: bool = False
    has_palette: bool = False
    frames: int = 1
    dots: tuple[float, float] | None = None
    profile: bytes = b""
    is_lossy: bool = False
    is_interlaced: bool = False
    obstacle: str = ""
    further: tuple[FurtherPicture, ...] = ()

    def content(self, block: Block) -> bytes:
        return self.data[block.content : block.end - block.tail]

    def of_role(self, *roles: Role) -> tuple[Block, ...]:
        return tuple(block for block in self.blocks if block.role in roles)


def covering(blocks: list[Block], size_bytes: int) -> tuple[Block, ...]:
    """Return the blocks and the remainder, checked to be contiguous."""
    end = 0
    for block in blocks:
        if block.start != end or block.end < block.start:
            raise BadPictureError("Its blocks do not follow one another.")
        end = block.end
    if end < size_bytes:
        leftover = Block(role=Role.LEFTOVER, name="rest", start=end, end=size_bytes, content=end)
        blocks = [*blocks, leftover]
    return tuple(blocks)
