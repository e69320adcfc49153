"""Opening a PDF: what may go wrong, what must be known before anything else."""

import logging
import re
from collections.abc import Iterator
from contextlib import contextmanager

import pikepdf

from lighten.formats.pdf.objects.values import whole_number
from lighten.model.errors import LimitExceededError, PasswordNeededError, UnreadableFileError
from lighten.model.source import Source

__all__ = ["archive_standard", "is_signed", "locked", "open_pdf"]

_MOST_PAGES = 20_000
_MOST_OBJECTS = 3_000_000


@contextmanager
def open_pdf(source: Source) -> Iterator[pikepdf.Pdf]:
    """The file as objects; errors of the library leave as ours.

    Raises: PasswordNeededError, UnreadableFileError, LimitExceededError.
    """
    try:
        pdf = pikepdf.Pdf.open(source.path, password=source.password, suppress_warnings=True)
    except pikepdf.PasswordError as error:
        raise locked(source) from error
    except (pikepdf.PdfError, RuntimeError, ValueError) as error:
        raise damaged(source, error) from error
    with pdf:
        _check_size(source, pdf)
        try:
            yield pdf
        except pikepdf.PdfError as error:
            raise damaged(source, error) from error


def locked(source: Source) -> PasswordNeededError:
    """The error for a file that needs a password, or another than was given."""
    given = "the password is not right" if source.password else "it is locked by a password"
    return PasswordNeededError(f"{source.name}: {given}. Give the password and try again.")


def damaged(source: Source, error: Exception) -> UnreadableFileError:
    """The error for a file that cannot be read, without the library's own words for it."""
    reason = "it is empty" if source.path.stat().st_size == 0 else "it is damaged or cut short"
    cause = re.sub(r"^.*?: ", "", str(error).splitlines()[0]) if str(error) else ""
    detail = f" ({cause})" if cause and source.path.stat().st_size else ""
    return UnreadableFileError(
        f"{source.name}: cannot be read, {reason}{detail}. "
        "Save or scan it again from where it came, and try that file."
    )


def is_signed(pdf: pikepdf.Pdf) -> bool:
    """A change would end a signature, or rights that a signature grants.

    Source: ISO 32000-1, 12.7.2 (SigFlags), 12.8.4 (Perms).
    """
    form = pdf.Root.get("/AcroForm")
    if isinstance(form, pikepdf.Dictionary):
        if whole_number(form.get("/SigFlags")) & 2:
            return True
        fields = form.get("/Fields")
        if isinstance(fields, pikepdf.Array):
            return any(_is_signature(field) for field in fields)
    return "/Perms" in pdf.Root


def archive_standard(pdf: pikepdf.Pdf) -> str:
    """Return "PDF/A-2b" or the like, as the file's metadata claim; "" without a claim.

    Source: ISO 19005-1, 6.7.11 (pdfaid:part and pdfaid:conformance), which 19005-4 does without.
    """
    if not isinstance(pdf.Root.get("/Metadata"), pikepdf.Stream):
        return ""
    # A damaged packet claims nothing, and needs no report.
    logging.getLogger("pikepdf").setLevel(logging.CRITICAL)
    try:
        metadata = pdf.open_metadata()  # read only: it is written back by its context alone
        part, level = metadata.get("pdfaid:part"), metadata.get("pdfaid:conformance", "")
    except (pikepdf.PdfError, ValueError, SyntaxError):
        return ""
    return f"PDF/A-{part}{level.lower()}" if part else ""


def _is_signature(field: pikepdf.Object, depth: int = 0) -> bool:
    """The field, or one below it, holds a signature."""
    if not isinstance(field, pikepdf.Dictionary) or depth > 30:
        return False
    if field.get("/FT") == "/Sig" and "/V" in field:
        return True
    kids = field.get("/Kids")
    return isinstance(kids, pikepdf.Array) and any(_is_signature(kid, depth + 1) for kid in kids)


def _check_size(source: Source, pdf: pikepdf.Pdf) -> None:
    if len(pdf.objects) > _MOST_OBJECTS:
        raise LimitExceededError(f"{source.name}: more than {_MOST_OBJECTS:,} objects in one file.")
    try:
        pages = len(pdf.pages)
    except (pikepdf.PdfError, RuntimeError, ValueError) as error:
        raise damaged(source, error) from error
    if pages == 0:
        raise UnreadableFileError(
            f"{source.name}: has no page that can be found. Open it in the program that made it "
            "and save it again."
        )
    if pages > _MOST_PAGES:
        raise LimitExceededError(
            f"{source.name}: {pages:,} pages, at most {_MOST_PAGES:,} are taken. Split it first."
        )
