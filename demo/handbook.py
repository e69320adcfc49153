"""The volunteers' handbook of the demo, as two kinds of program would leave it."""

import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from PIL import Image

from demo.scenery import camera_photo, chart

__all__ = ["make_handbook_docx", "make_handbook_odt"]

_CHAPTERS = (
    ("Nets at the north reed bed", "Furl every net when rain sets in, and write down the hour."),
    ("Rings and pliers", "Ring sizes hang on the board by the door; never guess from memory."),
    ("Holding small birds", "Two fingers at the neck, the back against your palm, no pressure."),
    ("Weighing and measuring", "Wing to the millimetre, weight to a tenth of a gram."),
    ("The log book", "One line a bird, in ink; a mistake is struck out and stays readable."),
    ("Boxes in the alder wood", "Knock first. Look once. Close gently and walk on."),
    ("Boots, boards and water", "The lower ride floods by noon after a wet night."),
    ("Visitors on open days", "Let them come to the table; the nets are not for showing."),
    ("When something goes wrong", "A bird that is not well goes into the warm box at once."),
)
_ADVICE = (
    "Start before light. The walk round all nets takes twenty minutes and is made every half hour.",
    "Bags are numbered; hang them in the order in which they came and empty them in that order.",
    "Whoever writes repeats the ring number aloud, and whoever rings says yes or says it again.",
)
_PHOTO_PX, _SHOWN_CM = (3200, 2133), 6.5
_EMU_PER_CM = 360_000
_WORD = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
_AUTHOR = "R. Fenner"


@dataclass(frozen=True, slots=True)
class _Chapter:
    title: str
    rule: str
    photo: bytes


@cache
def _chapters() -> tuple[_Chapter, ...]:
    """Drawn once for both kinds of file."""
    return tuple(_draw_chapters())


def _draw_chapters() -> Iterator[_Chapter]:
    for number, (title, rule) in enumerate(_CHAPTERS):
        photo = Image.fromarray(camera_photo(*_PHOTO_PX, seed=110 + number))
        exif = Image.Exif()
        exif[0x0110] = "Fenlight 3"
        exif.get_ifd(0x8769)[0x9003] = f"2026:04:{number + 10:02} 05:40:00"
        file = io.BytesIO()
        photo.save(file, "JPEG", quality=94, exif=exif)
        yield _Chapter(title, rule, file.getvalue())


def _bitmap() -> bytes:
    """Birds by month, as an old program keeps a drawing."""
    file = io.BytesIO()
    Image.fromarray(chart(1300, 700, seed=9)).save(file, "BMP")
    return file.getvalue()


def make_handbook_docx(path: Path) -> None:
    """Camera photos shown small, one of them cropped, a bitmap, notes and tracked changes."""
    import docx
    from docx.shared import Cm

    document = docx.Document()
    document.core_properties.title = "Volunteers' handbook"
    document.core_properties.author = "Harrow Fen Ringing Station"
    document.add_heading("Volunteers' handbook", level=0)
    for number, chapter in enumerate(_chapters()):
        document.add_heading(chapter.title, level=1)
        _paragraph(document, chapter.rule, number)
        shape = document.add_picture(io.BytesIO(chapter.photo), width=Cm(_SHOWN_CM))
        if number == 2:
            _crop(shape, left=30_000, right=22_000)
        for advice in _ADVICE:
            _paragraph(document, advice, number + 1)
    document.add_heading("Birds by month", level=1)
    document.add_picture(io.BytesIO(_bitmap()), width=Cm(12))
    _track_changes(document.add_paragraph("Ring sizes were "))
    noted = document.paragraphs[3]
    document.add_comment(noted.runs, text="Say which nets: the lower two.", author=_AUTHOR)
    document.save(str(path))


def _paragraph(document: Any, text: str, seed: int) -> None:
    """A run for each few words, each with the number of its editing session."""
    paragraph = document.add_paragraph()
    words = text.split()
    for start in range(0, len(words), 3):
        piece = " ".join(words[start : start + 3])
        run = paragraph.add_run(piece + (" " if start + 3 < len(words) else ""))
        run._r.set(f"{{{_WORD}}}rsidR", f"00{(seed * 7919 + start * 104729) % 0xFFFFFF:06X}")


def _crop(shape: Any, **sides: int) -> None:
    """Thousandths of a percent that the frame hides; the frame gets as much narrower."""
    from docx.oxml import OxmlElement

    fill = shape._inline.graphic.graphicData.pic.blipFill
    rectangle = OxmlElement("a:srcRect")
    for side, share in sides.items():
        rectangle.set(side[0], str(share))
    fill.insert(1, rectangle)
    shape.width = int(shape.width * (1 - sum(sides.values()) / 100_000))


def _track_changes(paragraph: Any) -> None:
    from docx.oxml import parse_xml

    who = f'w:author="{_AUTHOR}" w:date="2026-02-03T09:00:00Z"'
    for number, xml in enumerate(
        (
            "<w:del {0}><w:r><w:delText>guessed</w:delText></w:r></w:del>",
            "<w:ins {0}><w:r><w:t>read from the board</w:t></w:r></w:ins>",
        )
    ):
        attributes = f'xmlns:w="{_WORD}" w:id="{900 + number}" {who}'
        paragraph._p.append(parse_xml(xml.format(attributes)))


