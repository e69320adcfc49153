"""The document formats, in the order in which they are asked."""

from lighten.contract import Format, Source
from lighten.errors import UnreadableFileError, UnsupportedFileError
from lighten.formats import pdf

__all__ = ["FORMATS", "format_named", "format_of"]

FORMATS: tuple[Format, ...] = (pdf.FORMAT,)

_HEAD_BYTES = 4096


def format_of(source: Source) -> Format:
    """The format of a file, told from its content and not from its name.

    Raises: UnreadableFileError if it is empty or cannot be opened; UnsupportedFileError.
    """
    try:
        with source.path.open("rb") as file:
            head = file.read(_HEAD_BYTES)
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise UnreadableFileError(f"{source.name}: {reason}.") from error
    if not head:
        raise UnreadableFileError(
            f"{source.name}: is empty (0 bytes). Fetch or save it again and try that file."
        )
    for one in FORMATS:
        if one.recognises(head):
            return one
    known = ", ".join(one.name.upper() for one in FORMATS)
    raise UnsupportedFileError(
        f"{source.name}: is not a kind of file that can be made lighter here. Known: {known}. "
        "Export it as one of these and try that."
    )


def format_named(name: str) -> Format:
    """The format of that name. Raises: KeyError."""
    for one in FORMATS:
        if one.name == name:
            return one
    raise KeyError(name)
