"""Small picture files, each as a camera or a program might have written it."""

import io
import struct
import zlib
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from lighten import Source
from tests.builders import chart, landscape

__all__ = [
    "IPTC_MARK",
    "camera_exif",
    "camera_photo",
    "heic",
    "irb",
    "photo_bytes",
    "save",
    "srgb_profile",
    "xmp_packet",
]

Pixels = NDArray[np.uint8]
MAKERS_NOTE, ORIENTATION, DESCRIPTION, ARTIST = 0x927C, 0x0112, 0x010E, 0x013B
GPS, EXIF = 0x8825, 0x8769
# What the IPTC's captions in a JPEG have to stand behind, by the name they got when it was made.
IPTC_MARK = bytes.fromhex("50686f746f73686f7020332e3000")


def save(path: Path, content: bytes) -> Source:
    path.write_bytes(content)
    return Source(path=path)


def photo_bytes(
    kind: str, pixels: Pixels | None = None, *, mode: str | None = None, **options: Any
) -> bytes:
    """A picture in some kind of file, as Pillow writes it."""
    image = Image.fromarray(landscape(900, 600, 3) if pixels is None else pixels)
    out = io.BytesIO()
    (image.convert(mode) if mode else image).save(out, kind, **options)
    return out.getvalue()


def camera_exif(*, orientation: int = 1, order: str = "<", note: bytes = b"maker" * 40) -> bytes:
    """Exif 2.32 by hand: captions, camera, a maker's note, a place, and a preview after it."""
    head = b"II*\0" if order == "<" else b"MM\0*"
    out = bytearray(head + struct.pack(order + "I", 8))
    preview = photo_bytes("JPEG", landscape(160, 120, 5), quality=60)

    def directory(entries: list[tuple[int, int, int, bytes]], *, follows: bool = False) -> int:
        """Appends a directory and its values; where it lies. Values of 4 bytes or fewer stay."""
        start = len(out)
        out.extend(bytes(6 + 12 * len(entries)))
        struct.pack_into(order + "H", out, start, len(entries))
        for index, (tag, type_, count, value) in enumerate(entries):
            at = start + 2 + 12 * index
            struct.pack_into(order + "HHI", out, at, tag, type_, count)
            if len(value) > 4:
                place = struct.pack(order + "I", len(out))
                out.extend(value + b"\0" * (len(value) % 2))
                value = place  # noqa: PLW2901 - it lies there
            out[at + 8 : at + 12] = value.ljust(4, b"\0")
        if follows:
            struct.pack_into(order + "I", out, start + 2 + 12 * len(entries), len(out))
        return start

    def number(value: int) -> bytes:
        return struct.pack(order + "I", value)

    def short(value: int) -> bytes:
        return struct.pack(order + "H", value)

    def ratios(*values: tuple[int, int]) -> bytes:
        return b"".join(struct.pack(order + "II", *pair) for pair in values)

    def text(words: str) -> tuple[int, bytes]:
        value = words.encode() + b"\0"
        return len(value), value

    # First by turns: the pointers are put in once their directories lie somewhere.
    description, camera, author = (
        text("Nets at the north reed bed"),
        text("Fenlight 3"),
        text("A. Warden"),
    )
    first = directory(
        [
            (DESCRIPTION, 2, *description),
            (0x0110, 2, *camera),
            (ORIENTATION, 3, 1, short(orientation)),
            (0x011A, 5, 1, ratios((72, 1))),
            (0x011B, 5, 1, ratios((72, 1))),
            (0x0128, 3, 1, short(2)),
            (ARTIST, 2, *author),
            (EXIF, 4, 1, number(0)),
            (GPS, 4, 1, number(0)),
        ]
    )
    exif = directory(
        [
            (0x829A, 5, 1, ratios((1, 250))),
            (0x9003, 2, *text("2026:05:04 05:12:00")),
            (MAKERS_NOTE, 7, len(note), note),
            (0xA002, 4, 1, number(900)),
            (0xA003, 4, 1, number(600)),
        ]
    )
    place = directory(
        [
            (1, 2, 2, b"N\0"),
            (2, 5, 3, ratios((52, 1), (31, 1), (7, 1))),
            (3, 2, 2, b"E\0"),
            (4, 5, 3, ratios((0, 1), (20, 1), (3, 1))),
        ]
    )
    struct.pack_into(order + "I", out, first + 2 + 12 * 7 + 8, exif)
    struct.pack_into(order + "I", out, first + 2 + 12 * 8 + 8, place)
    struct.pack_into(order + "I", out, first + 2 + 12 * 9, len(out))
    after = directory(
        [(0x0103, 3, 1, short(6)), (0x0201, 4, 1, number(0)), (0x0202, 4, 1, number(len(preview)))]
    )
    struct.pack_into(order + "I", out, after + 2 + 12 + 8, len(out))
    out.extend(preview)
    return bytes(out)


