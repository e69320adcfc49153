"""Time and memory on a PDF of 2,700 pictures: `python -m benchmarks.many`."""

import sys
import tempfile
from pathlib import Path

from benchmarks.files import make_picture_book
from benchmarks.run import measure


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        book, light = Path(folder) / "book.pdf", Path(folder) / "out"
        print("making the file of 900 pages and 2,700 pictures ...")
        make_picture_book(book, pages=900, ppis=(100, 130, 160))
        command = Path(sys.executable).with_name("green-satchel")
        weighed = measure([command, "weigh", book])
        lightened = measure([command, "lighten", book, "--preset", "Feather", "--out", light])
        print(f"file                 {book.stat().st_size:>12,} bytes")
        print(f"copy                 {(light / 'book-light.pdf').stat().st_size:>12,} bytes")
        print(f"weigh                {weighed.seconds:.1f} s (under 15), {weighed.peak_mb:.0f} MB")
        print(f"copy and proof       {lightened.seconds:.1f} s")
        print(f"peak memory          {lightened.peak_mb:.0f} MB (under 700)")


if __name__ == "__main__":
    main()
