"""A sheet of paper in a photo: where its corners are, and the sheet as a scanner would show it."""

from collections.abc import Iterator
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from lighten.pictures.pixels.bitonal import otsu_threshold
from lighten.pictures.pixels.planes import highest, lowest, luma

__all__ = ["Corners", "check_corners", "find_page_corners", "flattened_page"]

# Upper left, upper right, lower right and lower left, as shares of width and height, from the
# upper left of the picture as it is seen.
Corners = tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]
Pixels = NDArray[np.uint8]
Marks = NDArray[np.bool_]
Points = NDArray[np.float64]

_LOOKED_AT_PX = 360
# Print on the sheet is closed over; a table's edge is not.
_CLOSED_PX = 5
_DIRECTIONS = 48
# Of the picture; larger ones fill it, and need no straightening.
_LEAST_SHARE, _MOST_SHARE = 0.12, 0.96
_LEAST_FILLED, _MOST_OUTSIDE = 0.93, 0.05
# Colour counts against paper, which is grey or hardly tinted.
_COLOUR_WEIGHT = 0.5
# How far above or below the best division of tones paper may begin.
_THRESHOLDS = (0, 16, -16, 32, -32)
_NEAR_EDGE_PX, _OFF_CORNERS = 3.0, 0.08
_SHARPEST_COS = 0.6
_EDGE_SHARE = 0.01
# Sheets seen aslant come out nearly as they are: then they are what offices use (ISO 216; ANSI/ASME
# Y14.1).
_SHEETS, _NEARLY = (2**0.5, 11 / 8.5), 0.04
_ROWS_AT_ONCE = 512
# How far behind the lens a photo lies, to its longer side: of any camera, and of a telephone's
# (26 mm before 36 mm; common practice, no source).
_LENSES, _USUAL_LENS = (0.5, 4.0), 0.72


def check_corners(corners: Corners) -> None:
    """Check that corners lie in the picture, around a convex sheet. Raises: ValueError."""
    points = np.array(corners, np.float64)
    if points.shape != (4, 2) or not np.isfinite(points).all():
        raise ValueError("a sheet has four corners of two numbers each")
    if points.min() < 0 or points.max() > 1:
        raise ValueError("a corner lies outside the picture")
    if min(_turns(points)) <= 0 or _area(points) < 0.001:
        raise ValueError("the corners do not go round a sheet, from the upper left with the clock")


def find_page_corners(pixels: Pixels) -> Corners | None:
    """Find the corners of a sheet of paper; None without one, or if it fills the picture.

    pixels: (height, width) grey or (height, width, 3) sRGB, uint8, as it is seen.
    """
    small = _small(pixels)
    height, width = small.shape[:2]
    tones = _paperness(small)
    middle = otsu_threshold(np.clip(np.rint(tones), 0, 255).astype(np.uint8))
    for step in _THRESHOLDS:
        if (quad := _sheet(tones > middle + step)) is not None:
            shares = np.clip(quad / (width, height), 0, 1)
            if _at_the_edge(shares) > 1:
                return None
            found: Corners = tuple((float(x), float(y)) for x, y in shares)  # type: ignore[assignment] # four of them
            return found
    return None


def flattened_page(pixels: Pixels, corners: Corners) -> Pixels:
    """The sheet alone, as seen from above; about as many pixels as it has in the photo.

    pixels: as `find_page_corners`. Raises: ValueError, as `check_corners`.
    """
    import pyvips

    check_corners(corners)
    height, width = pixels.shape[:2]
    points = np.array(corners, np.float64) * (width, height)
    across, down = _size_of(points, (width, height))
    matrix = _homography(across, down, points)
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    cubic = pyvips.Interpolate.new("bicubic")
    out = np.empty((down, across, *pixels.shape[2:]), np.uint8)
    for top in range(0, down, _ROWS_AT_ONCE):
        rows = min(_ROWS_AT_ONCE, down - top)
        index = pyvips.Image.new_from_array(_places(matrix, across, top, rows))
        mapped = image.mapim(index, interpolate=cubic, extend="copy").numpy()
        out[top : top + rows] = mapped.reshape(out[top : top + rows].shape)
    return out


def _at_the_edge(shares: Points) -> int:
    """Return the number of corners at the edge of the picture, where no sheet ends."""
    is_at_edge = (shares < _EDGE_SHARE) | (shares > 1 - _EDGE_SHARE)
    return int(is_at_edge.any(axis=1).sum())


