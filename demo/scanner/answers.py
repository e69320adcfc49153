"""Answers of the stand-in to requests, in the terms of the protocol."""

from lxml import etree

from demo.scanner.device import Device, Job
from scanners.xml import NAMESPACES, find_text, read_xml, tag

__all__ = ["capabilities_xml", "read_job", "status_xml"]

NAME = "Harrow Fen Stand-in Scanner"
_PPI = (75, 100, 150, 200, 300, 400, 600)
_MODES = ("BlackAndWhite1", "Grayscale8", "RGB24")
_MEDIA_TYPES = ("image/jpeg", "image/png")
# A4 and Letter fit; the feeder takes Legal.
_GLASS, _FEEDER = (2550, 3508), (2550, 4200)


def capabilities_xml() -> bytes:
    root = etree.Element(tag("scan:ScannerCapabilities"), nsmap=NAMESPACES)
    _add(root, "pwg:Version", "2.6")
    _add(root, "pwg:MakeAndModel", NAME)
    _add(root, "pwg:SerialNumber", "HF-0001")
    _add(root, "scan:UUID", "6b1c1e0e-54a2-4f5c-9d2e-0d7b3a1f0c11")
    _caps(_add(_add(root, "scan:Platen"), "scan:PlatenInputCaps"), _GLASS)
    feeder = _add(root, "scan:Adf")
    _caps(_add(feeder, "scan:AdfSimplexInputCaps"), _FEEDER)
    _caps(_add(feeder, "scan:AdfDuplexInputCaps"), _FEEDER)
    _add(feeder, "scan:FeederCapacity", "50")
    options = _add(feeder, "scan:AdfOptions")
    for option in ("DetectPaperLoaded", "Duplex"):
        _add(options, "scan:AdfOption", option)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


def status_xml(device: Device) -> bytes:
    root = etree.Element(tag("scan:ScannerStatus"), nsmap=NAMESPACES)
    _add(root, "pwg:Version", "2.6")
    with device.lock:
        _add(root, "pwg:State", device.state)
        _add(root, "scan:AdfState", device.adf_state)
        jobs = _add(root, "scan:Jobs")
        for job in reversed(device.jobs):
            info = _add(jobs, "scan:JobInfo")
            _add(info, "pwg:JobUri", f"/eSCL/ScanJobs/{job.id}")
            _add(info, "pwg:JobUuid", job.id)
            _add(info, "scan:Age", "1")
            _add(info, "pwg:ImagesCompleted", str(job.pages))
            _add(info, "pwg:JobState", job.state)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")


def read_job(content: bytes) -> Job:
    """Raises: ScannerError or ValueError for what cannot be had."""
    root = read_xml(content, "settings")
    region = "pwg:ScanRegions/pwg:ScanRegion/"
    source = find_text(root, "pwg:InputSource") or "Platen"
    mode = find_text(root, "scan:ColorMode") or "RGB24"
    ppi = int(find_text(root, "scan:XResolution") or 300)
    media_type = find_text(root, "scan:DocumentFormatExt") or find_text(root, "pwg:DocumentFormat")
    most = _FEEDER if source == "Feeder" else _GLASS
    size = (
        min(most[0], int(find_text(root, f"{region}pwg:Width") or most[0])),
        min(most[1], int(find_text(root, f"{region}pwg:Height") or most[1])),
    )
    if source not in ("Platen", "Feeder") or mode not in _MODES or ppi not in _PPI:
        raise ValueError("not offered")
    if media_type and media_type not in _MEDIA_TYPES:
        raise ValueError("not offered")
    return Job(
        source=source,
        mode=mode,
        media_type=media_type or _MEDIA_TYPES[0],
        ppi=ppi,
        size=size,
        is_duplex=find_text(root, "scan:Duplex") == "true",
    )


def _caps(caps: "etree._Element", most: tuple[int, int]) -> None:
    for name, number in (
        ("scan:MinWidth", 300),
        ("scan:MaxWidth", most[0]),
        ("scan:MinHeight", 300),
        ("scan:MaxHeight", most[1]),
        ("scan:MaxScanRegions", 1),
    ):
        _add(caps, name, str(number))
    profile = _add(_add(caps, "scan:SettingProfiles"), "scan:SettingProfile")
    modes = _add(profile, "scan:ColorModes")
    for mode in _MODES:
        _add(modes, "scan:ColorMode", mode)
    formats = _add(profile, "scan:DocumentFormats")
    for media_type in _MEDIA_TYPES:
        _add(formats, "pwg:DocumentFormat", media_type)
        _add(formats, "scan:DocumentFormatExt", media_type)
    offered = _add(_add(profile, "scan:SupportedResolutions"), "scan:DiscreteResolutions")
    for ppi in _PPI:
        one = _add(offered, "scan:DiscreteResolution")
        _add(one, "scan:XResolution", str(ppi))
        _add(one, "scan:YResolution", str(ppi))
    intents = _add(caps, "scan:SupportedIntents")
    _add(intents, "scan:Intent", "Document")
    for name in ("scan:MaxOpticalXResolution", "scan:MaxOpticalYResolution"):
        _add(caps, name, "600")


def _add(parent: "etree._Element", name: str, text: str = "") -> "etree._Element":
    element = etree.SubElement(parent, tag(name))
    if text:
        element.text = text
    return element
