"""Measures how many faces are found: small ones, tilted ones, and none where there is none."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from skimage import data as sk_data

from wamplex.core.analysis.faces.cascade_detector import detect_by_cascade
from wamplex.core.analysis.faces.detection import find_faces
from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.faces.rotated_faces import find_turned_faces
from wamplex.core.base.progress import Progress

_PORTRAITS = 40
_TILTS_DEG = (0, 45, 60, 90, 180)
_GROUND_PX = 320
_Finder = Callable[[np.ndarray], tuple[Face, ...]]
_FINDERS: dict[str, _Finder] = {
    "the cascade alone, verdict 0.92": lambda pixels: tuple(
        face for face in detect_by_cascade(pixels, Progress()) if face.verdict >= 0.92
    ),
    "both finders": find_faces,
    "both, those they agree on": lambda pixels: tuple(face for face in find_faces(pixels) if face.sure),
    "Look closer": find_turned_faces,
}


def face_tables(work: Path) -> Iterator[str]:
    """Lines of Markdown."""
    yield "## Faces\n\n100 faces and 100 other cut-outs of 25 x 25 pixels, from Labeled Faces in the Wild"
    yield "(Huang et al. 2007) as scikit-image ships them, with their edge pixels repeated around them: faces"
    yield "found, and finds where there is none.\n"
    cuts = np.rint(sk_data.lfw_subset() * 255).astype(np.uint8)
    yield "| finder | 1x | 2x | 3x |\n|---|---|---|---|"
    for name, finder in _FINDERS.items():
        cells = []
        for scale in (1, 2, 3):
            hits = [len(finder(_framed(cut, scale))) > 0 for cut in cuts]
            cells.append(f"{sum(hits[:100])}, {sum(hits[100:])}")
        yield f"| {name} | {' | '.join(cells)} |"
    yield f"\n{_PORTRAITS} portraits (@tabler/preview 1.2.0, MIT), shrunk to faces about as wide as the first"
    yield "number, tilted, on grey: faces found where the face is.\n"
    yield "| px, finder | " + " | ".join(f"{tilt}°" for tilt in _TILTS_DEG) + " |"
    yield "|---" * (len(_TILTS_DEG) + 1) + "|"
    portraits = _portraits(work)
    for width in (64, 40, 24):
        for name, finder in _FINDERS.items():
            counts = [sum(_found(p, width, tilt, finder) for p in portraits) for tilt in _TILTS_DEG]
            yield f"| {width}, {name} | {' | '.join(map(str, counts))} |"


def _framed(cut: np.ndarray, scale: int) -> np.ndarray:
    larger = cv2.resize(cut, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
    framed = cv2.copyMakeBorder(larger, 12 * scale, 12 * scale, 12 * scale, 12 * scale, cv2.BORDER_REPLICATE)
    return cv2.cvtColor(framed, cv2.COLOR_GRAY2RGB)


def _portraits(work: Path) -> list[tuple[np.ndarray, Face]]:
    """Portraits in which the cascade sees one face as they are, and that face."""
    made: list[tuple[np.ndarray, Face]] = []
    for path in sorted((work / "packages/@tabler/preview").rglob("static/avatars/*.jpg")):
        pixels = np.asarray(Image.open(path).convert("RGB"))
        faces = detect_by_cascade(pixels, Progress())
        if len(faces) == 1 and len(made) < _PORTRAITS:
            made.append((pixels, faces[0]))
    return made


def _found(
    portrait: tuple[np.ndarray, Face],
    width: int,
    tilt: float,
    finder: Callable[[np.ndarray], tuple[Face, ...]],
) -> bool:
    """Whether a face is found within half its width of where it is."""
    pixels, face = portrait
    scale = width / face.width
    small = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    x, y = (face.x + face.width / 2) * scale, (face.y + face.height / 2) * scale
    turn = cv2.getRotationMatrix2D((x, y), tilt, 1.0)
    turn[:, 2] += _GROUND_PX / 2 - np.array([x, y])  # the face in the middle of the ground
    ground = cv2.warpAffine(small, turn, (_GROUND_PX, _GROUND_PX), borderValue=(128, 128, 128))
    middles = [(f.x + f.width / 2, f.y + f.height / 2) for f in finder(ground)]
    return any(np.hypot(a - _GROUND_PX / 2, b - _GROUND_PX / 2) < width / 2 for a, b in middles)
