"""Metadata of a picture file: weighed by kind, and written without some kinds."""

from collections.abc import Collection

from lighten.model.kinds import ExtraKind
from lighten.pictures.coding.coded import Coding
from lighten.pictures.files import (
    MOST_XMP_BYTES,
    Block,
    Carried,
    PictureFile,
    Role,
    text_chunk,
    text_of,
)
from lighten.pictures.metadata.exif import ExifChange, as_upright, exif_weights, rewrite_exif
from lighten.pictures.metadata.image_resources import resource_weights, rewrite_resources
from lighten.pictures.metadata.xmp import (
    join_packets,
    rewrite_xmp,
    split_packet,
    xmp_weights,
)

__all__ = ["as_text", "carried_by", "exif_of", "is_prose", "metadata_weights"]

_BY_ROLE = {
    Role.TEXT: ExtraKind.METADATA,
    Role.PREVIEW: ExtraKind.THUMBNAILS,
    Role.PRIVATE: ExtraKind.PRIVATE_DATA,
    Role.LEFTOVER: ExtraKind.LEFTOVERS,
}
_EXIF_HEAD = b"Exif\0\0"
# How some programs put Exif into a PNG before there was a chunk for it.
_RAW_EXIF = ("Raw profile type exif", "Raw profile type APP1")
_COMMENT = "Comment"


def metadata_weights(file: PictureFile) -> dict[ExtraKind, int]:
    """Return the bytes of each kind of extra in the file, including the headers of its blocks."""
    weights: dict[ExtraKind, int] = _weights_of_more(file)
    for block in file.blocks:
        block_weights = _weights_of(file, block)
        for kind, size in _with_heads(block_weights, block.size_bytes).items():
            weights[kind] = weights.get(kind, 0) + size
    return weights


def exif_of(file: PictureFile) -> bytes:
    """Return the Exif content of a file, wherever it is stored; b"" if absent."""
    for block in file.of_role(Role.EXIF):
        content = file.content(block).removeprefix(_EXIF_HEAD)
        # Its decoder has turned it already.
        return as_upright(content) if file.kind == "heic" else content
    for block in file.of_role(Role.TEXT):
        if (raw := _raw_exif(file, block)) is not None:
            return raw
    return b""


def carried_by(
    file: PictureFile, change: ExifChange, coding: Coding, *, keeps_profile: bool
) -> Carried:
    """Return the metadata that a file of that coding keeps, without the dropped kinds.

    change: of the picture's size, and what is dropped.
    """
    dropped = change.dropped
    xmp, xmp_more = _packets(file, dropped, is_jpeg=coding is Coding.JPEG)
    resources = b"".join(file.content(block) for block in file.of_role(Role.IMAGE_RESOURCES))
    dots = file.dots
    if dots is not None and change.size_px is not None:
        dots = dots[0] * change.share, dots[1] * change.share
    keeps_text = ExtraKind.METADATA not in dropped
    return Carried(
        profile=file.profile if keeps_profile else b"",
        exif=rewrite_exif(exif_of(file), change),
        xmp=xmp,
        xmp_more=xmp_more,
        image_resources=rewrite_resources(resources, dropped),
        comments=_comments(file) if keeps_text else (),
        dots=dots,
        further=file.further,
        chunks=tuple(_chunks(file, dropped, keeps_profile=keeps_profile)),
    )


def _packets(
    file: PictureFile, dropped: Collection[ExtraKind], *, is_jpeg: bool
) -> tuple[bytes, bytes]:
    """Return the XMP packet, and where a JPEG needs two, the second one."""
    xmp = b"".join(file.content(block) for block in file.of_role(Role.XMP)[:1])
    if not xmp:
        return b"", b""
    more = b"".join(file.content(block) for block in file.of_role(Role.XMP_MORE))
    kept_more = rewrite_xmp(more, dropped) if more else b""
    kept = rewrite_xmp(xmp, dropped, more=kept_more)
    if not is_jpeg:
        return join_packets(kept, kept_more), b""
    return (kept, kept_more) if len(kept) <= MOST_XMP_BYTES else split_packet(kept, MOST_XMP_BYTES)


