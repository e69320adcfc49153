"""Fonts that a document brings along, with the letters that its text uses.

Source: ECMA-376 part 1, 17.8.1 (obfuscation: the first 32 bytes are mixed with a key).
"""

import io
from collections.abc import Collection
from dataclasses import dataclass

from lighten.model.kinds import FontCoding
from lighten.model.weights import FontFacts

__all__ = ["EmbeddedFont", "font_coding", "mixed_with_key", "subset_font"]

_MIXED_BYTES, _KEY_BYTES = 32, 16
# What readers write by themselves: numbers of pages and lists, dates, hyphens, dots.
_ALWAYS = frozenset(map(chr, range(0x20, 0x7F))) | set(
    "\u00a0\u00ad\u2010\u2011\u2013\u2014\u2022\u2026"
)


@dataclass(frozen=True, slots=True, kw_only=True)
class EmbeddedFont:
    """title: its name and cut. key: that it is obfuscated with, or ""."""

    title: str
    facts: FontFacts
    key: str = ""


def font_coding(content: bytes) -> FontCoding | None:
    """Return the coding of a font; None if it cannot be subset, such as a collection."""
    return {
        b"\0\1\0\0": FontCoding.TRUETYPE,
        b"true": FontCoding.TRUETYPE,
        b"OTTO": FontCoding.OPENTYPE,
    }.get(content[:4])


def mixed_with_key(content: bytes, key: str) -> bytes:
    """An obfuscated font made plain, or a plain one obfuscated. Raises: ValueError for no key."""
    mask = bytes.fromhex(key.strip("{}").replace("-", ""))[::-1]
    if len(mask) != _KEY_BYTES:
        raise ValueError("no key of a font")
    head = bytes(
        byte ^ mask[place % _KEY_BYTES] for place, byte in enumerate(content[:_MIXED_BYTES])
    )
    return head + content[_MIXED_BYTES:]


def subset_font(content: bytes, letters: Collection[str], key: str = "") -> bytes:
    """Subset a font to the given letters and their features; unchanged if that is not smaller.

    key: of an obfuscated font, or "". Its features, hints and names stay.
    """
    from fontTools.subset import Options, Subsetter
    from fontTools.ttLib import TTFont, TTLibError

    try:
        plain = mixed_with_key(content, key) if key else content
        options = Options()
        options.layout_features = ["*"]
        options.name_IDs, options.name_languages = ["*"], ["*"]
        options.notdef_outline = options.legacy_kern = True
        options.recalc_timestamp = False
        with TTFont(io.BytesIO(plain), recalcTimestamp=False) as font:
            subsetter = Subsetter(options)
            subsetter.populate(unicodes={ord(letter) for letter in _ALWAYS.union(letters)})
            subsetter.subset(font)
            out = io.BytesIO()
            font.save(out, reorderTables=None)
    except (TTLibError, ValueError, KeyError, AttributeError, AssertionError, IndexError):
        return content  # as it was: a font that cannot be proved stays
    light = out.getvalue()
    if len(light) >= len(plain):
        return content
    return mixed_with_key(light, key) if key else light
