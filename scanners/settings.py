"""Settings of a scan job (eSCL: ScanSettings)."""

from dataclasses import dataclass
from enum import StrEnum

from lxml import etree

from scanners.capabilities import Capabilities, ColourMode, PaperSource, SourceAbilities
from scanners.errors import ScannerError
from scanners.xml import NAMESPACES, tag

__all__ = ["PAPER_SIZES", "PaperSize", "ScanSettings", "settings_as_xml"]

_VERSION = "2.6"
_MODES = {
    ColourMode.COLOUR: "RGB24",
    ColourMode.GREY: "Grayscale8",
    ColourMode.BITONAL: "BlackAndWhite1",
}
_SOURCES = {PaperSource.GLASS: "Platen", PaperSource.FEEDER: "Feeder"}
# What is taken, the best first: two tones are exact in the first only.
_FORMATS = {
    ColourMode.BITONAL: ("image/png", "image/jpeg"),
    ColourMode.GREY: ("image/jpeg", "image/png"),
    ColourMode.COLOUR: ("image/jpeg", "image/png"),
}


class PaperSize(StrEnum):
    A4 = "a4"
    A5 = "a5"
    LETTER = "letter"
    LEGAL = "legal"
    ALL = "all"  # as much as the scanner sees


# Width and height in 300ths of an inch, as the protocol counts (ISO 216; ANSI/ASME Y14.1).
PAPER_SIZES: dict[PaperSize, tuple[int, int]] = {
    PaperSize.A4: (2480, 3508),
    PaperSize.A5: (1748, 2480),
    PaperSize.LETTER: (2550, 3300),
    PaperSize.LEGAL: (2550, 4200),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanSettings:
    """both_sides: of sheets in a feeder that can turn them."""

    source: PaperSource = PaperSource.GLASS
    size: PaperSize = PaperSize.A4
    ppi: int = 300
    colours: ColourMode = ColourMode.COLOUR
    both_sides: bool = False


def settings_as_xml(settings: ScanSettings, capabilities: Capabilities) -> bytes:
    """Return the settings in the terms of the protocol. Raises: ScannerError if they are
    impossible.
    """
    abilities = _abilities_for(settings, capabilities)
    width, height = PAPER_SIZES.get(settings.size, (abilities.width, abilities.height))
    root = etree.Element(tag("scan:ScanSettings"), nsmap=NAMESPACES)
    _add(root, "pwg:Version", _VERSION)
    _add(root, "scan:Intent", "Document")
    region = _add(_add(root, "pwg:ScanRegions"), "pwg:ScanRegion")
    _add(region, "pwg:ContentRegionUnits", "escl:ThreeHundredthsOfInches")
    _add(region, "pwg:XOffset", "0")
    _add(region, "pwg:YOffset", "0")
    _add(region, "pwg:Width", str(min(width, abilities.width)))
    _add(region, "pwg:Height", str(min(height, abilities.height)))
    _add(root, "pwg:InputSource", _SOURCES[settings.source])
    _add(root, "scan:ColorMode", _MODES[settings.colours])
    _add(root, "scan:XResolution", str(settings.ppi))
    _add(root, "scan:YResolution", str(settings.ppi))
    media_type = _format_for(settings, abilities)
    _add(root, "pwg:DocumentFormat", media_type)
    _add(root, "scan:DocumentFormatExt", media_type)
    if settings.both_sides:
        _add(root, "scan:Duplex", "true")
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


def _abilities_for(settings: ScanSettings, capabilities: Capabilities) -> SourceAbilities:
    abilities = capabilities.sources.get(settings.source)
    if abilities is None:
        raise ScannerError("cannot", f"{capabilities.name} has no {settings.source}.")
    if settings.ppi not in abilities.ppi:
        offered = ", ".join(map(str, abilities.ppi))
        raise ScannerError(
            "cannot", f"{capabilities.name} scans at {offered} ppi, and not at {settings.ppi}."
        )
    if settings.colours not in abilities.colours:
        raise ScannerError("cannot", f"{capabilities.name} does not scan in {settings.colours}.")
    if settings.both_sides and not abilities.has_duplex:
        raise ScannerError(
            "cannot",
            f"{capabilities.name} takes one side. Feed the fronts, then the turned stack as backs.",
        )
    return abilities


def _format_for(settings: ScanSettings, abilities: SourceAbilities) -> str:
    for media_type in _FORMATS[settings.colours]:
        if media_type in abilities.formats:
            return media_type
    raise ScannerError("cannot", "The scanner sends pages as no picture that is known here.")


def _add(parent: "etree._Element", name: str, text: str = "") -> "etree._Element":
    element = etree.SubElement(parent, tag(name))
    if text:
        element.text = text
    return element
