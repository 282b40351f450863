"""Finds the places of a picture where upscalers differ most, and says what each one is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.faces.seen_eye import seen_eye
from wamplex.core.base.filters import block_means, box, gaussian
from wamplex.core.base.lazy_imports import cv2, ndimage
from wamplex.core.colour.luma import luma_plane
from wamplex.core.geometry.framing import Framing, from_framed, to_framed
from wamplex.core.model.picture import Picture

SpotKind = Literal["eye", "texture", "curve", "diagonal", "lettering", "gradient", "dark", "detail", "differ", "own"]
Map = NDArray[np.float32]

LEAST_SPOTS, MOST_SPOTS = 5, 8
_WORK_SIDE_PX = 1000  # larger pictures are looked at shrunk: spots are places, not measurements
_CELL_PX = 24
_APART = 0.13  # of the picture's diagonal


@dataclass(frozen=True)
class Spot:
    """A place chosen for judging.

    Attributes
    ----------
    x, y : its middle as a share of the picture's width and height, 0 to 1
    name : what it is, for the user; kept when the user gives another
    """

    x: float
    y: float
    kind: SpotKind
    name: str


NAMES: dict[SpotKind, str] = {
    "eye": "Eye",
    "lettering": "Lettering",
    "curve": "Curved edge",
    "diagonal": "Slanted edges",
    "texture": "Finest texture",
    "dark": "Dark detail",
    "gradient": "Smooth gradient",
    "detail": "Detail",
    "differ": "Trials differ",
    "own": "Own spot",
}
# Score from which a place is worth showing; scores are made to be about 1 for a plain example of the kind.
_LEAST_SCORE = {
    "lettering": 0.3,
    "curve": 0.35,
    "diagonal": 0.35,
    "texture": 0.3,
    "dark": 0.3,
    "gradient": 0.4,
}


def find_spots(picture: Picture, faces: tuple[Face, ...] = ()) -> tuple[Spot, ...]:
    """Five to eight spots, fewer only in pictures too small for them, spread over the picture.

    The eye of the largest face comes first: nowhere are artifacts seen sooner. An even picture has its middle.

    Returns
    -------
    Places as shares of width and height, the eye of the largest face first.
    """
    luma = _shrunk_luma(picture)
    height, width = luma.shape
    middle = (Spot(0.5, 0.5, "detail", NAMES["detail"]),)
    if min(height, width) < 3 * _CELL_PX:
        return middle
    scores = _scores(luma)
    free = np.ones_like(next(iter(scores.values())), bool)
    margin = max(1, min(free.shape) // 12)
    free[:margin] = free[-margin:] = False
    free[:, :margin] = free[:, -margin:] = False
    spots: list[Spot] = []
    if faces:
        eye = eye_spot(faces[0], picture)
        spots.append(eye)
        _keep_away(free, eye.y * free.shape[0], eye.x * free.shape[1])
    for kind in ("lettering", "curve", "diagonal", "texture", "dark", "gradient"):
        _take(spots, kind, scores[kind], _LEAST_SCORE[kind], free, (width, height))
    energy = scores["detail"]
    while len(spots) < LEAST_SPOTS and _take(spots, "detail", energy, 0.0, free, (width, height)):
        pass
    return tuple(_distinguish(spots)) or middle


def _shrunk_luma(picture: Picture) -> Map:
    """Luma in 0..1, averaged down by whole pixels to at most the working size."""
    step = -(-max(picture.pixels.shape[:2]) // _WORK_SIDE_PX)
    return luma_plane(picture.pixels if step == 1 else block_means(picture.pixels, step))


def _scores(luma: Map) -> dict[str, Map]:
    """For each kind, how good an example every cell is; (rows, columns) of cells."""

    def cells_of(score: Map) -> Map:
        return block_means(score, _CELL_PX)

    # One map at a time: each is as large as the picture.
    edge, fine_coherence, coarse_coherence, double_angle = _edges(luma)
    fine = np.abs(luma - gaussian(luma, 1.5))
    cells = {
        "lettering": cells_of(_two_tone(luma) * np.clip(box(edge, _CELL_PX) * 3, 0, 1)),
        "curve": cells_of(edge * fine_coherence * (1 - coarse_coherence) * 2.5),
        "diagonal": cells_of(edge * coarse_coherence * np.abs(np.sin(double_angle)) ** 2),
        "texture": cells_of(np.clip(fine / 0.03, 0, 1) * (1 - fine_coherence)),
        "dark": cells_of(_darkness(luma) * np.clip(fine / 0.008, 0, 1)),
        "gradient": cells_of(_flatness(fine) ** 2 * _slope(luma)),
        "detail": cells_of(fine),
    }
    # A gradient must be wide and lettering goes on to the side: the poorest neighbour counts.
    cells["gradient"] = ndimage.minimum_filter(cells["gradient"], 3)
    cells["lettering"] = ndimage.minimum_filter(cells["lettering"], (1, 5))
    return {
        kind: score * (3 if kind in ("curve", "diagonal", "texture", "dark") else 1) for kind, score in cells.items()
    }


def _edges(luma: Map) -> tuple[Map, Map, Map, Map]:
    """Strength of edges (0 to 1), coherence in the fine and in the coarse, and twice the coarse angle."""
    across = gaussian(luma, 0.8, across=1)
    down = gaussian(luma, 0.8, down=1)
    fine_coherence, _ = _direction(across, down, 1.5)
    coarse_coherence, double_angle = _direction(across, down, 8.0)
    edge = np.clip(cv2.magnitude(across, down) / 0.08, 0, 1)
    return edge, fine_coherence, coarse_coherence, double_angle


def _direction(across: Map, down: Map, sigma: float) -> tuple[Map, Map]:
    """Coherence (0 to 1) and twice the angle of the structure tensor smoothed by ``sigma``."""
    xx, xy, yy = (gaussian(p, sigma) for p in (across * across, across * down, down * down))
    coherence = cv2.magnitude(xx - yy, 2 * xy) / (xx + yy + np.float32(1e-7))
    return coherence, np.arctan2(2 * xy, xx - yy)


def _darkness(luma: Map) -> Map:
    result: Map = np.clip((0.22 - box(luma, _CELL_PX)) / 0.15, 0, 1)
    return result


def _flatness(fine: Map) -> Map:
    result: Map = np.clip(1 - box(fine, _CELL_PX) / 0.006, 0, 1)
    return result


def _slope(luma: Map) -> Map:
    sigma = _CELL_PX / 2
    steepness = cv2.magnitude(gaussian(luma, sigma, across=1), gaussian(luma, sigma, down=1))
    result: Map = np.clip(steepness * np.float32(800), 0, 1)
    return result


def _two_tone(luma: Map) -> Map:
    """How far a neighbourhood is made of two tones far apart with strokes between, as lettering is."""
    minimum, maximum = ndimage.minimum_filter(luma, _CELL_PX), ndimage.maximum_filter(luma, _CELL_PX)
    span = maximum - minimum
    place = (luma - minimum) / np.maximum(span, 1e-3)
    dark = box((place < 0.25).astype(np.float32), _CELL_PX)
    light = box((place > 0.75).astype(np.float32), _CELL_PX)
    two = np.clip((dark + light - 0.5) * 2.5, 0, 1) * np.clip(np.minimum(dark, light) * 5, 0, 1)
    ink = (place > 0.5).astype(np.float32)
    strokes = np.ones_like(luma)
    for axis, dense in ((0, 0.04), (1, 0.09)):  # changes of tone a pixel, in lines of upright letters
        change = np.abs(np.diff(ink, axis=axis, prepend=np.take(ink, [0], axis=axis)))
        strokes *= np.clip(box(change, 2 * _CELL_PX, _CELL_PX) / dense, 0, 1) ** 2
    # Lines of letters have blank bands above and below; hatching has not.
    along = np.abs(np.diff(ink, axis=1, prepend=ink[:, :1]))
    row = box(along, 3 * _CELL_PX, 3)
    radius = 2 * _CELL_PX
    blank = np.ones_like(luma)
    for side in (-radius // 2, radius // 2 - 1):
        neighbour = ndimage.minimum_filter1d(row, radius, axis=0, origin=side, mode="constant", cval=1.0)
        blank *= np.clip(1 - neighbour / 0.03, 0, 1)
    result: Map = two * strokes * blank * np.clip((span - 0.3) / 0.3, 0, 1)
    return result


def _take(
    spots: list[Spot],
    kind: SpotKind,
    score: Map,
    minimum: float,
    free: NDArray[np.bool_],
    size: tuple[int, int],
) -> bool:
    """Add the best free cell of a kind, when it is good enough, and keep others away from it."""
    masked = np.where(free, score, -1.0)
    row, column = (int(i) for i in np.unravel_index(int(masked.argmax()), masked.shape))
    if len(spots) >= MOST_SPOTS or masked[row, column] <= minimum:
        return False
    width, height = size
    spots.append(Spot((column + 0.5) * _CELL_PX / width, (row + 0.5) * _CELL_PX / height, kind, NAMES[kind]))
    _keep_away(free, row, column)
    return True


def _keep_away(free: NDArray[np.bool_], row: float, column: float) -> None:
    radius = _APART * float(np.hypot(*free.shape))
    rows, columns = np.ogrid[: free.shape[0], : free.shape[1]]
    free &= (rows - row) ** 2 + (columns - column) ** 2 > radius**2


def eye_spot(face: Face, picture: Picture) -> Spot:
    """The eye that is seen best."""
    x, y = seen_eye(face, picture)
    return Spot(min(max(x / picture.width, 0), 1), min(max(y / picture.height, 0), 1), "eye", NAMES["eye"])


def unused_name(spots: tuple[Spot, ...]) -> str:
    """A name for a spot of the user's own that none of these has."""
    used_names = {spot.name for spot in spots}
    return next(
        name
        for number in range(1, len(spots) + 2)
        if (name := NAMES["own"] if number == 1 else f"{NAMES['own']} {number}") not in used_names
    )


