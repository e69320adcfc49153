"""A few places of a picture as they are shown, to be judged."""

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.visible_loss import tiles

__all__ = ["places_seen"]

Pixels = NDArray[np.uint8]


def places_seen(pixels: Pixels, size: tuple[int, int]) -> list[Pixels]:
    """A few places of the picture, as a page viewer brings it to `size`."""
    from PIL import Image

    image = Image.fromarray(pixels)
    across, down = image.width / size[0], image.height / size[1]
    return [
        np.asarray(
            image.resize(
                (right - left, bottom - top),
                Image.Resampling.BICUBIC,
                box=(left * across, top * down, right * across, bottom * down),
            )
        )
        for left, top, right, bottom in tiles(size)
    ]