_PREFIXES = (
    *(("office", "office"), ("style", "style"), ("text", "text"), ("draw", "drawing")),
    *(("svg", "svg-compatible"), ("fo", "xsl-fo-compatible"), ("table", "table")),
)
_NAMESPACES = (
    " ".join(
        f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
        for prefix, name in _PREFIXES
    )
    + ' xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:dc="http://purl.org/dc/elements/1.1/"'
    + ' xmlns:officeooo="http://openoffice.org/2009/office"'
)
_MIMETYPE = "application/vnd.oasis.opendocument.text"


def make_handbook_odt(path: Path) -> None:
    """Make the handbook as OpenDocument: clipped instead of cropped, with notes and changes."""
    pictures = {f"photo-{number}.jpg": one.photo for number, one in enumerate(_chapters())}
    pictures["months.bmp"] = _bitmap()
    body = "".join(_odt_chapter(number) for number in range(len(_CHAPTERS)))
    body += '<text:h text:outline-level="1">Birds by month</text:h>'
    body += f"<text:p>{_odt_frame('months.bmp', 12, 6.46, 'plain')}</text:p>"
    # The photo is 84.67 x 56.44 cm at the dots of a screen: of that the frame shows a part.
    clip = '<style:graphic-properties fo:clip="rect(0cm, 18.63cm, 0cm, 25.4cm)"/>'
    styles = (
        '<style:style style:name="plain" style:family="graphic"><style:graphic-properties/>'
        f'</style:style><style:style style:name="cut" style:family="graphic">{clip}</style:style>'
    )
    styles += "".join(
        f'<style:style style:name="T{number}" style:family="text"><style:text-properties'
        f' officeooo:rsid="00{number * 7919:06x}"/></style:style>'
        for number in range(len(_CHAPTERS) * 4)
    )
    changes = (
        '<text:tracked-changes><text:changed-region text:id="c1"><text:insertion>'
        f"<office:change-info><dc:creator>{_AUTHOR}</dc:creator>"
        "<dc:date>2026-02-03T09:00:00</dc:date></office:change-info></text:insertion>"
        "</text:changed-region></text:tracked-changes>"
    )
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_NAMESPACES}'
        f' office:version="1.3"><office:automatic-styles>{styles}</office:automatic-styles>'
        f"<office:body><office:text>{changes}{body}</office:text></office:body>"
        "</office:document-content>"
    )
    common = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-styles {_NAMESPACES}'
        ' office:version="1.3"><office:styles/></office:document-styles>'
    )
    members = {
        "content.xml": content.encode(),
        "styles.xml": common.encode(),
        **{f"Pictures/{name}": data for name, data in pictures.items()},
    }
    _write_package(path, members)


def _odt_chapter(number: int) -> str:
    title, rule = _CHAPTERS[number]
    style = "cut" if number == 2 else "plain"
    width = _SHOWN_CM * (0.48 if number == 2 else 1)
    photo = _odt_frame(f"photo-{number}.jpg", width, _SHOWN_CM * _PHOTO_PX[1] / _PHOTO_PX[0], style)
    note = (
        '<text:note text:id="n1" text:note-class="footnote"><text:note-citation>1'
        "</text:note-citation><text:note-body><text:p>The lower two nets.</text:p>"
        "</text:note-body></text:note>"
        if number == 0
        else ""
    )
    changed = (
        ' <text:change-start text:change-id="c1"/>Read it twice.<text:change-end'
        ' text:change-id="c1"/>'
        if number == 1
        else ""
    )
    advice = "".join(
        f'<text:p><text:span text:style-name="T{number * 4 + at}">{text}</text:span></text:p>'
        for at, text in enumerate(_ADVICE)
    )
    return (
        f'<text:h text:outline-level="1">{title}</text:h><text:p>{rule}{note}{changed}</text:p>'
        f"<text:p>{photo}</text:p>{advice}"
    )


def _odt_frame(picture: str, width_cm: float, height_cm: float, style: str) -> str:
    return (
        f'<draw:frame draw:style-name="{style}" draw:name="{picture}" text:anchor-type="as-char"'
        f' svg:width="{width_cm:.2f}cm" svg:height="{height_cm:.2f}cm">'
        f'<draw:image xlink:href="Pictures/{picture}" xlink:type="simple"/></draw:frame>'
    )


def _write_package(path: Path, members: dict[str, bytes]) -> None:
    kinds = {"xml": "text/xml", "jpg": "image/jpeg", "bmp": "image/bmp"}
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{name}"'
        f' manifest:media-type="{kinds[name.rpartition(".")[2]]}"/>'
        for name in members
    )
    manifest = (
        '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest'
        ' xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"'
        f' manifest:version="1.3"><manifest:file-entry manifest:full-path="/"'
        f' manifest:media-type="{_MIMETYPE}"/>{entries}</manifest:manifest>'
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("mimetype", _MIMETYPE, zipfile.ZIP_STORED)
        for name, data in members.items():
            file.writestr(name, data)
        file.writestr("META-INF/manifest.xml", manifest)
