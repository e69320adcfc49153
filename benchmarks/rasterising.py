"""Pages to TIFF against the time that pdfium takes to draw them.

`python -m benchmarks.rasterising PDF`
"""

import sys
import tempfile
import time
from pathlib import Path

import pypdfium2

from lighten import PageColours, RasterTreatment, Source, keep_workers, rasterise

_PPI, _PAGES = 300, 100


def main(path: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        some = Path(folder) / "pages.pdf"
        count = _first_pages(path, some)
        seconds = _draw_all(some)
        print(f"pdfium draws {count} pages in {seconds:.1f} s")
        for colours in (PageColours.BITONAL, PageColours.GREY, PageColours.FEWEST):
            out = Path(folder) / f"{colours}.tif"
            with keep_workers():
                started = time.perf_counter()
                made = rasterise(Source(path=some), out, RasterTreatment(ppi=_PPI, colours=colours))
                taken = time.perf_counter() - started
            print(
                f"{colours}: {taken / seconds:.2f} of that, {taken / count:.2f} s and "
                f"{made.size_bytes / count / 1000:.1f} kB a page"
            )


def _first_pages(path: Path, out: Path) -> int:
    whole, some = pypdfium2.PdfDocument(path), pypdfium2.PdfDocument.new()
    count = min(_PAGES, len(whole))
    some.import_pages(whole, list(range(count)))
    some.save(out)
    some.close()
    whole.close()
    return count


def _draw_all(path: Path) -> float:
    document = pypdfium2.PdfDocument(path)
    started = time.perf_counter()
    for page in document:
        page.render(scale=_PPI / 72).to_numpy().sum()
    seconds = time.perf_counter() - started
    document.close()
    return seconds


if __name__ == "__main__":
    main(Path(sys.argv[1]))
