"""A page held as layers: paper, ink that lies on it, and pictures on top (after ITU-T T.44)."""

from dataclasses import dataclass

from lighten.pictures.coding.coded import CodedPicture

__all__ = ["Ink", "LayeredPicture", "PictureLayer"]

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
class PictureLayer:
    """Places of the page that stay picture. places: one bit a pixel, 0 where they are.

    picture: of the whole page, plain where there is no such place. kept: how many places show
    pictures; undone: how many went back, as layers would have changed what they show.
    """

    picture: CodedPicture
    places: CodedPicture
    kept: int
    undone: int

    @property
    def weight(self) -> int:
        return self.picture.weight + self.places.weight + 2 * _LAYER_BYTES


@dataclass(frozen=True, slots=True, kw_only=True)
class LayeredPicture:
    """Pictures drawn over one another in that order, each over the whole area of the page.

    width_px, height_px: of the strokes. likeness: to the pixels that were given, 0 to 1.
    """

    paper: CodedPicture
    ink: Ink | None
    pictures: PictureLayer | None
    width_px: int
    height_px: int
    likeness: float

    @property
    def weight(self) -> int:
        """Return the bytes, with each layer's entry in the file."""
        ink = self.ink.weight if self.ink else 0
        pictures = self.pictures.weight if self.pictures else 0
        return self.paper.weight + _LAYER_BYTES + ink + pictures

    @property
    def kept(self) -> int:
        return self.pictures.kept if self.pictures else 0

    @property
    def undone(self) -> int:
        return self.pictures.undone if self.pictures else 0
