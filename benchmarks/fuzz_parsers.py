"""The core's own parsers of bytes under a fuzzer that looks where it has not been yet (Atheris).

`pip install atheris` once, as it is large and only this needs it; then
`python -m benchmarks.fuzz_parsers [--seconds 60] [NAME...]`. Each parser runs in a process of its
own, from inputs that real files hold. What it may raise is what its docstring says; all else, a
hang of 10 s or 2 GB of memory is a find, kept with its input in --keep.
"""

import argparse
import base64
import io
import os
import re
import shutil
import struct
import subprocess
import sys
import tempfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

__all__ = ["PARSERS"]


@dataclass(frozen=True, slots=True)
class Parser:
    """try_: takes bytes, and raises AssertionError where something that always holds does not.

    may_raise: names of errors, as its docstring says. seeds: to begin with. make_seeds: more of
    them, made where what makes them is looked into as well. endings: of the files among the seeds
    of `benchmarks.fuzz` that are some too.
    """

    try_: Callable[[bytes], object]
    may_raise: tuple[str, ...] = ()
    seeds: tuple[bytes, ...] = ()
    make_seeds: Callable[[], tuple[bytes, ...]] = tuple
    endings: tuple[str, ...] = ()


def _ascii85(data: bytes) -> None:
    from lighten.codecs.ascii import decode_ascii85

    decoded = decode_ascii85(data)
    try:
        known = base64.a85decode(data.partition(b"~>")[0], adobe=False)
    except ValueError:
        return
    assert decoded == known, "not what the standard library says"


def _ascii_hex(data: bytes) -> None:
    from lighten.codecs.ascii import decode_ascii_hex

    decode_ascii_hex(data)


def _spans(data: bytes) -> None:
    from lighten.formats.pdf.objects.object_spans import read_spans

    with tempfile.NamedTemporaryFile() as file:
        # No reader opens an empty file, so none comes so far.
        file.write(data or b"%PDF")
        file.flush()
        read_spans(Path(file.name), lambda _object: None)


def _colour_spaces(data: bytes) -> None:
    import pikepdf

    from lighten.formats.pdf.pictures.colour_spaces import palette_entries, read_colour

    try:
        space = pikepdf.Object.parse(data)
    except (pikepdf.PdfError, ValueError):
        return
    palette_entries(read_colour(space))


def _relationships(data: bytes) -> None:
    from lxml import etree

    from lighten.containers.opc.relationships import read_relationships, relations_of

    try:
        root = etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True))
    except (etree.XMLSyntaxError, ValueError):
        return
    read_relationships(root, "word/document.xml")
    list(relations_of(root))


def _tiff(data: bytes) -> None:
    from lighten.formats.tiff.directories import read_directories

    read_directories(data, "a.tif")


def _pictures(data: bytes) -> None:
    from lighten.pictures.files.read import kind_of_picture, read_picture_file, stored_picture

    if kind_of_picture(data[:64]):
        file = read_picture_file(data)
        assert sum(block.size_bytes for block in file.blocks) == len(data), "bytes are missing"
        stored_picture(file)


def _exif(data: bytes) -> None:
    from lighten.pictures.metadata.exif_directories import build_exif, byte_order, read_exif

    build_exif(read_exif(data), byte_order(data))


def _captions(data: bytes) -> None:
    from lighten.pictures.metadata.image_resources import resource_weights, rewrite_resources

    weights = resource_weights(data)
    assert sum(weights.values()) == len(data), "bytes are missing"
    assert len(rewrite_resources(data, tuple(weights)[:1])) <= len(data)


def _xmp(data: bytes) -> None:
    from lighten.pictures.metadata.xmp import rewrite_xmp, xmp_weights

    weights = xmp_weights(data)
    assert sum(weights.values()) == len(data), "bytes are missing"
    rewrite_xmp(data, tuple(weights)[:1])


def _compound(data: bytes) -> None:
    from lighten.containers.compound.compound_file import is_compound, read_compound

    if is_compound(data):
        read_compound(data)


