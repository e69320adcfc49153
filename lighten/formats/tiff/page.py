"""Facts of a page's picture, read from its directory."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import IntEnum

from lighten.formats.tiff import tags
from lighten.formats.tiff.directories import Directory, TiffFile

__all__ = [
    "Compression",
    "Photometric",
    "TiffPage",
    "pages_of",
    "previews_of",
    "structure_obstacle",
]

_REDUCED, _MASK = 1, 4
_POINTS_PER_INCH, _CM = 72.0, 3
# In an inch: values that scanners and cameras declare; others are leftovers of some program.
_LEAST_DOTS, _MOST_DOTS = 20.0, 4800.0
_MOST_PIXELS = 120_000_000
_UNSIGNED, _DEEP = 1, 16


class Compression(IntEnum):
    """Compression of pixels (TIFF 6.0 and its supplements)."""

    NONE = 1
    GROUP_3_ROWS = 2
    GROUP_3 = 3
    GROUP_4 = 4
    LZW = 5
    OLD_JPEG = 6
    JPEG = 7
    DEFLATE = 8
    PACKBITS = 32773
    OLD_DEFLATE = 32946


_TITLES: dict[int, str] = {
    Compression.NONE: "not compressed",
    Compression.GROUP_3_ROWS: "Group 3",
    Compression.GROUP_3: "Group 3",
    Compression.GROUP_4: "Group 4",
    Compression.LZW: "LZW",
    Compression.JPEG: "JPEG",
    Compression.DEFLATE: "Deflate",
    Compression.OLD_DEFLATE: "Deflate",
    Compression.PACKBITS: "PackBits",
}
# Known from the registry of codings (from memory): enough to say what it is.
_RARE_TITLES: dict[int, str] = {
    Compression.OLD_JPEG: "JPEG of the first kind",
    32809: "ThunderScan",
    34661: "JBIG",
    34712: "JPEG 2000",
    34925: "LZMA",
    50000: "Zstandard",
    50001: "WebP",
}


class Photometric(IntEnum):
    """Meaning of samples (TIFF 6.0, section 8)."""

    WHITE_IS_ZERO = 0
    BLACK_IS_ZERO = 1
    RGB = 2
    PALETTE = 3
    MASK = 4
    INKS = 5
    YCBCR = 6
    LAB = 8


_SAMPLES: dict[int, int] = {
    Photometric.WHITE_IS_ZERO: 1,
    Photometric.BLACK_IS_ZERO: 1,
    Photometric.RGB: 3,
    Photometric.PALETTE: 1,
    Photometric.INKS: 4,
    Photometric.YCBCR: 3,
}
_COLOUR_TITLES: dict[int, str] = {
    Photometric.RGB: "RGB",
    Photometric.PALETTE: "palette",
    Photometric.INKS: "CMYK",
    Photometric.YCBCR: "RGB",
    Photometric.LAB: "Lab",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class TiffPage:
    """One page. number: counted from 1, previews left out.

    chunks: offset and length of each strip or tile. dots: per inch, across and down, or None.
    units_per_inch: in which the page itself counts them.
    colours: samples a pixel without extra ones. extra_samples: opacity, or what nobody says.
    obstacle: why its pixels stay as they are, or "".
    """

    number: int
    directory: Directory
    width_px: int
    height_px: int
    bits: int
    colours: int
    extra_samples: int
    compression: int
    photometric: int
    predictor: int
    is_planar: bool
    is_tiled: bool
    chunks: tuple[tuple[int, int], ...]
    dots: tuple[float, float] | None
    units_per_inch: float
    orientation: int
    profile: bytes
    obstacle: str = ""

    @property
    def id(self) -> str:
        return f"page:{self.number}"

    @property
    def is_lossy(self) -> bool:
        return self.compression in (Compression.JPEG, Compression.OLD_JPEG)

    @property
    def has_palette(self) -> bool:
        return self.photometric == Photometric.PALETTE

    @property
    def is_exact_only(self) -> bool:
        """Return whether the page may only be packed exactly: inks and transparency."""
        return self.photometric == Photometric.INKS or self.extra_samples > 0

    @property
    def coding_title(self) -> str:
        """Return the name of the coding for people."""
        titles = {**_RARE_TITLES, **_TITLES}
        return titles.get(self.compression, f"coding {self.compression}")

    @property
    def colour_title(self) -> str:
        """Return the name of the colours for people."""
        title = _COLOUR_TITLES.get(self.photometric, "grey")
        return title + (" with a profile" if self.profile else "")

    @property
    def own_pt(self) -> tuple[float, float] | None:
        """Return width and height by the declared resolution, in points; None without one."""
        if self.dots is None:
            return None
        return (
            self.width_px / self.dots[0] * _POINTS_PER_INCH,
            self.height_px / self.dots[1] * _POINTS_PER_INCH,
        )


def pages_of(file: TiffFile) -> tuple[TiffPage, ...]:
    """Return all pages that are not previews of others."""
    everywhere = structure_obstacle(file)
    directories = [one for one in file.pages if not _is_preview(file, one)]
    # A file of previews only is one of small pictures.
    return tuple(
        _page(file, directory, number, everywhere)
        for number, directory in enumerate(directories or file.pages, start=1)
    )


def previews_of(file: TiffFile) -> Iterator[Directory]:
    """Return reduced versions of pages, in directories of their own or below a page's."""
    reduced = [one for one in file.pages if _is_preview(file, one)]
    if len(reduced) < len(file.pages):
        yield from reduced
    for directory in file.pages:
        yield from directory.below.get(tags.SUB_IFDS, ())


