"""The demo's talk: slides with photos shown small, a film, and layouts that no slide uses."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pptx
from PIL import Image
from pptx.util import Cm, Pt

from demo.scenery import camera_photo, chart

__all__ = ["make_talk_odp", "make_talk_pptx"]

_SLIDES = (
    ("The reed beds of Harrow Fen", "A season in pictures"),
    ("Nets at first light", "Fourteen nets, opened on every still morning."),
    ("Who lives here", "Ten kinds in most weeks, and a kingfisher twice."),
    ("Water and weather", "The lower ride stood under water until May."),
    ("Nest boxes", "Forty boxes, thirty-one of them taken."),
    ("What comes next", "A new hide, and more mornings."),
)
_NOTE = "Say who counted, and thank the volunteers. Then: {0}."
# No camera made it: a player finds nothing in it to play.
_FILM = b"\0\0\0\x18ftypmp42\0\0\0\0mp42isom" + np.random.default_rng(5).bytes(2_400_000)
_NAMESPACES = " ".join(
    f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
    for prefix, name in (
        *(("office", "office"), ("draw", "drawing"), ("text", "text"), ("style", "style")),
        *(("svg", "svg-compatible"), ("presentation", "presentation"), ("fo", "xsl-fo-compatible")),
    )
)
_KIND = "application/vnd.oasis.opendocument.presentation"


def make_talk_pptx(path: Path) -> None:
    """Photos of a camera's size, each shown in a corner of its slide; a film on the last."""
    deck = pptx.Presentation()
    deck.slide_width, deck.slide_height = Cm(33.867), Cm(19.05)
    for number, (title, words) in enumerate(_SLIDES):
        slide = deck.slides.add_slide(deck.slide_layouts[0 if number == 0 else 5])
        slide.shapes.title.text = title
        box = slide.shapes.add_textbox(Cm(2), Cm(5), Cm(14), Cm(3))
        box.text_frame.text = words
        box.text_frame.paragraphs[0].font.size = Pt(20)
        slide.notes_slide.notes_text_frame.text = _NOTE.format(title.lower())
        picture = _drawing(number) if number == 3 else _photo(number)
        slide.shapes.add_picture(picture, Cm(19), Cm(5), width=Cm(12))
        if number == len(_SLIDES) - 1:
            slide.shapes.add_movie(
                io.BytesIO(_FILM),
                *(Cm(2), Cm(9), Cm(12), Cm(8)),
                poster_frame_image=_photo(90, (800, 533)),
                mime_type="video/mp4",
            )
    deck.save(str(path))


def make_talk_odp(path: Path) -> None:
    """The first slides of the same talk, as another program saves them."""
    pages, pictures = [], {}
    for number, (title, words) in enumerate(_SLIDES[:4]):
        pictures[f"Pictures/{number}.jpg"] = _photo(number).getvalue()
        pages.append(
            f'<draw:page draw:name="page{number + 1}" draw:master-page-name="Default">'
            f"{_text(title, 2, 1.5)}{_text(words, 2, 6)}"
            '<draw:frame svg:x="15cm" svg:y="5cm" svg:width="12cm" svg:height="8cm">'
            f'<draw:image xlink:href="Pictures/{number}.jpg"/></draw:frame>'
            "<presentation:notes><draw:frame><draw:text-box><text:p>"
            f"{_NOTE.format(title.lower())}</text:p></draw:text-box></draw:frame>"
            "</presentation:notes></draw:page>"
        )
    members = {
        "content.xml": f"<office:document-content {_NAMESPACES} "
        'xmlns:xlink="http://www.w3.org/1999/xlink" office:version="1.3"><office:body>'
        f"<office:presentation>{''.join(pages)}</office:presentation></office:body>"
        "</office:document-content>",
        "styles.xml": f'<office:document-styles {_NAMESPACES} office:version="1.3">'
        '<office:automatic-styles><style:page-layout style:name="PM1">'
        '<style:page-layout-properties fo:page-width="28cm" fo:page-height="15.75cm"/>'
        "</style:page-layout></office:automatic-styles><office:master-styles>"
        '<style:master-page style:name="Default" style:page-layout-name="PM1"/>'
        "</office:master-styles></office:document-styles>",
    }
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{name}" manifest:media-type="{media_type}"/>'
        for name, media_type in (
            ("/", _KIND),
            *((name, "text/xml") for name in members),
            *((name, "image/jpeg") for name in pictures),
        )
    )
    manifest = (
        '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" '
        f'manifest:version="1.3">{entries}</manifest:manifest>'
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("mimetype", _KIND, zipfile.ZIP_STORED)
        for name, content in (*members.items(), ("META-INF/manifest.xml", manifest)):
            file.writestr(name, content)
        for name, picture in pictures.items():
            file.writestr(name, picture)


def _text(words: str, left: float, top: float) -> str:
    return (
        f'<draw:frame svg:x="{left}cm" svg:y="{top}cm" svg:width="12cm" svg:height="3cm">'
        f"<draw:text-box><text:p>{words}</text:p></draw:text-box></draw:frame>"
    )


def _photo(number: int, size: tuple[int, int] = (2600, 1733)) -> io.BytesIO:
    file = io.BytesIO()
    Image.fromarray(camera_photo(*size, seed=number + 60)).save(file, "JPEG", quality=93)
    file.seek(0)
    return file


def _drawing(number: int) -> io.BytesIO:
    file = io.BytesIO()
    Image.fromarray(chart(1500, 1000, seed=number)).save(file, "PNG")
    file.seek(0)
    return file
