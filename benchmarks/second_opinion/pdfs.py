"""PDFs, by qpdf, poppler and pypdf."""

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pypdf
from PIL import Image

from benchmarks.second_opinion.findings import Pixels, block_step, differences, run

__all__ = ["compare_pdfs"]

_DPI = 60
_MOST_STEP = 24.0
_SOUND, _WARNED = 0, 3
_LISTS = ("annotations", "fields", "outline", "attachments", "sizes")


def compare_pdfs(original: Path, copy: Path) -> Iterator[str]:
    """Yield what the copy has lost: structure, words, what pages show, embedded fonts."""
    ranks = {_SOUND: 0, _WARNED: 1}
    checks = [ranks.get(run("qpdf", "--check", path).code, 2) for path in (original, copy)]
    if checks[1] > checks[0]:
        yield "qpdf finds faults that the original does not have"
    words = [run("pdftotext", path, "-").text.split() for path in (original, copy)]
    yield from differences("words", *words)
    yield from _facts_lost(original, copy)
    embedded = [_embedded(path) for path in (original, copy)]
    if gone := embedded[0] - embedded[1]:
        yield f"fonts are no longer embedded: {sorted(gone)[:4]}"
    yield from _pages_changed(original, copy)


def _facts_lost(original: Path, copy: Path) -> Iterator[str]:
    try:
        before = _facts(original)
    except Exception:
        return  # what pypdf cannot read of the original says nothing of the copy
    try:
        after = _facts(copy)
    except Exception as error:
        yield f"pypdf cannot read the copy ({type(error).__name__})"
        return
    for what in _LISTS:
        yield from differences(what, before[what], after[what])
    if lost := before["root"] - after["root"]:
        yield f"entries of the catalogue are gone: {sorted(lost)}"


def _facts(path: Path) -> dict[str, Any]:
    reader = pypdf.PdfReader(path, strict=False)
    if reader.is_encrypted:
        reader.decrypt("")
    root = reader.root_object
    kept = ("/StructTreeRoot", "/Lang", "/MarkInfo", "/AcroForm", "/OCProperties", "/OutputIntents")
    return {
        "sizes": [
            (*(round(float(side), 1) for side in page.cropbox), page.rotation % 360)
            for page in reader.pages
        ],
        "annotations": [
            (number, str(note.get_object().get("/Subtype")), _uri(note.get_object()))
            for number, page in enumerate(reader.pages)
            for note in page.get("/Annots") or []
        ],
        "fields": [
            (name, str(field.get("/FT")), str(field.get("/V"))[:80])
            for name, field in (reader.get_fields() or {}).items()
            if not hasattr(field.get("/V"), "get_data")
        ],
        "outline": list(_titles(reader.outline)),
        "attachments": sorted(reader.attachments),
        "root": {key for key in kept if key in root},
    }


def _uri(note: Any) -> str:
    action = note.get("/A")
    action = action.get_object() if action is not None else None
    return str(action.get("/URI", "")) if isinstance(action, dict) else ""


def _titles(entries: list[Any]) -> Iterator[str]:
    for entry in entries:
        if isinstance(entry, list):
            yield from _titles(entry)
        else:
            yield str(entry.title)


def _embedded(path: Path) -> set[str]:
    lines = run("pdffonts", path).text.splitlines()[2:]
    names = set()
    for line in lines:
        words = line.split()
        # Name, type and encoding; then whether it is embedded, a subset, and leads to Unicode.
        flags = [word for word in words if word in ("yes", "no")]
        if words and flags[:1] == ["yes"]:
            names.add(words[0].rpartition("+")[2])
    return names


def _pages_changed(original: Path, copy: Path) -> Iterator[str]:
    with tempfile.TemporaryDirectory() as folder:
        drawn = [_drawn(path, Path(folder) / name) for name, path in (("a", original), ("b", copy))]
    for page, before in drawn[0].items():
        after = drawn[1].get(page)
        if after is None:
            yield f"page {page} is no longer drawn by poppler"
        elif before.shape != after.shape:
            yield f"page {page} has another size"
        elif (step := block_step(before, after)) > _MOST_STEP:
            yield f"page {page} looks different: a block by {step:.0f} of 255"


def _drawn(path: Path, prefix: Path) -> dict[str, Pixels]:
    """The first three pages, as poppler draws them."""
    run("pdftoppm", "-r", str(_DPI), "-l", "3", path, prefix)
    return {
        file.stem.rpartition("-")[2]: np.asarray(Image.open(file).convert("RGB"), np.int16)
        for file in sorted(prefix.parent.glob(f"{prefix.name}-*.ppm"))
    }
