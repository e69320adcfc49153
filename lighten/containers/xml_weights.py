"""Weight of a part of a packed member."""

from lighten.containers.archive import Member

__all__ = ["weight_within"]

# Quickest: only the two lengths are compared.
_LEVEL = 1


def weight_within(member: Member, content: bytes, without: bytes) -> int:
    """Return the bytes that the member loses when its content becomes `without`; never below 0."""
    import deflate

    if len(without) >= len(content):
        return 0
    packed, left = (len(deflate.deflate_compress(text, _LEVEL)) for text in (content, without))
    share = max(0.0, 1 - left / max(1, packed))
    return int(len(member.packed) * share)
