"""A PDF written as tightly as its level allows."""

import warnings
from pathlib import Path

import pikepdf

from lighten.formats.pdf.objects.open_file import archive_standard
from lighten.model.errors import UnsoundCopyError

__all__ = ["save_pdf"]


def save_pdf(pdf: pikepdf.Pdf, out: Path, *, is_linearized: bool = False) -> None:
    """Write `pdf` to `out`; streams are written as they are.

    Raises: UnsoundCopyError if the library cannot read what it wrote.
    """
    # A trailer that was put together again may lack it, and then object streams go without a root.
    if "/Size" not in pdf.trailer:
        pdf.trailer["/Size"] = len(pdf.objects) + 1
    # The library's hint tables do not count objects in object streams as its checker does
    # (seen with outlines: qpdf 12.4 writing, 11.3 checking); without them both agree.
    has_object_streams = not (archive_standard(pdf).startswith("PDF/A-1") or is_linearized)
    pikepdf.settings.set_flate_compression_level(9)
    with warnings.catch_warnings():
        # About form widgets that were already on their own in the original.
        warnings.simplefilter("ignore", pikepdf.PageCopyWarning)
        pdf.save(
            out,
            object_stream_mode=(
                pikepdf.ObjectStreamMode.generate
                if has_object_streams  # ISO 19005-1, 6.1.4: part 1 is PDF 1.4, which has none
                else pikepdf.ObjectStreamMode.disable
            ),
            linearize=is_linearized,
            # The library would rewrite descriptions, and empty those it cannot read.
            fix_metadata_version=False,
            # Encryption draws random numbers; without it the same plan gives the same bytes.
            deterministic_id=not pdf.is_encrypted,
            encryption=True if pdf.is_encrypted else None,
        )
    if not pdf.is_encrypted:
        _check(out, len(pdf.pages))


def _check(out: Path, pages: int) -> None:
    try:
        with pikepdf.Pdf.open(out, suppress_warnings=True) as written:
            is_sound = len(written.pages) == pages
    except (pikepdf.PdfError, RuntimeError, ValueError):
        is_sound = False
    if not is_sound:
        raise UnsoundCopyError(
            "What was written cannot be opened again: the file is damaged inside. Open it in the "
            "program that made it, save it again, and try that."
        )
