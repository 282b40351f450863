"""Which part of a picture is the subject, and which parts are sharp."""

from __future__ import annotations

import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import Face
from wamplex.core.base.array_types import Plane, Rgb8
from wamplex.core.base.lazy_imports import cv2

_WORK_PX = 160
_ROUNDS = 2
_LEAST_SHARE, _MOST_SHARE = 0.02, 0.75


@dataclass(frozen=True)
class SubjectAreas:
    """Masks over the whole picture, smaller than it; packed, for of a thousand pictures one is looked at."""

    _size: tuple[int, int]
    _sharp: bytes
    _subject: bytes | None

    @staticmethod
    def of(sharp: Plane, subject: Plane | None) -> SubjectAreas:
        """From masks (h, w) in 0..1, which are kept to 1/255."""
        return SubjectAreas(sharp.shape, _packed(sharp), None if subject is None else _packed(subject))

    @property
    def sharp(self) -> Plane:
        """How much fine contrast there is, next to the sharpest place: (h, w) float32 in 0..1."""
        return _unpacked(self._sharp, self._size)

    @property
    def subject(self) -> Plane | None:
        """1 inside the main subject, 0 outside, soft between; None when nothing stands out."""
        return None if self._subject is None else _unpacked(self._subject, self._size)

    @property
    def subject_fraction(self) -> float:
        """Fraction of the picture; 0 without a clear subject."""
        subject = self.subject
        return 0.0 if subject is None else float(subject.mean())


def _packed(mask: Plane) -> bytes:
    return zlib.compress(np.rint(np.clip(mask, 0, 1) * 255).astype(np.uint8).tobytes(), 1)


def _unpacked(data: bytes, size: tuple[int, int]) -> Plane:
    eight = np.frombuffer(zlib.decompress(data), np.uint8).reshape(size)
    return eight.astype(np.float32) * np.float32(1 / 255)


def find_areas(small: Rgb8, faces: tuple[Face, ...] = (), width_px: int | None = None) -> SubjectAreas:
    """Masks of an sRGB picture, (H, W, 3) uint8, without any learned weights.

    Sharpness is the energy of the modified Laplacian (Nayar and Nakagawa 1994). The subject begins as what
    is salient (frequency-tuned, Achanta et al. 2009), sharp, near the middle, or around a face; GrabCut
    (Rother, Kolmogorov and Blake 2004) then finds its outline by colour.

    Parameters
    ----------
    faces, width_px : faces in a picture this wide, of which ``small`` is a reduction

    Returns
    -------
    Masks (h, w) float32 in 0..1 at working size; None where nothing stands out.
    """
    scale = min(1.0, _WORK_PX / max(small.shape[:2]))
    size = (max(8, round(small.shape[1] * scale)), max(8, round(small.shape[0] * scale)))
    sharp = _sharpness(small, size)
    work = cv2.resize(small, size, interpolation=cv2.INTER_AREA)
    seed = _seed(work, sharp)
    if faces and width_px:
        _add_faces(seed, faces, size[0] / width_px)
    return SubjectAreas.of(sharp, _outlined(work, seed))


def mask_overlay(mask: Plane) -> NDArray[np.uint8]:
    """How strongly a veil covers each place so that what the mask means shows through: (h, w), 0 to 255."""
    result: NDArray[np.uint8] = np.rint((1 - np.clip(mask, 0, 1)) * 200).astype(np.uint8)
    return result


def _sharpness(small: Rgb8, size: tuple[int, int]) -> Plane:
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY).astype(np.float32)
    kernel = np.array([[-1, 2, -1]], np.float32)
    energy = np.abs(cv2.filter2D(grey, -1, kernel)) + np.abs(cv2.filter2D(grey, -1, kernel.T))
    energy = cv2.resize(energy, size, interpolation=cv2.INTER_AREA)
    energy = cv2.GaussianBlur(np.sqrt(energy), (0, 0), max(size) / 40)
    top = float(np.quantile(energy, 0.98))
    result: Plane = np.clip(energy / max(top, 1e-3), 0, 1).astype(np.float32)
    return result


def _seed(work: Rgb8, sharp: Plane) -> Plane:
    """How likely each place belongs to the subject, 0 to 1."""
    lab = cv2.cvtColor(cv2.GaussianBlur(work, (0, 0), 1.5), cv2.COLOR_RGB2LAB).astype(np.float32)
    salient = np.linalg.norm(lab - lab.mean(axis=(0, 1)), axis=2)
    salient /= max(float(np.quantile(salient, 0.98)), 1e-3)
    height, width = sharp.shape
    down, across = np.mgrid[0:height, 0:width]
    off = ((across / width - 0.5) / 0.38) ** 2 + ((down / height - 0.5) / 0.42) ** 2
    centre_weight = np.exp(-off)
    result: Plane = (np.clip(salient, 0, 1) * 0.5 + sharp * 0.5).astype(np.float32) * centre_weight.astype(np.float32)
    return result / max(float(result.max()), 1e-6)


def _add_faces(seed: Plane, faces: tuple[Face, ...], scale: float) -> None:
    """A face, and the shoulders below it, belong to the subject."""
    for face in faces:
        x0, x1 = face.x * scale, (face.x + face.width) * scale
        y0, y1 = face.y * scale, (face.y + face.height) * scale
        half = (x1 - x0) / 2
        rows = slice(max(int(y0), 0), int(y1 + 2.2 * (y1 - y0)))
        body = seed[rows, max(int(x0 - half), 0) : int(x1 + half)]
        np.maximum(body, 0.62, out=body)
        seed[max(int(y0), 0) : int(y1) + 1, max(int(x0), 0) : int(x1) + 1] = 1.0


def _outlined(work: Rgb8, seed: Plane) -> Plane | None:
    surely, likely = seed > 0.8, seed > float(np.quantile(seed, 0.72))
    edge = max(2, min(seed.shape) // 40)
    marks = np.full(seed.shape, cv2.GC_PR_BGD, np.uint8)
    marks[seed < float(np.quantile(seed, 0.25))] = cv2.GC_BGD
    marks[likely] = cv2.GC_PR_FGD
    marks[surely] = cv2.GC_FGD
    marks[:edge] = marks[:, :edge] = marks[:, -edge:] = cv2.GC_BGD
    if not surely.any():
        return None
    ground, figure = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(1)  # the colour models begin at random, and a picture should always be judged alike
    bgr = np.ascontiguousarray(work[..., ::-1])
    cv2.grabCut(bgr, marks, None, ground, figure, _ROUNDS, cv2.GC_INIT_WITH_MASK)
    inside = ((marks == cv2.GC_FGD) | (marks == cv2.GC_PR_FGD)).astype(np.uint8)
    inside = cv2.morphologyEx(inside, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    fraction = float(inside.mean())
    if not _LEAST_SHARE <= fraction <= _MOST_SHARE:
        return None
    result: Plane = cv2.GaussianBlur(inside.astype(np.float32), (0, 0), 1.2)
    return result
