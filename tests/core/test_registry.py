"""What every format must keep."""

from lighten import FORMATS, Source
from lighten.errors import UnreadableFileError, UnsupportedFileError
from lighten.registry import format_named, format_of
from tests.builders import FolderCase
from tests.core.formats.pdf.samples import report

SAMPLES = {"pdf": report}


class Formats(FolderCase):
    def test_recognise_their_own_sample_and_no_other(self) -> None:
        for format_ in FORMATS:
            for name, build in SAMPLES.items():
                source = build(self.folder / f"{format_.name}-{name}")
                head = source.path.read_bytes()[:4096]
                self.assertEqual(format_.recognises(head), format_.name == name)

    def test_are_found_by_name(self) -> None:
        for format_ in FORMATS:
            self.assertIs(format_named(format_.name), format_)
        with self.assertRaises(KeyError):
            format_named("none")

    def test_of_unknown_or_empty_files_are_an_error(self) -> None:
        path = self.folder / "x.pdf"
        path.write_bytes(b"plain words")
        with self.assertRaisesRegex(UnsupportedFileError, "x.pdf.*Known: PDF"):
            format_of(Source(path=path))
        path.write_bytes(b"")
        with self.assertRaisesRegex(UnreadableFileError, "empty"):
            format_of(Source(path=path))

    def test_damaged_input_is_an_error_of_ours(self) -> None:
        for format_ in FORMATS:
            whole = SAMPLES[format_.name](self.folder / "whole").path.read_bytes()
            path = self.folder / "cut"
            path.write_bytes(whole[:300])
            with self.assertRaises(UnreadableFileError):
                format_.weigh(Source(path=path), lambda _share: None)