def _small(pixels: Pixels) -> Pixels:
    from PIL import Image

    image = Image.fromarray(pixels)
    image.thumbnail((_LOOKED_AT_PX, _LOOKED_AT_PX), Image.Resampling.BOX)
    return np.asarray(image)


def _paperness(pixels: Pixels) -> NDArray[np.float32]:
    """Return the lightness of each pixel, lowered by its colour: (height, width), from 0 to 255."""
    light = luma(pixels)
    if pixels.ndim == 2:
        return light
    colour = pixels.max(axis=2).astype(np.float32) - pixels.min(axis=2)
    return np.asarray(light - _COLOUR_WEIGHT * colour, np.float32)


def _sheet(light: Marks) -> Points | None:
    """The corners of the largest light place, in pixels, if it is a sheet."""
    plane = light.astype(np.float32)
    closed = lowest(highest(plane, _CLOSED_PX), _CLOSED_PX) > 0
    place = _largest_place(closed)
    share = place.mean()
    if not _LEAST_SHARE <= share <= _MOST_SHARE:
        return None
    quad = _largest_quad(_outermost(place))
    if quad is None:
        return None
    quad = _along_edges(quad, place)
    within = _within(quad, place.shape)
    filled = (place & within).sum() / max(1, within.sum())
    outside = (place & ~within).sum() / place.sum()
    is_sheet = filled >= _LEAST_FILLED and outside <= _MOST_OUTSIDE
    return quad if is_sheet and _is_square_enough(quad) else None


def _largest_place(marks: Marks) -> Marks:
    """The largest place of marks that touch one another."""
    import pyvips

    if not marks.any():
        return marks
    labelled = pyvips.Image.new_from_array(marks.astype(np.uint8)).labelregions()
    labels = labelled.numpy().reshape(marks.shape)
    return np.asarray(labels == int(np.argmax(np.bincount(labels[marks]))))


def _outermost(place: Marks) -> Points:
    """The points of a place that lie furthest out in some direction, in order round it."""
    rows, columns = np.nonzero(place)
    points = np.stack([columns, rows], axis=1).astype(np.float64) + 0.5
    angles = np.arange(_DIRECTIONS) * 2 * np.pi / _DIRECTIONS
    directions = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    furthest = np.argmax(points @ directions.T, axis=0)
    return points[list(dict.fromkeys(furthest.tolist()))]


def _largest_quad(points: Points) -> Points | None:
    """Return the four points with the largest area, clockwise from the upper left."""
    if len(points) < 4:
        return None
    chosen = np.array(list(combinations(range(len(points)), 4)))
    corners = points[chosen]
    following = np.roll(corners, -1, axis=1)
    areas = np.abs(
        (corners[..., 0] * following[..., 1] - corners[..., 1] * following[..., 0]).sum(axis=1)
    )
    return _from_upper_left(corners[int(np.argmax(areas))])


def _from_upper_left(quad: Points) -> Points:
    middle = quad.mean(axis=0)
    angles = np.arctan2(quad[:, 1] - middle[1], quad[:, 0] - middle[0])
    ordered = quad[np.argsort(angles)]
    return np.roll(ordered, -int(np.argmin(ordered.sum(axis=1))), axis=0)


def _along_edges(quad: Points, place: Marks) -> Points:
    """Refine the corners to the crossings of lines through the edges, finer than a pixel."""
    inner = lowest(place.astype(np.float32), 3) > 0
    rows, columns = np.nonzero(place & ~inner)
    edge = np.stack([columns, rows], axis=1).astype(np.float64) + 0.5
    lines = []
    for start, end in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        along = end - start
        length = float(np.hypot(*along))
        unit = along / max(length, 1e-9)
        offset = edge - start
        share = offset @ unit / max(length, 1e-9)
        off = np.abs(offset @ np.array([-unit[1], unit[0]]))
        near = (off < _NEAR_EDGE_PX) & (share > _OFF_CORNERS) & (share < 1 - _OFF_CORNERS)
        if near.sum() < 8:
            return quad
        own = edge[near]
        middle = own.mean(axis=0)
        direction = np.linalg.svd(own - middle)[2][0]
        lines.append((middle, direction))
    return np.array(list(_crossings(lines)))


def _crossings(lines: list[tuple[Points, Points]]) -> Iterator[Points]:
    """Return the crossing of each line with the one before it."""
    for (point, along), (other, other_along) in zip([lines[-1], *lines[:-1]], lines, strict=True):
        matrix = np.stack([along, -other_along], axis=1)
        if abs(np.linalg.det(matrix)) < 1e-6:
            yield other
        else:
            yield point + along * np.linalg.solve(matrix, other - point)[0]