def _metafiles(data: bytes) -> None:
    from lighten.containers.pictures.metafiles import (
        is_metafile,
        metafile_inches,
        metafile_size,
        wrapped_bitmap,
    )

    if is_metafile(data):
        metafile_size(data)
        metafile_inches(data)
        wrapped_bitmap(data)


def _embedded_fonts(data: bytes) -> None:
    from lighten.containers.eot import coding_of_eot

    coding_of_eot(data)


def _type1(data: bytes) -> None:
    from lighten.formats.pdf.fonts.type1 import read_type1

    read_type1(data)


def _sheets(data: bytes) -> None:
    from lighten.formats.xlsx.cells.plain_xml import as_plain

    b"".join(as_plain([data], "a.xlsx"))


def _ipp(data: bytes) -> None:
    from printers.ipp import read_message, write_message

    write_message(read_message(io.BytesIO(data)))


def _raster(data: bytes) -> None:
    from printers.pwg_raster import read_pwg_raster

    for _ in zip(range(3), read_pwg_raster(io.BytesIO(data)), strict=False):
        pass


def _exif_seeds() -> tuple[bytes, ...]:
    from tests.core.formats.picture.samples import camera_exif

    return (camera_exif(), camera_exif(order=">"))


def _caption_seeds() -> tuple[bytes, ...]:
    from tests.core.formats.picture.samples import irb

    return (irb(),)


def _xmp_seeds() -> tuple[bytes, ...]:
    from tests.core.formats.picture.samples import xmp_packet

    return (xmp_packet(),)


def _compound_seeds() -> tuple[bytes, ...]:
    from tests.core.containers.compound_files import compound_file

    return (compound_file({"Workbook": b"ring, wing" * 500, "Storage/Inner": b"x"}),)


def _type1_seeds() -> tuple[bytes, ...]:
    """Without the heads of the three sections that a .pfb has and a /FontFile has not."""
    import reportlab

    path = next(Path(reportlab.__file__).parent.glob("fonts/*.pfb"))
    sections, rest = b"", path.read_bytes()
    while rest[:1] == b"\x80" and rest[1] != 3:
        length = int.from_bytes(rest[2:6], "little")
        sections, rest = sections + rest[6 : 6 + length], rest[6 + length :]
    return (sections,)


PARSERS: dict[str, Parser] = {
    "ascii85": Parser(_ascii85, ("ValueError",), (b'<~87cURD]i,"Ebo80~>', b"zz!!~>")),
    "ascii-hex": Parser(_ascii_hex, (), (b"48 65 6c>",)),
    "spans": Parser(_spans, endings=(".pdf",)),
    "colour-spaces": Parser(
        _colour_spaces,
        (),
        (
            b"[/Indexed /DeviceRGB 1 <000000ffffff>]",
            b"[/CalRGB <</WhitePoint [.9 1 1.1] /Gamma [2 2 2]>>]",
            b"[/DeviceN [/Cyan /Spot] /DeviceCMYK <</FunctionType 2>>]",
        ),
    ),
    "relationships": Parser(
        _relationships,
        (),
        (
            b'<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
            b'<Relationship Id="r1" Type="t" Target="media/a.png"/></Relationships>',
        ),
    ),
    "tiff": Parser(_tiff, ("LightenError",), endings=(".tif",)),
    "pictures": Parser(
        _pictures,
        ("LightenError", "KeyError"),
        endings=(".jpg", ".png", ".gif", ".bmp", ".webp"),
    ),
    "exif": Parser(_exif, ("ValueError",), make_seeds=_exif_seeds),
    "captions": Parser(_captions, make_seeds=_caption_seeds),
    "xmp": Parser(_xmp, make_seeds=_xmp_seeds),
    "compound": Parser(_compound, ("LightenError",), make_seeds=_compound_seeds),
    "metafiles": Parser(
        _metafiles, (), (b"\xd7\xcd\xc6\x9a" + bytes(40), b"\x01\0\0\0" + bytes(104))
    ),
    "embedded-fonts": Parser(_embedded_fonts, (), (struct.pack("<II", 100, 20) + bytes(92),)),
    "type-1": Parser(_type1, ("ValueError",), make_seeds=_type1_seeds),
    "sheets": Parser(
        _sheets,
        ("LightenError",),
        (b"<worksheet><sheetData><row r='1'><c r='A1'><v>1</v></c></row></sheetData></worksheet>",),
    ),
    "ipp": Parser(
        _ipp,
        ("ValueError",),
        (b"\x02\0\0\x0b\0\0\0\1\1\x47\0\x12attributes-charset\0\5utf-8\3",),
    ),
    "raster": Parser(_raster, ("ValueError",), (b"RaS2" + b"PwgRaster\0" + bytes(1786),)),
}