def transform_spots(
    spots: tuple[Spot, ...], before: Framing, after: Framing, width: int, height: int
) -> tuple[Spot, ...]:
    """The same places of a picture of these dimensions under another framing; those cut off are left out.

    Returns
    -------
    At shares of what ``after`` leaves.
    """
    if before == after:
        return spots
    transformed = []
    for spot in spots:
        source = from_framed(before, width, height, spot.x, spot.y)
        x, y = to_framed(after, width, height, *source)
        if 0 < x < 1 and 0 < y < 1:
            transformed.append(Spot(x, y, spot.kind, spot.name))
    return tuple(transformed)


def _distinguish(spots: list[Spot]) -> list[Spot]:
    """Where one name would stand for several places, or says nothing, it says which place is meant."""
    distinct: list[Spot] = []
    for spot in spots:
        several = sum(1 for other in spots if other.kind == spot.kind) > 1
        name = f"{spot.name}, {_place_text(spot)}" if several or spot.kind == "detail" else spot.name
        before = sum(1 for other in distinct if other.name.partition(" (")[0] == name)
        distinct.append(Spot(spot.x, spot.y, spot.kind, f"{name} ({before + 1})" if before else name))
    return distinct


def _place_text(spot: Spot) -> str:
    """Which ninth of the picture it lies in."""
    across, down = (min(int(3 * fraction), 2) for fraction in (spot.x, spot.y))
    row, column = ("upper", "", "lower")[down], ("left", "", "right")[across]
    if row and column:
        return f"{row} {column}"
    return {"upper": "top", "lower": "bottom"}.get(row, column or "middle")