def _within(quad: Points, shape: tuple[int, ...]) -> Marks:
    rows, columns = np.indices(shape) + 0.5
    inside = np.ones(shape, bool)
    for (x, y), (next_x, next_y) in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        inside &= (next_x - x) * (rows - y) - (next_y - y) * (columns - x) >= 0
    return inside


def _is_square_enough(quad: Points) -> bool:
    """Return whether all corners have angles that a photographed sheet may have."""
    neighbours = np.roll(quad, 1, axis=0), quad, np.roll(quad, -1, axis=0)
    for before, corner, after in zip(*neighbours, strict=True):
        one, other = before - corner, after - corner
        lengths = float(np.hypot(*one) * np.hypot(*other))
        if lengths == 0 or abs(float(one @ other)) / lengths > _SHARPEST_COS:
            return False
    return min(_turns(quad)) > 0


def _turns(quad: Points) -> list[float]:
    """Return a number for each corner, above zero where the outline turns clockwise."""
    sides = np.roll(quad, -1, axis=0) - quad
    following = np.roll(sides, -1, axis=0)
    return [float(turn) for turn in sides[:, 0] * following[:, 1] - sides[:, 1] * following[:, 0]]


def _area(quad: Points) -> float:
    following = np.roll(quad, -1, axis=0)
    return float(abs((quad[:, 0] * following[:, 1] - quad[:, 1] * following[:, 0]).sum()) / 2)


def _size_of(points: Points, photo_px: tuple[int, int]) -> tuple[int, int]:
    """Return the sheet's size in pixels, snapped to a nearby paper format.

    photo_px: width and height of the photo, in the middle of which its lens looked.
    """
    sides = np.hypot(*(np.roll(points, -1, axis=0) - points).T)
    across, down = max(sides[0], sides[2]), max(sides[1], sides[3])
    shape = _shape_seen(points - np.array(photo_px) / 2, max(photo_px))
    # As many pixels as it covers, along its better side.
    across, down = max(across, down * shape), max(down, across / shape)
    longer, shorter = max(across, down), min(across, down)
    for ratio in _SHEETS:
        if abs(longer / shorter / ratio - 1) < _NEARLY:
            shorter = longer / ratio
            across, down = (longer, shorter) if across > down else (shorter, longer)
            break
    return max(1, round(across)), max(1, round(down))


def _shape_seen(points: Points, longest_px: int) -> float:
    """Return width to height of a sheet in perspective. points: from the optical centre.

    Source: Zhang & He, Whiteboard scanning and image enhancement, Digital Signal Processing 17(2),
    2007: that its sides stand at right angles gives the distance from lens to photo, and that
    the lengths of its sides.
    """
    matrix = _homography(1, 1, points)
    right, low = matrix[:, 0], matrix[:, 1]
    bent = right[2] * low[2]
    squared = -(right[0] * low[0] + right[1] * low[1]) / bent if bent else 0.0
    nearest, farthest = ((share * longest_px) ** 2 for share in _LENSES)
    if not nearest < squared < farthest:
        # A view tilted in one direction only, or not at all, is no evidence.
        squared = (_USUAL_LENS * longest_px) ** 2
    lengths = [side[0] ** 2 + side[1] ** 2 + squared * side[2] ** 2 for side in (right, low)]
    return float(np.sqrt(lengths[0] / lengths[1]))


def _homography(across: int, down: int, points: Points) -> Points:
    """The (3, 3) matrix that takes places of the sheet to those of the photo, both in pixels."""
    sheet = [(0, 0), (across, 0), (across, down), (0, down)]
    rows, values = [], []
    for (x, y), (u, v) in zip(sheet, points, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        values += [u, v]
    solved = np.linalg.solve(np.array(rows, np.float64), np.array(values))
    return np.append(solved, 1.0).reshape(3, 3)


def _places(matrix: Points, across: int, top: int, rows: int) -> NDArray[np.float32]:
    """Return the photo's position of each pixel of some rows of the sheet: (rows, across, 2)."""
    y, x = np.mgrid[top : top + rows, 0:across] + 0.5
    below = matrix[2, 0] * x + matrix[2, 1] * y + matrix[2, 2]
    u = (matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]) / below
    v = (matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]) / below
    # Pixels are counted from their middle here, from their upper left there.
    return np.stack([u - 0.5, v - 0.5], axis=2).astype(np.float32)
