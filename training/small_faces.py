"""Measures faces of few pixels: decibels of the face and of its eyes over bicubic."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np

from training.heldout import luma_psnr
from training.history import History
from training.prepare import held_out_portraits
from training.real import damaged_file, enlarged_by, heeded, told_values, written
from wamplex.core.analysis.faces.detection import find_faces
from wamplex.core.analysis.faces.face import Face
from wamplex.core.model.upscale_values import Values

_SIZES = ((16, 4), (32, 4), (16, 2), (32, 2), (64, 2))  # width of the face in the source, enlarged by
DAMAGES = {
    "clean": History(),
    "soft 0.6 px": History(blur_px=0.6),
    "JPEG 75": History(codec="jpeg", quality=75),
    "web": History("lanczos", amount=0.9, codec="jpeg", quality=75),
}
_EYE = 0.16  # half the side of the square around an eye, in widths of the face

_HEAD = """# Small faces, measured

Made by `python -m training small-faces`. {count} portraits (@tabler/preview 1.2.0, MIT) on which neither
Vellum nor Mender was trained, shrunk so that the face is 16 to 64 pixels wide in the source, damaged, and
enlarged with the true values: by Vellum where nothing is compressed, else by Mender. Luma PSNR
over bicubic in dB, of the box around the face and of squares around the eyes; means over the portraits that
are large enough.
"""


def write_face_tables(work: Path, out: Path) -> None:
    """Write the table as Markdown."""
    portraits = portraits_with_a_face(work)
    out.write_text("\n".join([_HEAD.format(count=len(portraits)), *face_tables(portraits)]) + "\n")


def portraits_with_a_face(work: Path) -> list[tuple[np.ndarray, Face]]:
    """The portraits that are kept aside, each with the widest face in it."""
    found = ((p, find_faces(p)) for p in held_out_portraits(work))
    return [(p, max(faces, key=lambda f: f.width)) for p, faces in found if faces]


def face_tables(portraits: list[tuple[np.ndarray, Face]]) -> Iterator[str]:
    """Lines of Markdown: one row for a width and a factor."""
    yield "| face, enlarged | portraits | " + " | ".join(f"{d}, face and eyes" for d in DAMAGES) + " |"
    yield "|---" * (len(DAMAGES) + 2) + "|"
    for width, factor in _SIZES:
        fitting = [(p, f) for p, f in portraits if f.width >= width * factor]
        cells = []
        for history in DAMAGES.values():
            gains = [gain(p, f, width, factor, history, n) for n, (p, f) in enumerate(fitting)]
            face, eyes = np.mean(gains, axis=0)
            cells.append(f"{face:+.2f}, {eyes:+.2f}")
        yield f"| {width} px, {factor}x | {len(fitting)} | {' | '.join(cells)} |"


def gain(
    portrait: np.ndarray, face: Face, width: int, factor: int, history: History, number: int
) -> tuple[float, float]:
    """Decibels over bicubic, of the face and of its eyes."""
    scale = width * factor / face.width
    truth = cv2.resize(portrait, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    with tempfile.TemporaryDirectory() as folder:
        truth, small = damaged_file(truth, factor, history, Path(folder), number)
    told = told_values(history)
    key = "mender" if told.compression > 0 else "vellum"
    made = written(enlarged_by(small, truth, key, heeded(told, key)))
    plain = written(enlarged_by(small, truth, "bicubic", Values()))
    box, eyes = _places(face.scaled(scale), truth.shape)
    over = [luma_psnr(made[at], truth[at], 1) - luma_psnr(plain[at], truth[at], 1) for at in (box, *eyes)]
    return over[0], float(np.mean(over[1:]))


def _places(face: Face, shape: tuple[int, ...]) -> tuple[tuple[slice, slice], list[tuple[slice, slice]]]:
    """The box around a face and the squares around its eyes, within a picture."""
    half = _EYE * face.width
    boxes = [(face.x, face.y, face.x + face.width, face.y + face.height)]
    boxes += [(x - half, y - half, x + half, y + half) for x, y in face.eyes]
    cut = []
    for left, top, right, bottom in boxes:
        down = slice(max(round(top), 0), min(round(bottom), shape[0]))
        cut.append((down, slice(max(round(left), 0), min(round(right), shape[1]))))
    return cut[0], cut[1:]