def structure_obstacle(file: TiffFile) -> str:
    """Return the reason for leaving the whole file unchanged, or ""."""
    for directory in file.pages:
        if file.number(directory, tags.COMPRESSION, 0) == Compression.OLD_JPEG:
            # Its tags point to bytes outside its strips.
            return "kept: coded as JPEG of the first kind, a rare way"
        for tag in directory.entries:
            if tag in tags.SCIENTIFIC and file.numbers(directory, tag) != (1,):
                return f"kept: it holds {tags.SCIENTIFIC[tag]}"
        description = file.text(directory, tags.DESCRIPTION)[:4096]
        if "<OME" in description or description.startswith("ImageJ="):
            return "kept: it holds microscopy data"
        unknown = [tag for tag in directory.entries if not tags.is_known(tag)]
        if unknown:
            return f"kept: it holds private data of some program (tag {unknown[0]})"
        below = directory.below.get(tags.SUB_IFDS, ())
        if any(not _is_preview(file, one) for one in below):
            return "kept: pages of it hold other pictures, which are no previews"
    return ""


def _is_preview(file: TiffFile, directory: Directory) -> bool:
    old = file.number(directory, tags.SUBFILE, 0) == 2
    return old or bool(file.number(directory, tags.NEW_SUBFILE, 0) & _REDUCED)


