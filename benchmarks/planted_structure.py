"""Plant faults in the structure and in the words of copies, and count those that the proof sees.

`python -m benchmarks.planted_structure [--seeds N] [--kinds KIND...]` prints a table of
docs/proof.md. Each fault is planted in a copy that passed its proof; proved again, it has to be one
to check. Packages are those of `benchmarks.second_opinion`; fonts and photos come with libraries.
"""

import argparse
import functools
import io
import re
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

import docx
import numpy as np
import pikepdf
import reportlab
import skimage
from docx.shared import Cm
from fontTools.cffLib import CFFFontSet
from fontTools.ttLib import TTFont
from PIL import Image, ImageDraw, ImageFont
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfgen.canvas import Canvas

from benchmarks.second_opinion.samples import write_samples
from lighten import (
    Copy,
    Preset,
    Source,
    Verdict,
    WeightSheet,
    make_proved_copy,
    plan,
    preset_named,
    prove,
    weigh,
)

__all__ = ["KINDS", "seen_of"]

FONTS = Path(reportlab.__file__).parent / "fonts"
PHOTOS = Path(skimage.__file__).parent / "data"
_TYPE_1 = ("DarkGardenMK", "callig15", "_ab_____", "_er_____", "cob_____")
_TRUETYPE = ("Vera", "VeraBd", "VeraIt", "VeraBI")
_SHOWN_PHOTOS = ("rocket.jpg", "chelsea.png", "coffee.png", "astronaut.png")
_TEXT = "reed warbler ringed at dawn net four wing weight moult station hide water level"


@dataclass(frozen=True, slots=True)
class Sound:
    """A copy that passed its proof, in a folder of its own."""

    source: Source
    sheet: WeightSheet
    copy: Copy

    @property
    def data(self) -> bytes:
        assert self.copy.path is not None
        return self.copy.path.read_bytes()

    def is_seen(self, changed: bytes, said: str = "") -> bool:
        path = self.source.path.with_name(f"changed{self.source.path.suffix}")
        path.write_bytes(changed)
        copy = Source(path=path)
        proof = prove(self.source, copy, self.sheet, self.copy.outcomes)
        return proof.verdict is Verdict.CHECK and any(said in reason for reason in proof.reasons)


def _sound(path: Path, preset: Preset | None = None) -> Sound | None:
    """Make a copy; None where none is lighter or where it has to be checked as it is."""
    source = Source(path=path)
    sheet = weigh(source)
    wanted = plan(sheet, preset or preset_named("reading-desk"))
    out = path.with_name(f"{path.stem}-copy{path.suffix}")
    copy, proof = make_proved_copy(source, sheet, wanted, out)
    is_sound = proof is not None and proof.verdict is not Verdict.CHECK
    return Sound(source, sheet, copy) if is_sound and copy.path else None


# --- Relations of packages (ISO/IEC 29500-2, 9.3)

_RELATION = re.compile(rb'<Relationship\b[^>]*\bId="([^"]+)"[^>]*/>')


def _removed_relations(folder: Path, _: int) -> Iterator[bool]:
    for path in write_samples(folder / "samples"):
        sound = _sound(path) if path.suffix in (".docx", ".pptx", ".xlsx") else None
        if sound is not None:
            yield from (sound.is_seen(changed) for changed in _without_one_relation(sound.data))


def _without_one_relation(package: bytes) -> Iterator[bytes]:
    """Yield the package once without each relation that its part names."""
    with zipfile.ZipFile(io.BytesIO(package)) as whole:
        members = {info.filename: whole.read(info) for info in whole.infolist()}
    for name, relations in members.items():
        part = name.replace("_rels/", "").removesuffix(".rels")
        if part == name or part not in members:
            continue
        for relation in _RELATION.finditer(relations):
            if b'"' + relation[1] + b'"' in members[part]:
                out = io.BytesIO()
                with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as changed:
                    lacking = members | {name: relations.replace(relation[0], b"")}
                    for other, data in lacking.items():
                        changed.writestr(other, data)
                yield out.getvalue()


# --- Fonts


def _some_words(seed: int) -> str:
    return " ".join(np.random.default_rng(seed).choice(_TEXT.split(), 5))


