"""The document formats, in the order in which they are asked."""

from lighten.contract import Format
from lighten.formats import docx, odp, ods, odt, ora, pdf, picture, pptx, tiff, xlsx
from lighten.model.errors import UnreadableFileError, UnsupportedFileError
from lighten.model.source import Source

__all__ = ["FORMATS", "LAID_OUT_AS", "format_named", "format_of"]

FORMATS: tuple[Format, ...] = (
    *(pdf.FORMAT, picture.FORMAT, tiff.FORMAT, docx.FORMAT, odt.FORMAT, pptx.FORMAT, odp.FORMAT),
    *(xlsx.FORMAT, ods.FORMAT),
    ora.layered_drawings(picture.FORMAT),
    *(docx.LEGACY_FORMAT, pptx.LEGACY_FORMAT, xlsx.LEGACY_FORMAT),
)

# An office suite lays documents out to pages of this.
LAID_OUT_AS: Format = pdf.FORMAT


def format_of(source: Source) -> Format:
    """Return the format of a file by its content, not by its name.

    Raises: UnreadableFileError if it is empty or cannot be opened; UnsupportedFileError.
    """
    try:
        if source.path.stat().st_size == 0:
            raise UnreadableFileError(
                f"{source.name}: is empty (0 bytes). Fetch or save it again and try that file."
            )
        for format_ in FORMATS:
            if format_.recognises(source):
                return format_
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise UnreadableFileError(f"{source.name}: {reason}.") from error
    kinds = (kind.title for format_ in FORMATS for kind in format_.offers.kinds)
    titles = ", ".join(dict.fromkeys(kinds))
    raise UnsupportedFileError(
        f"{source.name}: is not a kind of file that can be made lighter here. Known: {titles}. "
        "Export it as one of these and try that."
    )


def format_named(name: str) -> Format:
    """The format of that name. Raises: KeyError."""
    for format_ in FORMATS:
        if format_.name == name:
            return format_
    raise KeyError(name)
