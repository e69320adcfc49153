"""What a picture file carries besides its picture: weighed by kind, and written without some."""

import zlib
from collections.abc import Collection

from lighten.formats.picture.metadata.exif import ExifChange, exif_weights, rewrite_exif
from lighten.formats.picture.metadata.photoshop import resource_weights, rewrite_resources
from lighten.formats.picture.metadata.xmp import rewrite_xmp, xmp_weights
from lighten.pictures.files import Block, Carried, PictureFile, Role
from lighten.weights import ExtraKind

__all__ = ["carried_by", "exif_of", "metadata_weights"]

_BY_ROLE = {
    Role.TEXT: ExtraKind.METADATA,
    Role.PREVIEW: ExtraKind.THUMBNAILS,
    Role.PRIVATE: ExtraKind.PRIVATE_DATA,
    Role.LEFTOVER: ExtraKind.LEFTOVERS,
}
_EXIF_HEAD = b"Exif\0\0"
# How some programs put Exif into a PNG before there was a chunk for it.
_RAW_EXIF = (b"Raw profile type exif\0", b"Raw profile type APP1\0")
_MOST_TEXT_BYTES = 5_000_000


def metadata_weights(file: PictureFile) -> dict[ExtraKind, int]:
    """Bytes of each kind of extra in the file, with the heads of the blocks that hold them."""
    weights: dict[ExtraKind, int] = _weights_of_more(file)
    for block in file.blocks:
        block_weights = _weights_of(file, block)
        if block_weights:
            # The head of a block counts with what it holds most of.
            heaviest = max(block_weights, key=lambda kind: block_weights[kind])
            block_weights[heaviest] += block.size_bytes - sum(block_weights.values())
        for kind, size in block_weights.items():
            weights[kind] = weights.get(kind, 0) + size
    return weights


def exif_of(file: PictureFile) -> bytes:
    """The Exif content of a file, from wherever it has it; b"" for none."""
    for block in file.of_role(Role.EXIF):
        return file.content(block).removeprefix(_EXIF_HEAD)
    for block in file.of_role(Role.TEXT):
        if (content := _raw_exif(file, block)) is not None:
            return content
    return b""


def carried_by(file: PictureFile, change: ExifChange, *, keeps_profile: bool) -> Carried:
    """What the file goes on carrying without what is dropped, at the picture's new size."""
    dropped = change.dropped
    more = b"".join(file.content(block) for block in file.of_role(Role.XMP_MORE))
    kept_more = rewrite_xmp(more, dropped) if more else b""
    xmp = b"".join(file.content(block) for block in file.of_role(Role.XMP)[:1])
    photoshop = b"".join(file.content(block) for block in file.of_role(Role.PHOTOSHOP))
    dots = file.dots
    if dots is not None and change.size_px is not None:
        dots = dots[0] * change.share, dots[1] * change.share
    keeps_text = ExtraKind.METADATA not in dropped
    return Carried(
        profile=file.profile if keeps_profile else b"",
        exif=rewrite_exif(exif_of(file), change),
        xmp=rewrite_xmp(xmp, dropped, more=kept_more) if xmp else b"",
        xmp_more=kept_more,
        photoshop=rewrite_resources(photoshop, dropped),
        comments=_comments(file) if keeps_text else (),
        dots=dots,
        chunks=tuple(_chunks(file, dropped, keeps_profile=keeps_profile)),
    )


def _weights_of(file: PictureFile, block: Block) -> dict[ExtraKind, int]:
    content = file.content(block)
    if block.role is Role.EXIF:
        return exif_weights(content.removeprefix(_EXIF_HEAD))
    if block.role is Role.XMP:
        return xmp_weights(content)
    if block.role is Role.PHOTOSHOP:
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
    """Of what one content spread over many blocks holds, with all their heads."""
    blocks = file.of_role(Role.XMP_MORE)
    weights = xmp_weights(b"".join(file.content(block) for block in blocks))
    if weights:
        heaviest = max(weights, key=lambda kind: weights[kind])
        weights[heaviest] += sum(block.size_bytes for block in blocks) - sum(weights.values())
    return weights


def _raw_exif(file: PictureFile, block: Block) -> bytes | None:
    """The Exif content in a text of a PNG; None where the text is something else."""
    content = file.content(block)
    if file.kind != "png" or not content.startswith(_RAW_EXIF):
        return None
    text = content.partition(b"\0")[2]
    try:
        if block.name == "zTXt":
            text = zlib.decompressobj().decompress(text[1:], _MOST_TEXT_BYTES)
        lines = text.split(b"\n")
        # A name, how many bytes, then their digits.
        digits = b"".join(lines[3:] if lines[0] == b"" else lines[2:])
        return bytes.fromhex(digits.decode("ascii", "replace")).removeprefix(_EXIF_HEAD)
    except (zlib.error, ValueError):
        return None


def _comments(file: PictureFile) -> tuple[bytes, ...]:
    """Comments of a JPEG or GIF; those of a PNG are chunks."""
    blocks = file.of_role(Role.TEXT)
    if file.kind == "jpeg":
        return tuple(file.content(block) for block in blocks)
    if file.kind == "gif":
        return tuple(_gif_comment(file.content(block)) for block in blocks)
    return ()


def _gif_comment(block: bytes) -> bytes:
    """The text of a comment extension, whose pieces are led by their lengths."""
    text, at = b"", 2
    while at < len(block) and block[at]:
        text += block[at + 1 : at + 1 + block[at]]
        at += 1 + block[at]
    return text


def _chunks(
    file: PictureFile, dropped: Collection[ExtraKind], *, keeps_profile: bool
) -> list[tuple[str, bytes]]:
    """Further chunks of a PNG that stay as they are."""
    if file.kind != "png":
        return []
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