def _with_truetype(path: Path, face: str, words: str) -> None:
    """Show words by WinAnsi codes, which a cmap of the whole file leads to glyphs."""
    data = (FONTS / f"{face}.ttf").read_bytes()
    whole = TTFont(io.BytesIO(data))
    names, widths = whole.getBestCmap(), whole["hmtx"]
    scale = 1000 / whole["head"].unitsPerEm
    pdf = pikepdf.new()
    name = pikepdf.Name(f"/{face}")
    descriptor = pikepdf.Dictionary(
        Type=pikepdf.Name.FontDescriptor,
        FontName=name,
        Flags=32,
        FontBBox=[-183, -236, 1287, 928],
        ItalicAngle=0,
        Ascent=928,
        Descent=-236,
        CapHeight=729,
        StemV=80,
        FontFile2=pdf.make_stream(data, Length1=len(data)),
    )
    font = pikepdf.Dictionary(
        Type=pikepdf.Name.Font,
        Subtype=pikepdf.Name.TrueType,
        BaseFont=name,
        Encoding=pikepdf.Name.WinAnsiEncoding,
        FirstChar=32,
        LastChar=126,
        Widths=[round(widths[names.get(code, ".notdef")][0] * scale) for code in range(32, 127)],
        FontDescriptor=pdf.make_indirect(descriptor),
    )
    page = pdf.add_blank_page(page_size=(400, 200)).obj
    page.Resources = pikepdf.Dictionary(Font=pikepdf.Dictionary(F=pdf.make_indirect(font)))
    page.Contents = pdf.make_stream(f"BT /F 12 Tf 20 100 Td ({words}) Tj ET".encode())
    pdf.save(path)


def _with_type_1(path: Path, face: str, words: str) -> None:
    made = pdfmetrics.EmbeddedType1Face(str(FONTS / f"{face}.afm"), str(FONTS / f"{face}.pfb"))
    pdfmetrics.registerTypeFace(made)
    pdfmetrics.registerFont(pdfmetrics.Font(face, made.name, "WinAnsiEncoding"))
    canvas = Canvas(str(path), invariant=True)
    canvas.setFont(face, 14)
    canvas.drawString(60, 700, words)
    canvas.save()


def _with_font_file(document: bytes, key: str, change: Callable[[bytes], bytes]) -> Iterator[bytes]:
    """Yield the document with a changed font file; nothing where it has none of that kind."""
    with pikepdf.open(io.BytesIO(document)) as pdf:
        for font in pdf.pages[0].obj.Resources.Font.values():
            file = font.FontDescriptor.get(key) if "/FontDescriptor" in font else None
            if file is not None:
                out = io.BytesIO()
                file.write(change(file.read_bytes()))
                pdf.save(out)
                yield out.getvalue()


def _removed_cmaps(folder: Path, seeds: int) -> Iterator[bool]:
    for seed in range(seeds):
        words = _some_words(seed)
        path = folder / f"{seed}.pdf"
        _with_truetype(path, _TRUETYPE[seed % len(_TRUETYPE)], words)
        if sound := _sound(path):
            letter = words[seed % len(words)] if seed % 2 else None
            change = functools.partial(_less_cmap, letter=letter)
            for changed in _with_font_file(sound.data, "/FontFile2", change):
                yield sound.is_seen(changed, "font ")


def _less_cmap(data: bytes, letter: str | None) -> bytes:
    """Take one letter out of the cmap, or the whole table for None."""
    font = TTFont(io.BytesIO(data))
    if letter is None:
        del font["cmap"]
    else:
        for table in font["cmap"].tables:
            # Symbol tables and those of the Macintosh hold the code itself, or above F000.
            for code in [code for code in table.cmap if code & 0xFF == ord(letter)]:
                del table.cmap[code]
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


def _renamed_glyphs(folder: Path, seeds: int) -> Iterator[bool]:
    for seed in range(seeds):
        path = folder / f"{seed}.pdf"
        _with_type_1(path, _TYPE_1[seed % len(_TYPE_1)], _some_words(seed))
        if sound := _sound(path):
            change = functools.partial(_swapped, seed=seed)
            for changed in _with_font_file(sound.data, "/FontFile3", change):
                yield sound.is_seen(changed, "font ")


def _swapped(data: bytes, seed: int) -> bytes:
    """Give two glyphs of a CFF font each other's names."""
    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(data), None)
    top = fonts[0]
    letters = [name for name in top.charset if len(name) == 1]
    one, other = np.random.default_rng(seed).choice(letters, 2, replace=False)
    strings = top.CharStrings.charStrings
    top.CharStrings.values()
    strings[one], strings[other] = strings[other], strings[one]
    out = io.BytesIO()
    fonts.compile(out, TTFont(sfntVersion="OTTO"), isCFF2=False)
    return out.getvalue()


# --- Pictures