def heic(path: Path, image: Image.Image, *, orientation: int = 1, **exif: Any) -> Source:
    """As telephones write it: turned by a mark of its own, which Exif tells as well."""
    from pillow_heif import from_pillow

    told = camera_exif(orientation=orientation, **exif)
    from_pillow(image).save(path, quality=90, exif=b"Exif\0\0" + told)
    return Source(path=path)


def xmp_packet(extra: str = "", padding: int = 2000) -> bytes:
    """A packet with a title, a history, a place and room to grow."""
    return (
        '<?xpacket begin="" id="W5M0MpCehiHzreSzNTczkc9d"?>'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/">'
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" '
        'xmlns:xmpMM="http://ns.adobe.com/xap/1.0/mm/" '
        'xmlns:iptc="http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/" iptc:Location="Harrow Fen">'
        "<dc:title><rdf:Alt><rdf:li>Morning round</rdf:li></rdf:Alt></dc:title>"
        "<xmpMM:History><rdf:Seq>"
        + "<rdf:li>saved</rdf:li>" * 30
        + f"</rdf:Seq></xmpMM:History>{extra}</rdf:Description></rdf:RDF></x:xmpmeta>"
        + " " * padding
        + '<?xpacket end="w"?>'
    ).encode()


def irb() -> bytes:
    """Image resources: captions with a place (IPTC-IIM), a preview, and a program's own."""

    def dataset(number: int, words: bytes) -> bytes:
        return struct.pack(">BBBH", 0x1C, 2, number, len(words)) + words

    def resource(id_: int, content: bytes) -> bytes:
        padding = b"\0" * (len(content) % 2)
        return b"8BIM" + struct.pack(">HHI", id_, 0, len(content)) + content + padding

    captions = dataset(120, b"Reed warbler, adult") + dataset(90, b"Harrow Fen")
    return resource(0x0404, captions) + resource(0x040C, b"\1" * 901) + resource(0x03F3, b"x" * 9)


@cache
def srgb_profile() -> bytes:
    """Made once: littlecms writes the second of its making into a profile."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def segment(marker: int, content: bytes) -> bytes:
    return bytes((0xFF, marker)) + struct.pack(">H", len(content) + 2) + content


def camera_photo(path: Path, *, pixels: Pixels | None = None, **exif: Any) -> Source:
    """A JPEG with all that cameras and programs leave in one, and something after its end."""
    plain = photo_bytes("JPEG", pixels, quality=92, icc_profile=srgb_profile())
    extra = (
        segment(0xE1, b"Exif\0\0" + camera_exif(**exif))
        + segment(0xE1, b"http://ns.adobe.com/xap/1.0/\0" + xmp_packet())
        + segment(0xED, IPTC_MARK + irb())
        + segment(0xFE, b"counted twice")
    )
    return save(path, plain[:2] + extra + plain[2:] + b"left over")


def png_chunk(name: bytes, content: bytes) -> bytes:
    return (
        struct.pack(">I", len(content))
        + name
        + content
        + struct.pack(">I", zlib.crc32(name + content))
    )


def picture_sample(path: Path) -> Source:
    """The smallest real file of the format."""
    return save(path, photo_bytes("PNG", chart(160, 120, 1)))
