"""Messages as Python's email package reads them, to the byte.

Source: RFC 5322; RFC 2045, 6.8; RFC 2183.
"""

from email import message_from_bytes, policy
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from lighten.messages import Attachment, plan_messages
from tests.builders import FolderCase

_TEXT = "Two papers of the season.\nReport: 12.0 MB -> 3.1 MB, hardly any difference.\n"


class Messages(FolderCase):
    def file(self, name: str, size_bytes: int) -> Attachment:
        path = self.folder / f"{len(list(self.folder.iterdir()))}"
        path.write_bytes(bytes(number * 7 % 256 for number in range(size_bytes)))
        return Attachment(name=name, path=path)

    def test_messages_hold_every_file_byte_for_byte(self) -> None:
        files = [self.file("Report, lighter.pdf", 5_000), self.file("Übersicht ‘24’.xlsx", 333)]
        (message,) = plan_messages(files, "Season’s papers", _TEXT)
        read = message_from_bytes(message.as_bytes(), policy=policy.default)
        self.assertEqual(read["Subject"], "Season’s papers")
        body = read.get_body()
        assert body is not None
        self.assertEqual(body.get_content().replace("\r\n", "\n"), _TEXT)
        attached = list(read.iter_attachments())
        for one, part in zip(files, attached, strict=True):
            self.assertEqual(part.get_filename(), one.name)
            self.assertEqual(part.get_content(), one.path.read_bytes())
            self.assertEqual(part.get_content_disposition(), "attachment")
        self.assertEqual(attached[0].get_content_type(), "application/pdf")

    @settings(max_examples=30, deadline=None)
    @given(
        sizes=st.lists(st.integers(0, 900), min_size=1, max_size=6),
        subject=st.text(st.characters(codec="utf-8", exclude_categories=["C", "Z"]), max_size=60),
        most_bytes=st.none() | st.integers(600, 4_000),
    )
    def test_messages_weigh_what_they_say_and_are_split_where_they_must(
        self, sizes: list[int], subject: str, most_bytes: int | None
    ) -> None:
        files = [self.file(f"{number}.pdf", size) for number, size in enumerate(sizes)]
        messages = plan_messages(files, subject, _TEXT, most_bytes)
        for message in messages:
            self.assertEqual(message.size_bytes, len(message.as_bytes()))
            self.assertTrue(all(len(line) <= 998 for line in message.as_bytes().split(b"\r\n")))
            if most_bytes is not None and len(message.attachments) > 1:
                self.assertLessEqual(message.size_bytes, most_bytes)
        carried = [one for message in messages for one in message.attachments]
        self.assertEqual(carried, files)
        for path in self.folder.iterdir():
            path.unlink()

    def test_several_are_numbered(self) -> None:
        files = [self.file(f"{number}.pdf", 2_000) for number in range(3)]
        subjects = [one.subject for one in plan_messages(files, "Papers", _TEXT, 4_000)]
        self.assertEqual(subjects, ["Papers (1 of 3)", "Papers (2 of 3)", "Papers (3 of 3)"])

    def test_the_same_twice(self) -> None:
        files = [self.file("a.pdf", 100)]
        one, other = (plan_messages(files, "Papers", _TEXT)[0].as_bytes() for _ in range(2))
        self.assertEqual(one, other)
        self.assertIsInstance(files[0].path, Path)
