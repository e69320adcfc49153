"""Pictures that a document links to and does not hold."""

import docx
from docx.opc.constants import RELATIONSHIP_TYPE
from docx.shared import Pt

from lighten import Source, weigh
from tests.builders import FolderCase
from tests.core.formats.odt.samples import frame, write_odt
from tests.core.formats.package_samples import picture_file

_LINK = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}link"
_EMBED = _LINK.replace("link", "embed")


class OutsidePictures(FolderCase):
    def linked(self, *addresses: str) -> Source:
        """A text document of python-docx whose pictures are shown from those addresses."""
        document = docx.Document()
        document.add_picture(picture_file(), width=Pt(144))
        for address in addresses:
            shape = document.add_picture(picture_file(), width=Pt(144))
            relation = document.part.relate_to(address, RELATIONSHIP_TYPE.IMAGE, is_external=True)
            blip = shape._inline.graphic.graphicData.pic.blipFill.blip
            del blip.attrib[_EMBED]
            blip.set(_LINK, relation)
        path = self.folder / "linked.docx"
        document.save(str(path))
        return Source(path=path)

    def test_a_document_says_how_many_lie_outside(self) -> None:
        source = self.linked("file:///share/net.jpg", "https://reeds.example/map.png")
        (remark,) = weigh(source).remarks
        self.assertIn("2 pictures lie outside this file", remark)

    def test_one_that_is_shown_twice_counts_once(self) -> None:
        source = self.linked("file:///share/net.jpg", "file:///share/net.jpg")
        (remark,) = weigh(source).remarks
        self.assertIn("1 picture lies outside this file", remark)

    def test_a_document_that_holds_all_says_nothing(self) -> None:
        self.assertEqual(weigh(self.linked()).remarks, ())

    def test_open_documents_say_it_too(self) -> None:
        picture = picture_file().getvalue()
        body = "".join(
            f"<text:p>{frame('photo.png', 4, 3).replace('Pictures/photo.png', address)}</text:p>"
            for address in (
                "Pictures/photo.png",
                "../Photos/net.jpg",
                "https://reeds.example/a.png",
            )
        )
        source = write_odt(self.folder / "a.odt", body, {"photo.png": picture})
        (remark,) = weigh(source).remarks
        self.assertIn("2 pictures lie outside this file", remark)