def _page(file: TiffFile, directory: Directory, number: int, everywhere: str) -> TiffPage:
    def number_of(tag: int, default: int) -> int:
        return file.number(directory, tag, default)

    is_tiled = tags.TILE_OFFSETS in directory.entries
    offsets = file.numbers(directory, tags.TILE_OFFSETS if is_tiled else tags.STRIP_OFFSETS)
    lengths = file.numbers(directory, tags.TILE_BYTES if is_tiled else tags.STRIP_BYTES)
    bits = file.numbers(directory, tags.BITS) or (1,)
    samples = number_of(tags.SAMPLES, 1)
    photometric = number_of(tags.PHOTOMETRIC, Photometric.WHITE_IS_ZERO)
    colours = _SAMPLES.get(photometric, samples)
    profile = directory.entries.get(tags.PROFILE)
    page = TiffPage(
        number=number,
        directory=directory,
        width_px=number_of(tags.WIDTH, 0),
        height_px=number_of(tags.HEIGHT, 0),
        bits=bits[0],
        colours=colours,
        extra_samples=max(0, samples - colours),
        compression=number_of(tags.COMPRESSION, Compression.NONE),
        photometric=photometric,
        predictor=number_of(tags.PREDICTOR, 1),
        is_planar=number_of(tags.PLANAR, 1) == 2,
        is_tiled=is_tiled,
        chunks=_chunks(file, offsets, lengths),
        dots=_dots(file, directory),
        units_per_inch=_units_per_inch(file, directory),
        orientation=number_of(tags.ORIENTATION, 1),
        profile=file.raw(profile) if profile is not None else b"",
    )
    obstacles = _obstacles(file, page, bits, len(offsets))
    return replace(page, obstacle=everywhere or next(obstacles, ""))


def _chunks(
    file: TiffFile, offsets: tuple[int, ...], lengths: tuple[int, ...]
) -> tuple[tuple[int, int], ...]:
    """Yield strips or tiles within the file; a single strip without a length ends with the file."""
    if len(offsets) == 1 and not lengths:
        lengths = (file.size_bytes - offsets[0],)
    chunks = tuple(zip(offsets, lengths, strict=False))
    return tuple(
        (offset, length) for offset, length in chunks if offset + length <= file.size_bytes
    )


def _dots(file: TiffFile, directory: Directory) -> tuple[float, float] | None:
    across, down = (file.ratio(directory, tag) for tag in (tags.XRESOLUTION, tags.YRESOLUTION))
    unit = file.number(directory, tags.RESOLUTION_UNIT, 2)
    if across is None or down is None or unit not in (2, _CM):
        return None
    units = _units_per_inch(file, directory)
    dots = across * units, down * units
    return dots if all(_LEAST_DOTS <= one <= _MOST_DOTS for one in dots) else None


def _units_per_inch(file: TiffFile, directory: Directory) -> float:
    return 2.54 if file.number(directory, tags.RESOLUTION_UNIT, 2) == _CM else 1.0


def _obstacles(file: TiffFile, page: TiffPage, bits: tuple[int, ...], chunks: int) -> Iterator[str]:
    """Yield the reasons for leaving the pixels of a page unchanged."""
    formats = file.numbers(page.directory, tags.SAMPLE_FORMAT) or (_UNSIGNED,)
    is_mask = file.number(page.directory, tags.NEW_SUBFILE, 0) & _MASK
    is_jpeg = page.compression == Compression.JPEG
    size_px = page.width_px * page.height_px
    if size_px < 1 or not page.chunks or len(page.chunks) != chunks:
        yield "kept: it is damaged"
    if size_px > _MOST_PIXELS:
        yield (
            f"kept: {page.width_px:,} x {page.height_px:,} pixels are more than can be "
            "worked on safely"
        )
    if is_mask or page.photometric == Photometric.MASK:
        yield "kept: it says what of another page is to be seen"
    if set(formats) != {_UNSIGNED}:
        yield "kept: its samples are measurements, no light"
    if page.compression not in _TITLES:
        yield f"kept: coded as {page.coding_title}, a rare way"
    if page.photometric not in _SAMPLES or len(bits) < page.colours:
        yield "kept: a rare kind of colours"
    if len(set(bits)) != 1 or page.bits not in (1, 2, 4, 8, _DEEP):
        yield f"kept: samples of {page.bits} bits"
    if page.extra_samples > 1 or (page.extra_samples and is_jpeg):
        yield "kept: it has channels besides its colours"
    if page.photometric == Photometric.YCBCR and not is_jpeg:
        yield "kept: a rare kind of colours"
    if page.photometric == Photometric.INKS and is_jpeg:
        yield "kept: inks in JPEG"
