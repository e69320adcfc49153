"""A small OpenDocument presentation, piece by piece as ISO/IEC 26300 has it."""

from pathlib import Path

from lighten import Source
from tests.core.formats.odt.samples import frame, write_odt
from tests.core.formats.package_samples import picture_file

__all__ = ["talk"]

_FILM = (
    '<draw:frame svg:width="8cm" svg:height="6cm"><draw:plugin xlink:href="Media/flight.mp4" '
    'draw:mime-type="application/vnd.sun.star.media"/>'
    '<draw:image xlink:href="Pictures/still.png"/></draw:frame>'
)


def talk(path: Path) -> Source:
    """Two slides with notes: a photo, and a film with its still picture."""
    notes = "<presentation:notes><draw:frame><draw:text-box><text:p>Thank the volunteers."
    notes += "</text:p></draw:text-box></draw:frame></presentation:notes>"
    first, second = (
        f'<draw:page draw:name="page{number}" draw:style-name="dp1"><draw:frame '
        f'svg:width="10cm" svg:height="2cm"><draw:text-box><text:p>{title}</text:p>'
        f"</draw:text-box></draw:frame>{more}{notes}</draw:page>"
        for number, title, more in (
            (1, "Nets at dawn", frame("a.jpg", 7.62, 5.08)),
            (2, "Flight", _FILM),
        )
    )
    pictures = {"a.jpg": picture_file().read(), "still.png": picture_file("PNG").read()}
    return write_odt(
        path,
        first + second,
        pictures,
        automatic='<style:style style:name="dp1" style:family="drawing-page"/>',
        more={"Media/flight.mp4": bytes(range(256)) * 40},
        kind="presentation",
    )
