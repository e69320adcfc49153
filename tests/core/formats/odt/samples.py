"""Small OpenDocument texts, piece by piece as ISO/IEC 26300 has them."""

import zipfile
from collections.abc import Mapping
from pathlib import Path

from lighten import Source
from tests.core.formats.package_samples import picture_file

__all__ = ["frame", "handbook", "write_odt"]

MIMETYPE = "application/vnd.oasis.opendocument.text"
_NAMESPACES = " ".join(
    f'xmlns:{prefix}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
    for prefix, name in (
        *(("office", "office"), ("style", "style"), ("text", "text"), ("draw", "drawing")),
        *(("table", "table"), ("svg", "svg-compatible"), ("fo", "xsl-fo-compatible")),
        *(("config", "config"), ("meta", "meta"), ("presentation", "presentation")),
    )
)
_NAMESPACES += (
    ' xmlns:xlink="http://www.w3.org/1999/xlink"'
    ' xmlns:officeooo="http://openoffice.org/2009/office"'
)


def frame(picture: str, width_cm: float, height_cm: float, style: str = "gr1") -> str:
    return (
        f'<draw:frame draw:style-name="{style}"'
        f' svg:width="{width_cm}cm" svg:height="{height_cm}cm">'
        f'<draw:image xlink:href="Pictures/{picture}" xlink:type="simple"/></draw:frame>'
    )


def write_odt(
    path: Path,
    body: str,
    pictures: Mapping[str, bytes],
    *,
    automatic: str = "",
    common: str = "",
    more: Mapping[str, bytes] | None = None,
    mimetype: str = MIMETYPE,
    kind: str = "text",
) -> Source:
    """A package with that body, those automatic and common styles, and further members.

    kind: of body, as "text"; the type told is that of the kind, unless `mimetype` says another.
    """
    if kind != "text":
        mimetype = f"application/vnd.oasis.opendocument.{kind}"
    content = (
        f'<office:document-content {_NAMESPACES} office:version="1.3">'
        f"<office:automatic-styles>{automatic}</office:automatic-styles>"
        f"<office:body><office:{kind}>{body}</office:{kind}></office:body>"
        "</office:document-content>"
    )
    styles = (
        f'<office:document-styles {_NAMESPACES} office:version="1.3">'
        f"<office:styles>{common}</office:styles></office:document-styles>"
    )
    members = {
        "content.xml": content.encode(),
        "styles.xml": styles.encode(),
        **{f"Pictures/{name}": data for name, data in pictures.items()},
        **(more or {}),
    }
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{name}" manifest:media-type="{_type(name)}"/>'
        for name in members
    )
    members["META-INF/manifest.xml"] = (
        '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
        f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{mimetype}"/>'
        f"{entries}</manifest:manifest>"
    ).encode()
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("mimetype", mimetype, zipfile.ZIP_STORED)
        for name, data in members.items():
            file.writestr(name, data)
    return Source(path=path)


def _type(name: str) -> str:
    kinds = {"xml": "text/xml", "png": "image/png", "jpg": "image/jpeg", "bmp": "image/bmp"}
    return kinds.get(name.rpartition(".")[2], "")


def handbook(path: Path) -> Source:
    """A heading, words in spans, a photo shown small, the same photo clipped, a BMP."""
    automatic = (
        '<style:style style:name="gr1" style:family="graphic">'
        '<style:graphic-properties fo:clip="rect(0cm, 0cm, 0cm, 0cm)"/></style:style>'
        # The photo has no dots of its own: 900 pixels are 23.81 cm at those of a screen.
        '<style:style style:name="gr2" style:family="graphic"><style:graphic-properties'
        ' fo:clip="rect(0cm, 5.9531cm, 0cm, 5.9531cm)"/></style:style>'
        + "".join(
            f'<style:style style:name="T{number}" style:family="text">'
            f'<style:text-properties fo:font-weight="bold" officeooo:rsid="0001{number:04x}"/>'
            "</style:style>"
            for number in range(1, 30)
        )
        + '<style:style style:name="T99" style:family="text">'
        '<style:text-properties officeooo:rsid="00019999"/></style:style>'
    )
    rounds = "".join(
        f'<text:p>Round <text:span text:style-name="T{number}">{number}</text:span>: '
        '<text:span text:style-name="T99">walk the nets</text:span>, note the time.</text:p>'
        for number in range(1, 30)
    )
    body = (
        "<text:h>Nets at the north reed bed</text:h>"
        f"<text:p>{frame('photo.jpg', 6, 4)}</text:p>"
        "<text:h>Rings</text:h>"
        f"<text:p>{frame('bitmap.bmp', 4, 2.667)}</text:p>"
        f"<text:p>{frame('photo.jpg', 2, 2.667, 'gr2')}</text:p>{rounds}"
    )
    pictures = {
        "photo.jpg": picture_file().read(),
        "bitmap.bmp": picture_file("BMP", 480, 320).read(),
    }
    return write_odt(path, body, pictures, automatic=automatic)
