"""Choices that formats which are packages offer."""

from lighten.contract import FileKind, Offers, Switch
from lighten.model.kinds import ExtraKind, PictureCoding

__all__ = ["package_offers"]

_CODINGS = frozenset({PictureCoding.AUTOMATIC, PictureCoding.JPEG, PictureCoding.LOSSLESS})
_SWITCHES = frozenset({Switch.CUT_HIDDEN, Switch.LIGHTEN_EMBEDDED})
_OF_FONTS = frozenset({Switch.SUBSET_FONTS, Switch.DROP_EMBEDDED_FONTS})


def package_offers(
    kinds: tuple[FileKind, ...],
    extras: tuple[ExtraKind, ...],
    *,
    can_be_laid_out: bool = True,
    has_fonts: bool = True,
) -> Offers:
    """Describe the choices that packages offer. has_fonts: files may embed fonts. Others: see
    `Offers`.
    """
    return Offers(
        kinds=kinds,
        has_pages=False,
        can_split=False,
        can_be_laid_out=can_be_laid_out,
        extras=extras,
        switches=_SWITCHES | _OF_FONTS if has_fonts else _SWITCHES,
        codings=_CODINGS,
    )
