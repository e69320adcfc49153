"""Capabilities of a scanner (eSCL: ScannerCapabilities)."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from lxml import etree

from scanners.errors import ScannerError
from scanners.xml import find_all, find_text, read_xml

__all__ = ["Capabilities", "ColourMode", "PaperSource", "SourceAbilities", "read_capabilities"]

_MOST_NAME = 80
_USUAL_PPI = (75, 100, 150, 200, 300, 400, 600)


class PaperSource(StrEnum):
    """Source of paper."""

    GLASS = "glass"
    FEEDER = "feeder"


class ColourMode(StrEnum):
    """Colour mode of a scan."""

    COLOUR = "colour"
    GREY = "grey"
    BITONAL = "bitonal"


# As the protocol names them.
_MODES = {
    "RGB24": ColourMode.COLOUR,
    "Grayscale8": ColourMode.GREY,
    "BlackAndWhite1": ColourMode.BITONAL,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceAbilities:
    """Capabilities of the glass or the feeder. width, height: the most, in 300ths of an inch.

    ppi: that it offers, in order. formats: media types of what it sends.
    """

    width: int
    height: int
    ppi: tuple[int, ...]
    colours: tuple[ColourMode, ...]
    formats: tuple[str, ...]
    has_duplex: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Capabilities:
    """name: make and model, as it says itself."""

    name: str
    sources: Mapping[PaperSource, SourceAbilities]


def read_capabilities(content: bytes) -> Capabilities:
    """Read the capabilities that a scanner declares. Raises: ScannerError."""
    root = read_xml(content, "a description of itself")
    sources: dict[PaperSource, SourceAbilities] = {}
    for caps in find_all(root, "scan:Platen/scan:PlatenInputCaps"):
        sources[PaperSource.GLASS] = _abilities(caps)
    for caps in find_all(root, "scan:Adf/scan:AdfSimplexInputCaps"):
        has_duplex = bool(find_all(root, "scan:Adf/scan:AdfDuplexInputCaps"))
        sources[PaperSource.FEEDER] = _abilities(caps, has_duplex=has_duplex)
    if not sources:
        raise ScannerError(
            "odd_answer", "The scanner names neither a glass nor a feeder. Is it one?"
        )
    name = find_text(root, "pwg:MakeAndModel") or "Scanner"
    return Capabilities(name=name[:_MOST_NAME], sources=sources)


def _abilities(caps: "etree._Element", *, has_duplex: bool = False) -> SourceAbilities:
    ppi: set[int] = set()
    colours: list[ColourMode] = []
    formats: list[str] = []
    for profile in find_all(caps, "scan:SettingProfiles/scan:SettingProfile"):
        for mode in find_all(profile, "scan:ColorModes/scan:ColorMode"):
            colours += [_MODES[mode.text or ""]] if (mode.text or "") in _MODES else []
        for name in ("pwg:DocumentFormat", "scan:DocumentFormatExt"):
            formats += [one.text or "" for one in find_all(profile, f"scan:DocumentFormats/{name}")]
        ppi |= _finenesses(profile)
    return SourceAbilities(
        width=_number(caps, "scan:MaxWidth", 2550),
        height=_number(caps, "scan:MaxHeight", 3508),
        ppi=tuple(sorted(ppi)) or (300,),
        colours=tuple(dict.fromkeys(colours)) or (ColourMode.COLOUR,),
        formats=tuple(dict.fromkeys(formats)) or ("image/jpeg",),
        has_duplex=has_duplex,
    )


def _finenesses(profile: "etree._Element") -> set[int]:
    """Told one by one, or as a range."""
    within = "scan:SupportedResolutions/"
    resolutions = {
        _number(one, "scan:XResolution", 0)
        for one in find_all(profile, f"{within}scan:DiscreteResolutions/scan:DiscreteResolution")
    }
    for span in find_all(profile, f"{within}scan:ResolutionRange/scan:XResolutionRange"):
        least, most = _number(span, "scan:Min", 75), _number(span, "scan:Max", 300)
        resolutions |= {ppi for ppi in _USUAL_PPI if least <= ppi <= most}
    return {ppi for ppi in resolutions if ppi > 0}


def _number(element: "etree._Element", path: str, otherwise: int) -> int:
    text = find_text(element, path)
    return int(text) if text.isdecimal() and len(text) < 9 else otherwise