def _fuzz(name: str, seconds: int, folder: Path) -> None:
    """Fuzz in this process, which ends with it."""
    import atheris

    parser = PARSERS[name]
    with atheris.instrument_imports(include=["lighten", "printers"]):
        seeds = _seeds(parser, folder)
        for seed in seeds:
            _try(parser, seed)
    corpus = folder / "corpus"
    corpus.mkdir()
    for number, seed in enumerate(seeds):
        (corpus / str(number)).write_bytes(seed)
    limits = [f"-max_total_time={seconds}", "-timeout=10", "-rss_limit_mb=2048", "-max_len=65536"]
    options = [*limits, f"-artifact_prefix={folder}/", "-print_final_stats=1", str(corpus)]
    atheris.Setup([sys.argv[0], *options], lambda data: _try(parser, data))
    atheris.Fuzz()


def _try(parser: Parser, data: bytes) -> None:
    try:
        parser.try_(data)
    except Exception as error:
        if not {one.__name__ for one in type(error).__mro__} & set(parser.may_raise):
            raise


def _seeds(parser: Parser, folder: Path) -> list[bytes]:
    seeds = [*parser.seeds, *parser.make_seeds()]
    if parser.endings:
        from benchmarks.fuzzing.seeds import write_seeds

        files = write_seeds(folder / "seeds")
        seeds += [file.read_bytes() for file in files if file.suffix in parser.endings]
    return seeds


def _run(name: str, seconds: int, keep: Path | None) -> bool:
    """Fuzz in a process of its own; return whether nothing was found."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "benchmarks.fuzz_parsers", "--alone", folder]
        ran = subprocess.run(
            [*command, "--seconds", str(seconds), name], capture_output=True, text=True, check=False
        )
        said = ran.stdout + ran.stderr
        tries = re.search(r"number_of_executed_units: (\d+)", said)
        count = f"{int(tries[1]):,} inputs" if tries else "stopped"
        print(f"{name:16} {count:>18}  {'nothing found' if ran.returncode == 0 else 'FOUND'}")
        if ran.returncode:
            trace = said[said.rfind("=== Uncaught") :].partition("INFO: Instrumenting")[0]
            print(trace[:3000], flush=True)
            for find in Path(folder).glob("*-*"):
                if keep and find.is_file():
                    keep.mkdir(parents=True, exist_ok=True)
                    shutil.copy(find, keep / f"{name}-{find.name[:24]}")
        return ran.returncode == 0


def main() -> int:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--seconds", type=int, default=60, help="for each parser")
    parser.add_argument("--keep", type=Path, help="a folder for inputs that found something")
    parser.add_argument("--alone", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("names", nargs="*", default=list(PARSERS))
    options = parser.parse_args()
    if options.alone:
        _fuzz(options.names[0], options.seconds, options.alone)
        return 0
    with ThreadPoolExecutor(os.cpu_count()) as lanes:
        sound = list(
            lanes.map(lambda name: _run(name, options.seconds, options.keep), options.names)
        )
    return 0 if all(sound) else 1


if __name__ == "__main__":
    raise SystemExit(main())