def _weights_of(file: PictureFile, block: Block) -> dict[ExtraKind, int]:
    content = file.content(block)
    if block.role is Role.EXIF:
        return exif_weights(content.removeprefix(_EXIF_HEAD))
    if block.role is Role.XMP:
        return xmp_weights(content)
    if block.role is Role.IMAGE_RESOURCES:
        return resource_weights(content)
    if block.role is Role.TEXT and (exif := _raw_exif(file, block)) is not None:
        # Written as text, packed: shared out as its content is.
        weights = exif_weights(exif)
        share = len(content) / max(1, len(exif))
        return {kind: int(size * share) for kind, size in weights.items()}
    if block.role in _BY_ROLE:
        return {_BY_ROLE[block.role]: block.size_bytes}
    return {}


def _weights_of_more(file: PictureFile) -> dict[ExtraKind, int]:
    """Return the weights within one content that spans many blocks, with all their heads."""
    blocks = file.of_role(Role.XMP_MORE)
    weights = xmp_weights(b"".join(file.content(block) for block in blocks))
    return _with_heads(weights, sum(block.size_bytes for block in blocks))


def _with_heads(weights: dict[ExtraKind, int], size_bytes: int) -> dict[ExtraKind, int]:
    """Add the headers' bytes to the largest kind, so that all add up to `size_bytes`."""
    if not weights:
        return weights
    heaviest = max(weights, key=lambda kind: weights[kind])
    heads = size_bytes - sum(weights.values())
    return {**weights, heaviest: weights[heaviest] + heads}


def _raw_exif(file: PictureFile, block: Block) -> bytes | None:
    """Return the Exif content of a PNG text; None for other texts."""
    if file.kind != "png":
        return None
    try:
        keyword, text = text_of(block.name, file.content(block))
        if keyword not in _RAW_EXIF:
            return None
        # A name, how many bytes, then their digits.
        digits = "".join(text.lstrip("\n").split("\n")[2:])
        return bytes.fromhex(digits).removeprefix(_EXIF_HEAD)
    except ValueError:
        return None


def _comments(file: PictureFile) -> tuple[bytes, ...]:
    """Return captions as comments of a JPEG: those of a PNG with their keywords."""
    blocks = file.of_role(Role.TEXT)
    if file.kind == "png":
        return tuple(filter(None, (_png_comment(file, block) for block in blocks)))
    if file.kind == "gif":
        return tuple(_gif_comment(file.content(block)) for block in blocks)
    return tuple(file.content(block) for block in blocks)


def _png_comment(file: PictureFile, block: Block) -> bytes:
    try:
        keyword, text = text_of(block.name, file.content(block))
    except ValueError:
        return b""
    if not is_prose(keyword):
        return b""
    return (text if keyword == _COMMENT else f"{keyword}: {text}").encode()


def _gif_comment(block: bytes) -> bytes:
    """The text of a comment extension, whose pieces are led by their lengths."""
    text, at = b"", 2
    while at < len(block) and block[at]:
        text += block[at + 1 : at + 1 + block[at]]
        at += 1 + block[at]
    return text


def is_prose(keyword: str) -> bool:
    """A text of a PNG under that keyword is meant for people, not for programs."""
    return not keyword.startswith(("XML:", "Raw profile type"))


def as_text(comment: bytes) -> str:
    """Decode a comment of a JPEG or GIF, which does not declare its encoding."""
    try:
        return comment.decode()
    except UnicodeDecodeError:
        return comment.decode("latin-1")


def _chunks(
    file: PictureFile, dropped: Collection[ExtraKind], *, keeps_profile: bool
) -> list[tuple[str, bytes]]:
    """Return the chunks of a PNG unchanged; comments of other kinds as such."""
    if file.kind != "png":
        comments = () if ExtraKind.METADATA in dropped else _comments(file)
        return [text_chunk(_COMMENT, as_text(comment)) for comment in comments]
    chunks = []
    for block in file.blocks:
        if block.role is Role.STRUCTURE:
            is_kept = block.name in (("gAMA", "cHRM", "sRGB", "cICP") if keeps_profile else ())
        elif block.role is Role.TEXT:
            is_kept = ExtraKind.METADATA not in dropped and _raw_exif(file, block) is None
        elif block.role is Role.PRIVATE:
            is_kept = ExtraKind.PRIVATE_DATA not in dropped and not block.name[3:].isupper()
        else:
            is_kept = False
        if is_kept:
            chunks.append((block.name, file.content(block)))
    return chunks
