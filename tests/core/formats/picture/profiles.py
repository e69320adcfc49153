"""A colour profile made by hand (ICC.1:2001-04): matrix, one gamma, and as much text as asked."""

import struct

__all__ = ["rgb_profile"]

# Colorants of wide primaries, adapted to D50, as of Adobe RGB (1998), annex; gamma 2.19921875.
_COLORANTS = {
    b"rXYZ": (0.60974, 0.31111, 0.01947),
    b"gXYZ": (0.20528, 0.62567, 0.06087),
    b"bXYZ": (0.14919, 0.06322, 0.74457),
}
_WHITE = (0.9642, 1.0, 0.8249)


def rgb_profile(*, padding: int) -> bytes:
    """An RGB display profile of about `padding` bytes."""
    gamma = b"curv" + bytes(4) + struct.pack(">IH", 1, round(2.19921875 * 256)) + bytes(2)
    described = b"desc" + bytes(4) + struct.pack(">I", 5) + b"wide\0" + bytes(78)
    tags = {
        b"desc": described,
        b"cprt": b"text" + bytes(4) + b"invented\0",
        b"wtpt": _xyz(_WHITE),
        **{name: _xyz(values) for name, values in _COLORANTS.items()},
        **dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), gamma),
        b"targ": b"text" + bytes(4) + b"0.123 " * (padding // 6) + b"\0",
    }
    at = 128 + 4 + 12 * len(tags)
    table, bodies = struct.pack(">I", len(tags)), b""
    for name, body in tags.items():
        body += bytes(-len(body) % 4)  # noqa: PLW2901 - tags lie at multiples of four
        table += struct.pack(">4sII", name, at + len(bodies), len(body))
        bodies += body
    size = 128 + len(table) + len(bodies)
    head = struct.pack(">I4sI4s4s4s", size, b"\0" * 4, 0x02100000, b"mntr", b"RGB ", b"XYZ ")
    head += bytes(12) + b"acsp" + bytes(28) + struct.pack(">iii", *map(_fixed, _WHITE))
    return head.ljust(128, b"\0") + table + bodies


def _xyz(values: tuple[float, float, float]) -> bytes:
    return b"XYZ " + bytes(4) + struct.pack(">iii", *map(_fixed, values))


def _fixed(value: float) -> int:
    return round(value * 65536)
