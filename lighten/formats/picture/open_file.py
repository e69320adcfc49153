"""Opening a picture file: what may go wrong, what must be known before anything else."""

from lighten.model.errors import LimitExceededError, UnreadableFileError
from lighten.model.source import Source
from lighten.pictures.files import BadPictureError, PictureFile, read_picture_file

__all__ = ["PICTURE_ID", "open_picture"]

PICTURE_ID = "picture"
_MOST_BYTES = 500_000_000
# At three bytes each, with a copy to work on, they stay within what a task may take.
_MOST_PIXELS = 120_000_000


def open_picture(source: Source) -> PictureFile:
    """Open a picture file: its blocks and the facts in them.

    Raises: UnreadableFileError if damaged or cut short; LimitExceededError.
    """
    try:
        if source.path.stat().st_size > _MOST_BYTES:
            raise LimitExceededError(
                f"{source.name}: more than {_MOST_BYTES // 1_000_000} MB for one picture."
            )
        file = read_picture_file(source.path.read_bytes())
    except OSError as error:
        reason = error.strerror or "it cannot be opened"
        raise UnreadableFileError(f"{source.name}: {reason}.") from error
    except (BadPictureError, KeyError, IndexError, ValueError) as error:
        detail = error.message if isinstance(error, BadPictureError) else "It is damaged."
        raise UnreadableFileError(
            f"{source.name}: cannot be read. {detail} Fetch or save it again, and try that file."
        ) from error
    if file.width_px * file.height_px > _MOST_PIXELS:
        raise LimitExceededError(
            f"{source.name}: {file.width_px:,} x {file.height_px:,} pixels, more than can be "
            f"worked on safely ({_MOST_PIXELS // 1_000_000} million). Make it smaller where it "
            "came from."
        )
    return file
