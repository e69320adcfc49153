"""Recognition of formats."""

from lighten import FORMATS, Source
from lighten.model.errors import UnreadableFileError, UnsupportedFileError
from lighten.registry import format_named, format_of
from tests.builders import FolderCase


class Formats(FolderCase):
    def test_formats_are_found_by_name(self) -> None:
        for format_ in FORMATS:
            self.assertIs(format_named(format_.name), format_)
        with self.assertRaises(KeyError):
            format_named("none")

    def test_formats_of_unknown_or_empty_files_are_an_error(self) -> None:
        path = self.folder / "x.pdf"
        path.write_bytes(b"plain words")
        with self.assertRaisesRegex(UnsupportedFileError, "x.pdf.*Known: PDF"):
            format_of(Source(path=path))
        path.write_bytes(b"")
        with self.assertRaisesRegex(UnreadableFileError, "empty"):
            format_of(Source(path=path))
