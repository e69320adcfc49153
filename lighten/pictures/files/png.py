"""PNG files (RFC 2083; ISO/IEC 15948): their chunks, and files from such."""

import struct
import zlib

from lighten.pictures.files.blocks import BadPictureError, Block, PictureFile, Role, covering

__all__ = ["MARK", "build_png", "chunk", "read_png", "text_chunk", "text_of"]

MARK = b"\x89PNG\r\n\x1a\n"
_XMP_KEYWORD = b"XML:com.adobe.xmp"
# Colours, and whether it has opacity, by colour type.
_COLOURS = {0: (1, False), 2: (3, False), 3: (3, False), 4: (1, True), 6: (3, True)}
_PALETTE = 3
_ROLES = {
    b"IHDR": Role.PICTURE,
    b"PLTE": Role.PICTURE,
    b"IDAT": Role.PICTURE,
    b"IEND": Role.PICTURE,
    b"tRNS": Role.PICTURE,
    b"iCCP": Role.PROFILE,
    b"gAMA": Role.STRUCTURE,
    b"cHRM": Role.STRUCTURE,
    b"sRGB": Role.STRUCTURE,
    b"cICP": Role.STRUCTURE,
    b"pHYs": Role.STRUCTURE,
    b"sBIT": Role.STRUCTURE,
    b"bKGD": Role.STRUCTURE,
    b"hIST": Role.STRUCTURE,
    b"eXIf": Role.EXIF,
    b"tIME": Role.TEXT,
    b"tEXt": Role.TEXT,
    b"zTXt": Role.TEXT,
    b"iTXt": Role.TEXT,
}
_METRES_PER_INCH = 0.0254
_MOST_PROFILE_BYTES = 20_000_000
_MOST_TEXT_BYTES = 5_000_000


def read_png(data: bytes) -> PictureFile:
    """The chunks of a PNG file. Raises: BadPictureError if damaged or cut short."""
    blocks = [Block(role=Role.PICTURE, name="mark", start=0, end=8, content=8)]
    at, header, dots, profile, frames = 8, b"", None, b"", 1
    has_opacity = False
    while True:
        if at + 12 > len(data):
            raise BadPictureError("It is cut short.")
        length, name = struct.unpack(">I4s", data[at : at + 8])
        end = at + 12 + length
        if end > len(data):
            raise BadPictureError("It is cut short.")
        content = data[at + 8 : at + 8 + length]
        role, head = _role(name, content)
        blocks.append(
            Block(
                role=role,
                name=name.decode("latin-1"),
                start=at,
                end=end,
                content=at + 8 + head,
                tail=4,
            )
        )
        if name == b"IHDR":
            header = content
        elif name == b"pHYs":
            dots = _dots_of(content)
        elif name == b"iCCP":
            profile = _profile_of(content)
        elif name == b"acTL":
            frames = max(2, int.from_bytes(content[:4], "big"))
        elif name == b"tRNS":
            has_opacity = True
        at = end
        if name == b"IEND":
            break
    if len(header) != 13:
        raise BadPictureError("It has no picture in it.")
    width, height, bits, kind = struct.unpack(">IIBB", header[:10])
    if kind not in _COLOURS or not width or not height:
        raise BadPictureError("It is damaged.")
    colours, has_alpha = _COLOURS[kind]
    return PictureFile(
        kind="png",
        data=data,
        blocks=covering(blocks, len(data)),
        width_px=width,
        height_px=height,
        bits=bits,
        colours=colours,
        has_opacity=has_opacity or has_alpha,
        has_palette=kind == _PALETTE,
        is_interlaced=header[12] != 0,
        frames=frames,
        dots=dots,
        profile=profile,
    )


def build_png(coded: bytes, chunks: list[tuple[str, bytes]]) -> bytes:
    """Build a PNG from a plain one and further chunks, by name and content, in the order given.

    Those that tell colours come before the palette, as RFC 2083, 4.3 asks: all do here.
    """
    plain = read_png(coded)
    header = plain.blocks[1]
    extra = b"".join(chunk(name, content) for name, content in chunks)
    kept_chunks = b"".join(
        plain.data[block.start : block.end]
        for block in plain.blocks[2:]
        if block.role is Role.PICTURE
    )
    return plain.data[: header.end] + extra + kept_chunks


def chunk(name: str, content: bytes) -> bytes:
    body = name.encode("latin-1") + content
    return struct.pack(">I", len(content)) + body + struct.pack(">I", zlib.crc32(body))


def text_of(name: str, content: bytes) -> tuple[str, str]:
    """Return keyword and text of a tEXt, zTXt or iTXt chunk (ISO/IEC 15948, 11.3.4).

    Raises: ValueError if it does not hold such.
    """
    keyword, mark, rest = content.partition(b"\0")
    if not mark or name not in ("tEXt", "zTXt", "iTXt"):
        raise ValueError(f"{name} holds no text")
    is_packed, coding = name == "zTXt", "latin-1"
    if name == "zTXt":
        rest = rest[1:]
    elif name == "iTXt":
        is_packed, coding = rest[:1] == b"\1", "utf-8"
        _language, _, translated = rest[2:].partition(b"\0")
        rest = translated.partition(b"\0")[2]
    if is_packed:
        try:
            rest = zlib.decompressobj().decompress(rest, _MOST_TEXT_BYTES)
        except zlib.error as error:
            raise ValueError("its text cannot be unpacked") from error
    return keyword.decode("latin-1"), rest.decode(coding)


def text_chunk(keyword: str, text: str) -> tuple[str, bytes]:
    """A chunk that holds a text, as `build_png` takes it; the plain one where that can hold it."""
    head = keyword.encode("latin-1") + b"\0"
    try:
        return "tEXt", head + text.encode("latin-1")
    except UnicodeEncodeError:
        return "iTXt", head + b"\0\0\0\0" + text.encode()


def _role(name: bytes, content: bytes) -> tuple[Role, int]:
    if name == b"iTXt" and content.startswith(_XMP_KEYWORD + b"\0\0\0"):
        # Keyword, not packed, then language and translated keyword, which end with a zero each.
        head = len(_XMP_KEYWORD) + 3
        for _ in range(2):
            head = content.find(b"\0", head) + 1
            if head == 0:
                return Role.TEXT, 0
        return Role.XMP, head
    if name in _ROLES:
        return _ROLES[name], 0
    # Upper case marks what no reader may pass by (RFC 2083, 3.3).
    is_critical = name[:1].isupper() or name in (b"acTL", b"fcTL", b"fdAT")
    return (Role.PICTURE if is_critical else Role.PRIVATE), 0


def _dots_of(content: bytes) -> tuple[float, float] | None:
    if len(content) != 9 or content[8] != 1:
        return None
    across, down = struct.unpack(">II", content[:8])
    return (across * _METRES_PER_INCH, down * _METRES_PER_INCH) if across and down else None


def _profile_of(content: bytes) -> bytes:
    """Return the ICC profile; None if it cannot be unpacked."""
    packed = content[content.find(b"\0") + 2 :]
    try:
        return zlib.decompressobj().decompress(packed, _MOST_PROFILE_BYTES)
    except zlib.error:
        return b""
