"""A page held as layers: paper, inks that lie on it, and pictures on top (after ITU-T T.44)."""

from dataclasses import dataclass

from lighten.pictures.coded import CodedPicture

__all__ = ["Ink", "LayeredPicture", "Patch"]

# What a file needs besides the data of each layer, about.
_LAYER_BYTES = 220


@dataclass(frozen=True, slots=True, kw_only=True)
class Ink:
    """strokes: one bit a pixel, 0 where they are. colour: theirs, one or three samples; or a
    picture of how it goes over the page."""

    strokes: CodedPicture
    colour: tuple[int, ...] | CodedPicture

    @property
    def weight(self) -> int:
        colour = 0 if isinstance(self.colour, tuple) else self.colour.weight + _LAYER_BYTES
        return self.strokes.weight + _LAYER_BYTES + colour


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch:
    """A part of the page that is a picture. box_px: left, top, right, bottom in strokes' pixels.

    is_undone: layers would have changed what it shows, and so it went back.
    """

    box_px: tuple[int, int, int, int]
    picture: CodedPicture
    is_undone: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LayeredPicture:
    """What is drawn over one another in that order, the first two all over the place of the page.

    width_px, height_px: of the strokes. likeness: to the pixels that were given, 0 to 1.
    """

    paper: CodedPicture
    inks: tuple[Ink, ...]
    patches: tuple[Patch, ...]
    width_px: int
    height_px: int
    likeness: float = 1.0

    @property
    def weight(self) -> int:
        """Bytes, with what a file says of each layer."""
        inks = sum(ink.weight for ink in self.inks)
        patches = sum(patch.picture.weight + _LAYER_BYTES for patch in self.patches)
        return self.paper.weight + _LAYER_BYTES + inks + patches

    @property
    def undone(self) -> int:
        """How many places went back to pictures, as layers would have changed what they show."""
        return sum(patch.is_undone for patch in self.patches)