def _lost_pictures(folder: Path, seeds: int) -> Iterator[bool]:
    """Cut files of several pictures (CIPA DC-007) behind the first."""
    for seed in range(seeds):
        path = folder / f"{seed}.jpg"
        with Image.open(PHOTOS / _SHOWN_PHOTOS[seed % len(_SHOWN_PHOTOS)]) as photo:
            first = photo.convert("RGB").resize((900 + 40 * seed, 700))
        further = first.rotate(180).resize((160 + 20 * seed, 120))
        first.save(path, "MPO", save_all=True, append_images=[further], quality=96)
        if sound := _sound(path):
            yield sound.is_seen(sound.data[: sound.data.rfind(b"\xff\xd8\xff")])


def _unreadable_words(folder: Path, seeds: int) -> Iterator[bool]:
    """Bring lettered pictures of text documents to so few pixels that nobody reads them."""
    for seed in range(seeds):
        rng = np.random.default_rng(seed)
        letters_px, path = int(rng.integers(11, 25)), folder / f"{seed}.docx"
        picture = io.BytesIO()
        _lettered(rng, letters_px).save(picture, "PNG")
        document = docx.Document()
        document.add_picture(picture, width=Cm(float(rng.uniform(5, 9))))
        document.save(str(path))
        # Of 7 px from line to line, tesseract reads fewer than one word in three.
        share = float(rng.uniform(4.5, 7)) / letters_px
        small_px = (round(_LETTERED_PX[0] * share), round(_LETTERED_PX[1] * share))
        if sound := _sound(path, preset_named("post")):
            outcomes = tuple(
                replace(outcome, size_px=small_px) if outcome.size_px else outcome
                for outcome in sound.copy.outcomes
            )
            changed = replace(sound, copy=replace(sound.copy, outcomes=outcomes))
            small = _with_smaller_pictures(sound.data, small_px)
            yield changed.is_seen(small, "can no longer be read")


def _with_smaller_pictures(package: bytes, size_px: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(package)) as whole,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as changed,
    ):
        for info in whole.infolist():
            data = whole.read(info)
            if info.filename.startswith("word/media/"):
                small = io.BytesIO()
                with Image.open(io.BytesIO(data)) as picture:
                    kind = picture.format
                    few = picture.convert("RGB").resize(size_px, Image.Resampling.LANCZOS)
                few.save(small, kind, quality=95)
                data = small.getvalue()
            changed.writestr(info.filename, data)
    return out.getvalue()


_LETTERED_PX = (760, 500)


def _lettered(rng: np.random.Generator, letters_px: int) -> Image.Image:
    """Lines of words on plain ground, dark or light, or on a photo."""
    font = ImageFont.truetype(FONTS / f"{_TRUETYPE[rng.integers(4)]}.ttf", letters_px)
    ground = int(rng.integers(3))
    if ground == 2:
        with Image.open(PHOTOS / _SHOWN_PHOTOS[rng.integers(4)]) as photo:
            picture = photo.convert("RGB").resize(_LETTERED_PX)
        picture = Image.blend(picture, Image.new("RGB", _LETTERED_PX, "white"), 0.6)
    else:
        level = (int(rng.integers(215, 256)), int(rng.integers(10, 50)))[ground]
        picture = Image.new("RGB", _LETTERED_PX, (level, level, level))
    ink = (235, 235, 225) if ground == 1 else (20, 25, 40)
    pen = ImageDraw.Draw(picture)
    for top in range(20, int(rng.integers(60, 460)), round(letters_px * 1.5)):
        pen.text((20, top), _some_words(int(rng.integers(999)))[:46], font=font, fill=ink)
    return picture


KINDS: dict[str, Callable[[Path, int], Iterator[bool]]] = {
    "relation removed": _removed_relations,
    "cmap removed": _removed_cmaps,
    "glyph renamed": _renamed_glyphs,
    "second picture lost": _lost_pictures,
    "words unreadable": _unreadable_words,
}


def seen_of(kind: str, seeds: int) -> tuple[int, int]:
    """Return how many of the planted faults of a kind the proof sees, and how many there were."""
    with tempfile.TemporaryDirectory() as folder:
        seen = list(KINDS[kind](Path(folder), seeds))
    return sum(seen), len(seen)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=40)
    parser.add_argument("--kinds", nargs="*", default=list(KINDS))
    arguments = parser.parse_args()
    print("| planted | seen |\n|---|---|")
    with ProcessPoolExecutor() as pool:
        counts = pool.map(seen_of, arguments.kinds, [arguments.seeds] * len(arguments.kinds))
        for kind, (seen, planted) in zip(arguments.kinds, counts, strict=True):
            print(f"| {kind} | {100 * seen / max(1, planted):.1f} % of {planted} |", flush=True)


if __name__ == "__main__":
    main()
