"""Limits against RFC 2045 as Python's own email package carries it out."""

import unittest
from email.message import EmailMessage
from email.policy import SMTP

from hypothesis import given
from hypothesis import strategies as st

from lighten import Carrier, Limit, message_bytes
from lighten.model.limits import file_bytes_in_message, read_limit


def base64_bytes_of_mail(size: int) -> int:
    """The encoded attachment of a real message, without headers, with the CRLF of its last line."""
    message = EmailMessage(policy=SMTP)
    message.add_attachment(b"\x5a" * size, maintype="application", subtype="pdf")
    (attachment,) = message.iter_attachments()
    body = attachment.as_bytes().split(b"\r\n\r\n", 1)[1]
    return len(body.rstrip(b"\r\n")) + (2 if size else 0)


class MessageGrowth(unittest.TestCase):
    def test_message_growth_is_what_the_email_package_writes(self) -> None:
        for size in (1, 2, 3, 56, 57, 58, 114, 1000, 12_345, 300_000):
            with self.subTest(size=size):
                self.assertEqual(message_bytes(size), base64_bytes_of_mail(size))

    def test_five_megabytes_carry_about_3_65(self) -> None:
        # RFC 2045, 6.8: 57 bytes become a line of 78.
        limit = Limit(size_bytes=5_000_000, carrier=Carrier.MESSAGE)
        self.assertAlmostEqual(limit.file_bytes / 1e6, 3.65, delta=0.01)

    @given(st.integers(min_value=0, max_value=10**9))
    def test_the_heaviest_file_fits_and_three_bytes_more_do_not(self, limit: int) -> None:
        heaviest = file_bytes_in_message(limit)
        self.assertLessEqual(message_bytes(heaviest), limit)
        self.assertGreater(message_bytes(heaviest + 3), limit)


class Limits(unittest.TestCase):
    def test_limits_as_a_file_counts_the_file(self) -> None:
        self.assertEqual(Limit(size_bytes=5_000_000).file_bytes, 5_000_000)

    def test_limits_of_nothing_is_refused(self) -> None:
        with self.assertRaises(ValueError):
            Limit(size_bytes=0)


class Written(unittest.TestCase):
    def test_limits_as_people_write_them(self) -> None:
        # IEC 80000-13: k and M count by thousands, Ki and Mi by 1024.
        cases = {
            "5MB": (5_000_000, Carrier.FILE),
            "800 kB": (800_000, Carrier.FILE),
            "2MiB": (2 * 1024 * 1024, Carrier.FILE),
            "1.5mb:message": (1_500_000, Carrier.MESSAGE),
            "1GB:file": (1_000_000_000, Carrier.FILE),
            "512b": (512, Carrier.FILE),
        }
        for text, (size_bytes, carrier) in cases.items():
            with self.subTest(text=text):
                self.assertEqual(read_limit(text), Limit(size_bytes=size_bytes, carrier=carrier))

    def test_malformed_limits_are_refused(self) -> None:
        for text in ("", "5", "MB", "-5MB", "5 TB", "5MB:letter", "0kB", "0.0001kB", "5,5MB"):
            with self.subTest(text=text), self.assertRaises(ValueError):
                read_limit(text)
