"""JBIG2 against Group 4 on pages of two tones: `python -m benchmarks.bitonal FILE...`.

Files: PDFs, whose pictures of one bit poppler takes out, and picture files of one bit.
"""

import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageSequence

from lighten.codecs.bitonal import encode_group4
from lighten.codecs.jbig2.encode import all_pixels, encode_jbig2

_FEWEST_PX = 200_000


def main(names: list[str]) -> None:
    print(f"{'page':<40}{'Group 4':>9}{'pixels':>8}{'letters':>9}{'of Group 4':>12}{'s':>7}")
    encode_jbig2(np.ones((9, 9), bool))
    shares = []
    for name, black in pages(names):
        group4 = len(encode_group4(black))
        plain = len(all_pixels(1, black))
        began = time.perf_counter()
        whole = len(encode_jbig2(black))
        seconds = time.perf_counter() - began
        shares.append(whole / group4)
        print(
            f"{name[:39]:<40}{group4:>9}{plain / group4:>8.2f}{whole / plain:>9.2f}"
            f"{whole / group4:>12.2f}{seconds:>7.2f}"
        )
    print(f"{len(shares)} pages, mean {np.mean(shares):.3f}, middle {np.median(shares):.3f}")


def pages(names: list[str]) -> Iterator[tuple[str, NDArray[np.bool_]]]:
    """Each page of two tones once, true where there is ink: the rarer tone."""
    seen = set()
    with TemporaryDirectory() as folder:
        for name in names:
            for path in _pictures(Path(name), Path(folder)):
                with Image.open(path) as image:
                    for number, frame in enumerate(ImageSequence.Iterator(image)):
                        if frame.mode != "1" or frame.width * frame.height < _FEWEST_PX:
                            continue
                        ones = np.asarray(frame)
                        black = np.ascontiguousarray(~ones if ones.mean() > 0.5 else ones)
                        if (mark := hash(black.tobytes())) not in seen:
                            seen.add(mark)
                            yield f"{path.stem} {number}", black


def _pictures(path: Path, folder: Path) -> list[Path]:
    if path.suffix.lower() != ".pdf":
        return [path]
    command = ["pdfimages", "-png", str(path), str(folder / path.stem)]
    subprocess.run(command, check=False, capture_output=True)
    return sorted(folder.glob(f"{path.stem}-*.png"))


if __name__ == "__main__":
    main(sys.argv[1:])
