"""Faults planted in a file, the same ones for the same number."""

import io
import random
import zipfile
from typing import Any

import pikepdf
from lxml import etree

__all__ = ["mutated"]

_NUMBERS = (0, -1, 1, 2, 255, 65535, 2**31 - 1, -(2**31), 2**63 - 1, 0.5, -1e9)
_WORDS = (b"/Width", b"/Length", b"stream", b"endstream", b"endobj", b"<<", b">>", b"[", b"(", b"R")
_ODD_TEXTS = (
    "",
    "0",
    "-1",
    "99999999999",
    "nan",
    "\u2028",
    "../../up",
    "x" * 3000,
    "1e309",
    "\x7f",
)


def mutated(content: bytes, suffix: str, number: int) -> bytes:
    """Return the content with one to a few faults in it.

    suffix: tells how it is built. Most inputs are damaged in their structure, by the rules of the
    file around it, so that what lies deeper is reached; the others in their bytes.
    """
    chance = random.Random(number)
    try:
        if suffix == ".pdf" and chance.random() < 0.7:
            return _pdf(content, chance)
        if content.startswith(b"PK") and chance.random() < 0.8:
            return _package(content, chance)
    except Exception:
        # The libraries that plant faults refuse some of them.
        return _bytes(content, random.Random(number))
    return _bytes(content, chance)


def _bytes(content: bytes, chance: random.Random) -> bytes:
    data = bytearray(content)
    for _ in range(chance.choice((1, 1, 2, 4, 16))):
        if not data:
            break
        at = chance.randrange(len(data))
        length = min(len(data) - at, chance.choice((1, 2, 4, 32, 512)))
        match chance.randrange(7):
            case 0:
                data[at] ^= 1 << chance.randrange(8)
            case 1:
                data[at : at + length] = chance.randbytes(length)
            case 2:
                del data[at : at + length]
            case 3:
                data[at:at] = data[at : at + length]
            case 4:
                data[at : at + length] = bytes(length)
            case 5:
                data[at:at] = chance.choice(_WORDS)
            case _:
                if chance.random() < 0.3:
                    del data[at:]
                else:
                    size = chance.choice((2, 4))
                    data[at : at + size] = chance.choice((b"\xff", b"\0", b"\x7f")) * size
    return bytes(data)


def _pdf(content: bytes, chance: random.Random) -> bytes:
    """Objects with other values, written by a library that does not mind."""
    with pikepdf.Pdf.open(io.BytesIO(content)) as pdf:
        objects = list(pdf.objects)
        for _ in range(chance.choice((1, 1, 2, 3, 6))):
            target = chance.choice(objects)
            if isinstance(target, pikepdf.Stream) and chance.random() < 0.4:
                _change_stream(target, chance)
            elif isinstance(target, (pikepdf.Dictionary, pikepdf.Stream)):
                keys = sorted(set(target.keys()) - {"/Length"})
                if keys:
                    _change_entry(pdf, target, chance.choice(keys), objects, chance)
            elif isinstance(target, pikepdf.Array) and len(target):
                target[chance.randrange(len(target))] = _value(pdf, objects, chance)
        out = io.BytesIO()
        modes = list(pikepdf.ObjectStreamMode.__members__.values())
        pdf.save(out, object_stream_mode=chance.choice(modes))
    written = out.getvalue()
    return _bytes(written, chance) if chance.random() < 0.15 else written


def _change_entry(
    pdf: pikepdf.Pdf,
    target: pikepdf.Object,
    key: str,
    objects: list[pikepdf.Object],
    chance: random.Random,
) -> None:
    if chance.random() < 0.25:
        del target[key]
        return
    old = target[key]
    # One level further down, half of the time.
    if isinstance(old, pikepdf.Dictionary) and len(old.keys()) and chance.random() < 0.5:
        target, key = old, chance.choice(list(old.keys()))
    elif isinstance(old, pikepdf.Array) and len(old) and chance.random() < 0.5:
        old[chance.randrange(len(old))] = _value(pdf, objects, chance)
        return
    value = _value(pdf, objects, chance)
    if value is not None:
        target[key] = value
    else:
        del target[key]


def _value(pdf: pikepdf.Pdf, objects: list[pikepdf.Object], chance: random.Random) -> object:
    match chance.randrange(9):
        case 0:
            number = chance.choice(_NUMBERS)
            return number if isinstance(number, int) else pikepdf.Object.parse(b"%.3f" % number)
        case 1:
            return pikepdf.Name("/" + chance.choice(("DCTDecode", "Image", "Odd", "DeviceCMYK")))
        case 2:
            return pikepdf.String(chance.choice(_ODD_TEXTS))
        case 3:
            return pikepdf.Array([])
        case 4:
            return pikepdf.Array([chance.choice(_NUMBERS[:9]) for _ in range(chance.randrange(8))])
        case 5:
            return pikepdf.Dictionary()
        case 6:
            return chance.random() < 0.5
        case 7:
            return pdf.make_stream(chance.randbytes(chance.randrange(60)))
        case _:
            return chance.choice(objects)


def _change_stream(stream: pikepdf.Object, chance: random.Random) -> None:
    """Change a stream before its coding where it can be decoded, else as stored."""
    filters: Any = stream.get("/Filter")
    parms: Any = stream.get("/DecodeParms")
    try:
        if chance.random() < 0.5:
            stream.write(_bytes(stream.read_bytes(), chance))
        else:
            stream.write(
                _bytes(stream.read_raw_bytes(), chance),
                filter=filters,
                decode_parms=parms,
            )
    except (pikepdf.PdfError, RuntimeError, TypeError, ValueError):
        stream.write(chance.randbytes(40))


def _package(content: bytes, chance: random.Random) -> bytes:
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        members = [(info.filename, package.read(info)) for info in package.infolist()]
    for _ in range(chance.choice((1, 1, 2, 3))):
        at = chance.randrange(len(members))
        name, data = members[at]
        match chance.randrange(8):
            case 0:
                del members[at]
            case 1:
                members[at] = (f"{name}.old", data)
            case 2:
                members[at] = (name, chance.choice(members)[1])
            case 3:
                members[at] = (name, _bytes(data, chance))
            case _:
                members[at] = (name, _xml(data, chance))
        if not members:
            break
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, data in members:
            stored = name == "mimetype" or chance.random() < 0.05
            package.writestr(name, data, zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _xml(data: bytes, chance: random.Random) -> bytes:
    """Elements gone, doubled, elsewhere; attributes and words with other values."""
    try:
        root = etree.fromstring(data)
    except etree.XMLSyntaxError:
        return _bytes(data, chance)
    for _ in range(chance.choice((1, 2, 4))):
        elements = [element for element in root.iter() if isinstance(element.tag, str)]
        element = chance.choice(elements)
        parent = element.getparent()
        match chance.randrange(6):
            case 0 if parent is not None:
                parent.remove(element)
            case 1 if parent is not None:
                parent.append(etree.fromstring(etree.tostring(element)))
            case 2:
                other = chance.choice(elements)
                if element not in other.iterancestors() and element is not other:
                    other.append(etree.fromstring(etree.tostring(element)))
            case 3:
                element.text = chance.choice(_ODD_TEXTS[:9]).replace("\x7f", "")
            case _ if element.attrib:
                key = chance.choice(list(element.attrib))
                if chance.random() < 0.3:
                    del element.attrib[key]
                else:
                    element.set(key, chance.choice(_ODD_TEXTS))
            case _:
                element.tail = "odd"
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8", standalone=True)
