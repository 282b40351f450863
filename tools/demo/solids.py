"""Solids as signed distance functions, and their meshes with painted vertices."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates
from skimage.measure import marching_cubes

Points = np.ndarray  # (N, 3) float64
Distance = Callable[[Points], np.ndarray]
Paint = Callable[[Points, np.ndarray], np.ndarray]


def ellipsoid(centre: tuple[float, float, float], radii: tuple[float, float, float]) -> Distance:
    """Approximate distance to an ellipsoid."""
    c, r = np.array(centre), np.array(radii)

    def distance(p: Points) -> np.ndarray:
        return (np.linalg.norm((p - c) / r, axis=1) - 1) * r.min()

    return distance


def capsule(start: tuple[float, float, float], end: tuple[float, float, float], r0: float, r1: float) -> Distance:
    """Distance to a rod whose radius goes from ``r0`` to ``r1``."""
    a, b = np.array(start), np.array(end)

    def distance(p: Points) -> np.ndarray:
        t = np.clip((p - a) @ (b - a) / ((b - a) @ (b - a)), 0, 1)
        return np.linalg.norm(p - a - t[:, None] * (b - a), axis=1) - (r0 + (r1 - r0) * t)

    return distance


def blend(solids: list[Distance], softness: float) -> Distance:
    """Union with rounded joints."""

    def distance(p: Points) -> np.ndarray:
        stacked = np.stack([s(p) for s in solids])
        return -softness * np.log(np.exp(-(stacked - stacked.min(0)) / softness).sum(0)) + stacked.min(0)

    return distance


def carve(solid: Distance, tools: list[Distance], softness: float) -> Distance:
    """Take tools away from a solid, leaving rounded edges."""
    hole = blend(tools, softness)

    def distance(p: Points) -> np.ndarray:
        d, h = solid(p), -hole(p)
        k = np.clip(0.5 + 0.5 * (h - d) / softness, 0, 1)
        return d * (1 - k) + h * k + softness * k * (1 - k)

    return distance


class Noise:
    """Smooth random values in space, about -1 to 1."""

    def __init__(self, seed: int, side: int = 48) -> None:
        lattice = np.random.default_rng(seed).normal(size=(side,) * 3)
        self._lattice = gaussian_filter(lattice, 0.7, mode="wrap")
        self._lattice /= self._lattice.std() * 2

    def __call__(self, p: Points, frequency: float | tuple[float, float, float]) -> np.ndarray:
        return map_coordinates(self._lattice, (p * np.asarray(frequency)).T, order=1, mode="grid-wrap")


_NOISE = Noise(11)


def wood(light: tuple[float, float, float], dark: tuple[float, float, float], scale: float) -> Paint:
    """Growth rings and pores of turned wood, along the y axis."""

    def paint(p: Points, _normals: np.ndarray) -> np.ndarray:
        q = p * scale
        wobble = 0.35 * _NOISE(q, (0.9, 0.25, 0.9))
        rings = np.sqrt((q[:, 0] + 0.8) ** 2 + (q[:, 2] - 0.4) ** 2) * 7 + 3 * wobble
        ring = (0.5 + 0.5 * np.sin(rings * 2 * np.pi * 0.35)) ** 2
        pores = np.clip(_NOISE(q, (30, 2.0, 30)), 0, 1) ** 2
        mix = np.clip(0.65 * ring + 0.45 * pores + 0.1 * _NOISE(q, 9.0), 0, 1)[:, None]
        return np.asarray(light) * (1 - mix) + np.asarray(dark) * mix

    return paint


def plain(colour: tuple[float, float, float], variation: float = 0.08, frequency: float = 14.0) -> Paint:
    """One colour with slight unevenness, like paint on wood."""

    def paint(p: Points, _normals: np.ndarray) -> np.ndarray:
        return np.asarray(colour) * (1 + variation * _NOISE(p, frequency))[:, None]

    return paint


def mesh_solid(solid: Distance, low: tuple[Any, ...], high: tuple[Any, ...], resolution: int, paint: Paint) -> Path:
    """Polygonise a solid inside a box; returns a PLY file with painted vertices."""
    low_, high_ = np.array(low, float), np.array(high, float)
    step = (high_ - low_).max() / resolution
    counts = np.ceil((high_ - low_) / step).astype(int) + 1
    axes = [low_[i] + step * np.arange(counts[i]) for i in range(3)]
    values = _sampled(solid, axes, step)
    vertices, faces, _, _ = marching_cubes(values, 0.0, spacing=(step,) * 3)
    vertices = vertices + low_
    normals = _gradient(solid, vertices, step * 0.5)
    return write_ply(vertices, normals, paint(vertices, normals), faces[:, ::-1])


def _sampled(solid: Distance, axes: list[np.ndarray], step: float) -> np.ndarray:
    """Distances on a grid; exact near the surface only, which is all that counts."""
    coarse_axes = [np.append(a[::4], a[-1] + 4 * step) for a in axes]
    coarse = solid(_points(coarse_axes)).reshape([len(a) for a in coarse_axes])
    fine = np.stack(np.meshgrid(*[np.arange(len(a)) / 4 for a in axes], indexing="ij"))
    values = map_coordinates(coarse, fine, order=1, mode="nearest")
    near = np.abs(values) < 8 * step
    values[near] = solid(_points(axes)[near.ravel()])
    return values


def _points(axes: list[np.ndarray]) -> Points:
    return np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)


def facets(radii: tuple[float, float, float], count: int, seed: int) -> Distance:
    """Distance to a many-faced hull around an ellipsoid: the flats a knife leaves."""
    directions = np.random.default_rng(seed).normal(size=(count, 3))
    directions /= np.linalg.norm(directions, axis=1, keepdims=True)

    def distance(p: Points) -> np.ndarray:
        return ((p / np.asarray(radii)) @ directions.T).max(axis=1) * min(radii) - min(radii)

    return distance


def mesh_grid(points: np.ndarray, colours: np.ndarray) -> Path:
    """Mesh of a (rows, columns, 3) sheet of points."""
    rows, columns = points.shape[:2]
    du, dv = np.gradient(points, axis=1), np.gradient(points, axis=0)
    normals = np.cross(du, dv).reshape(-1, 3)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True) + 1e-12
    i = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = i[:-1, :-1].ravel(), i[:-1, 1:].ravel(), i[1:, :-1].ravel(), i[1:, 1:].ravel()
    faces = np.concatenate([np.stack([a, b, c], 1), np.stack([b, d, c], 1)])
    return write_ply(points.reshape(-1, 3), normals, colours.reshape(-1, 3), faces)


def write_ply(vertices: np.ndarray, normals: np.ndarray, colours: np.ndarray, faces: np.ndarray) -> Path:
    """Binary PLY with normals and linear vertex colours, in the temporary folder."""
    with tempfile.NamedTemporaryFile(suffix=".ply", delete=False) as file:
        names = ("x", "y", "z", "nx", "ny", "nz", "r", "g", "b")
        head = "ply\nformat binary_little_endian 1.0\n" + f"element vertex {len(vertices)}\n"
        head += "".join(f"property float {n}\n" for n in names)
        head += f"element face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"
        file.write(head.encode())
        file.write(np.hstack([vertices, normals, np.clip(colours, 0, 1)]).astype("<f4").tobytes())
        table = np.empty(len(faces), dtype=[("n", "u1"), ("v", "<i4", 3)])
        table["n"], table["v"] = 3, faces
        file.write(table.tobytes())
        return Path(file.name)


def _gradient(solid: Distance, points: Points, h: float) -> np.ndarray:
    normals = np.stack([solid(points + h * e) - solid(points - h * e) for e in np.eye(3)], axis=1)
    return normals / (np.linalg.norm(normals, axis=1, keepdims=True) + 1e-12)
