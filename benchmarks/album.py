"""Three photos of 24 megapixels to one PDF at 150 ppi, against a plain loop of Pillow and pikepdf.

`python -m benchmarks.album PHOTO PHOTO PHOTO`: time, bytes, and looks of each page (SSIMULACRA2).
"""

import argparse
import io
import tempfile
import time
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import ssimulacra2
from PIL import Image, ImageOps

from lighten import Order, PageSize, Source, gather, keep_workers, make, preset_named, weigh

_PIXELS = 24_000_000
_LONGEST_CM, _PPI = 25.0, 150
# From the best a loop would take to the least.
_QUALITIES = (60, 70, 75, 80, 85, 90)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("photos", nargs="+", type=Path)
    with tempfile.TemporaryDirectory() as folder:
        photos = [
            _as_large(path, Path(folder) / f"{number}.jpg")
            for number, path in enumerate(parser.parse_args().photos)
        ]
        started = time.perf_counter()
        ours = Path(folder) / "ours.pdf"
        with keep_workers():
            whole = Source(path=Path(folder) / "whole.pdf")
            gather([Source(path=path) for path in photos], whole.path, PageSize.OWN)
            made = make(whole, weigh(whole), Order(preset=preset_named("reading-desk")), ours)
        seconds = time.perf_counter() - started
        assert made.proof is not None
        scores = ", ".join(f"{score:.1f}" for score in _scores(ours, photos))
        print(
            f"ours: {seconds:.1f} s, {ours.stat().st_size:,} bytes, {scores}, {made.proof.verdict}"
        )
        for quality in _QUALITIES:
            started = time.perf_counter()
            theirs = _plain_loop(photos, quality, Path(folder) / "loop.pdf")
            seconds = time.perf_counter() - started
            scores = ", ".join(f"{score:.1f}" for score in _scores(theirs, photos))
            print(f"loop at {quality}: {seconds:.1f} s, {theirs.stat().st_size:,} bytes, {scores}")


def _as_large(path: Path, out: Path) -> Path:
    with Image.open(path) as image:
        share = (_PIXELS / (image.width * image.height)) ** 0.5
        size = round(image.width * share), round(image.height * share)
        image.convert("RGB").resize(size, Image.Resampling.BICUBIC).save(out, quality=93)
    return out


def _plain_loop(photos: list[Path], quality: int, out: Path) -> Path:
    pdf = pikepdf.new()
    longest_px = round(_LONGEST_CM / 2.54 * _PPI)
    for path in photos:
        with Image.open(path) as image:
            image.draft("RGB", (longest_px * 2, longest_px * 2))
            upright = ImageOps.exif_transpose(image)
            upright.thumbnail((longest_px, longest_px), Image.Resampling.LANCZOS)
            coded = io.BytesIO()
            upright.save(coded, "JPEG", quality=quality)
        width, height = (side / _PPI * 72 for side in upright.size)
        picture = pdf.make_stream(
            coded.getvalue(),
            Type=pikepdf.Name.XObject,
            Subtype=pikepdf.Name.Image,
            Width=upright.width,
            Height=upright.height,
            BitsPerComponent=8,
            ColorSpace=pikepdf.Name.DeviceRGB,
            Filter=pikepdf.Name.DCTDecode,
        )
        page = pdf.add_blank_page(page_size=(width, height))
        page.obj.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=picture))
        page.obj.Contents = pdf.make_stream(f"{width:.3f} 0 0 {height:.3f} 0 0 cm /P Do".encode())
    pdf.save(out)
    return out


def _scores(pdf: Path, photos: list[Path]) -> list[float]:
    """Score each page as pdfium draws it at 150 ppi against its photo."""
    scores = []
    document = pypdfium2.PdfDocument(pdf)
    for page, path in zip(document, photos, strict=True):
        drawn = page.render(scale=_PPI / 72).to_pil().convert("RGB")
        with Image.open(path) as image:
            whole = image.convert("RGB").resize(drawn.size, Image.Resampling.LANCZOS)
        with tempfile.TemporaryDirectory() as folder:
            names = [str(Path(folder) / name) for name in ("a.png", "b.png")]
            whole.save(names[0])
            drawn.save(names[1])
            scores.append(float(np.float64(ssimulacra2.compute_ssimulacra2(*names))))
    document.close()
    return scores


if __name__ == "__main__":
    main()
