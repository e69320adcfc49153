"""Drawing of hidden layers is found by search before content is parsed."""

import unittest
from unittest import mock

import pikepdf

from lighten.formats.pdf.extras.layers import hidden_share, without_hidden

NAME = pikepdf.Name


class HiddenLayers(unittest.TestCase):
    """ISO 32000-1, 8.11.3.2: marked content of a group that is off is not drawn."""

    def setUp(self) -> None:
        self.pdf = pikepdf.new()
        self.off = self.pdf.make_indirect(pikepdf.Dictionary(Type=NAME.OCG, Name="Draft"))
        self.resources = pikepdf.Dictionary(Properties=pikepdf.Dictionary(MC0=self.off))

    def page(self, content: bytes) -> pikepdf.Dictionary:
        return pikepdf.Dictionary(Type=NAME.Page, Contents=self.pdf.make_stream(content))

    def share(self, content: bytes) -> float:
        return hidden_share(self.page(content), self.resources, {self.off.objgen})

    def test_white_space_is_no_hidden_drawing(self) -> None:
        self.assertEqual(self.share(b"/OC /Other BDC\n\n\n  0   0 m   9 9   l  S  EMC"), 0)

    def test_share_counts_what_the_layer_draws(self) -> None:
        # Its path stays, and paints nothing: 17 of 44 bytes are its marks.
        share = self.share(b"0 0 m 9 9 l S /OC /MC0 BDC 0 0 m 9 9 l S EMC")
        self.assertAlmostEqual(share, 17 / 44)

    def test_pages_that_share_resources_and_use_no_layer_are_not_parsed(self) -> None:
        page = self.page(b"0 0 m 9 9 l S")
        with mock.patch("pikepdf.parse_content_stream", side_effect=AssertionError):
            self.assertIsNone(without_hidden(page, self.resources, {self.off.objgen}))

    def test_names_with_escapes_are_followed(self) -> None:
        content = b"/#4fC /MC#30 BDC 0 0 m 9 9 l S EMC 0 0 m 9 9 l S"
        kept = without_hidden(self.page(content), self.resources, {self.off.objgen})
        self.assertEqual((kept or b"").count(b"S"), 1)
