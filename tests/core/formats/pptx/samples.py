"""Small presentations, written by python-pptx as a program of others would have."""

import io
from pathlib import Path
from typing import Any

import pptx
from pptx.util import Pt

from lighten import Source
from tests.core.formats.package_samples import picture_file

__all__ = ["saved", "talk"]


def talk(path: Path) -> Source:
    """Three slides: a title, a photo shown small and larger, a film, speaker notes, a table."""
    deck = pptx.Presentation()
    first = deck.slides.add_slide(deck.slide_layouts[0])
    first.shapes.title.text = "Reed beds"
    first.notes_slide.notes_text_frame.text = "Thank the volunteers."
    photo = picture_file()
    second = deck.slides.add_slide(deck.slide_layouts[5])
    second.shapes.title.text = "Nets at dawn"
    second.shapes.add_picture(photo, Pt(72), Pt(100), width=Pt(144))
    table = second.shapes.add_table(2, 2, Pt(300), Pt(100), Pt(200), Pt(60)).table
    table.cell(0, 0).text = "Species"
    third = deck.slides.add_slide(deck.slide_layouts[6])
    third.shapes.add_picture(photo, Pt(72), Pt(72), width=Pt(216))
    film = io.BytesIO(bytes(range(256)) * 40)
    poster = picture_file("PNG", 320, 240)
    third.shapes.add_movie(
        film, Pt(300), Pt(72), Pt(160), Pt(120), poster_frame_image=poster, mime_type="video/mp4"
    )
    return saved(deck, path)


def saved(deck: Any, path: Path) -> Source:
    deck.save(str(path))
    return Source(path=path)
