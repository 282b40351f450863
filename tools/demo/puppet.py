"""A carved wooden marionette: head, hair, robe, hands and strings."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from tools.demo.solids import (
    Paint,
    blend,
    capsule,
    carve,
    ellipsoid,
    facets,
    mesh_grid,
    mesh_solid,
    plain,
    wood,
)


@dataclass(frozen=True)
class Look:
    """Colours (linear RGB) and build of one puppet."""

    seed: int
    robe: tuple[float, float, float]
    trim: tuple[float, float, float]
    hair: tuple[float, float, float]
    iris: tuple[float, float, float]
    nose: float = 1.0
    hair_length: float = 0.5
    light: tuple[float, float, float] = (0.62, 0.40, 0.22)
    dark: tuple[float, float, float] = (0.36, 0.19, 0.085)


def head(look: Look, resolution: int) -> dict[str, Any]:
    """Shapes of the head; its centre is the origin, it is 2 high, it looks along +z."""
    skull = blend(
        [
            ellipsoid((0, 0.05, 0), (0.72, 0.95, 0.74)),
            ellipsoid((0, -0.62, 0.28), (0.34, 0.3, 0.32)),
            ellipsoid((-0.42, -0.22, 0.36), (0.27, 0.24, 0.24)),
            ellipsoid((0.42, -0.22, 0.36), (0.27, 0.24, 0.24)),
            capsule((0, 0.18, 0.66), (0, -0.14, 0.74 + 0.36 * look.nose), 0.1, 0.15),
            capsule((-0.48, 0.4, 0.52), (-0.12, 0.43, 0.68), 0.09, 0.1),
            capsule((0.48, 0.4, 0.52), (0.12, 0.43, 0.68), 0.09, 0.1),
            ellipsoid((-0.74, 0.02, -0.02), (0.12, 0.24, 0.16)),
            ellipsoid((0.74, 0.02, -0.02), (0.12, 0.24, 0.16)),
            capsule((0, -0.8, 0), (0, -1.25, 0), 0.3, 0.28),
        ],
        0.05,
    )
    smile = [
        capsule((x0, y0, 0.74), (x1, y1, 0.74), 0.045, 0.045)
        for x0, y0, x1, y1 in (
            (-0.3, -0.42, -0.12, -0.5),
            (-0.12, -0.5, 0.12, -0.5),
            (0.12, -0.5, 0.3, -0.42),
        )
    ]
    sockets = [ellipsoid((x, 0.2, 0.66), (0.17, 0.13, 0.16)) for x in (-0.28, 0.28)]
    knife = facets((0.735, 0.97, 0.76), 70, look.seed)

    def carved(p: np.ndarray) -> np.ndarray:
        whittled = carve(skull, smile + sockets, 0.03)(p)
        upper = (p[:, 1] > 0.25) | (p[:, 2] < 0.3)
        return np.where(upper, np.maximum(whittled, knife(p)), whittled)

    shape = mesh_solid(carved, (-1, -1.3, -0.9), (1, 1.15, 1.5), resolution, _face_paint(look))
    return {"head": _wooden(shape), **_eyes(look), **_hair(look), **_brows(look)}


def _face_paint(look: Look) -> Paint:
    grain = wood(look.light, look.dark, 1.0)

    def paint(p: np.ndarray, normals: np.ndarray) -> np.ndarray:
        colour = grain(p, normals)
        cheek = np.exp(-(((np.abs(p[:, 0]) - 0.42) / 0.2) ** 2) - ((p[:, 1] + 0.2) / 0.18) ** 2) * (p[:, 2] > 0)
        lips = np.exp(-((p[:, 0] / 0.3) ** 4) - ((p[:, 1] + 0.5 - 0.5 * p[:, 0] ** 2) / 0.055) ** 4)
        lips = lips * (p[:, 2] > 0.3)
        for weight, tint in ((0.55 * cheek, (0.55, 0.1, 0.05)), (0.9 * lips, (0.33, 0.03, 0.025))):
            colour = colour * (1 - weight[:, None]) + np.asarray(tint) * weight[:, None]
        return colour

    return paint


def _wooden(path: Path, roughness: float = 0.35) -> dict[str, Any]:
    return {
        "type": "ply",
        "filename": str(path),
        "bsdf": {
            "type": "principled",
            "base_color": {"type": "mesh_attribute", "name": "vertex_color"},
            "roughness": roughness,
            "specular": 0.45,
        },
    }


def _eyes(look: Look) -> dict[str, Any]:
    def paint(side: float) -> Paint:
        def colour(p: np.ndarray, _n: np.ndarray) -> np.ndarray:
            from_axis = np.hypot(p[:, 0] - side + 0.02 * np.sign(side), p[:, 1] - 0.2)
            white = np.array([0.75, 0.72, 0.64])
            ray = 0.85 + 0.25 * np.sin(24 * np.arctan2(p[:, 1] - 0.2, p[:, 0] - side))
            iris = np.asarray(look.iris)[None] * ray[:, None]
            out = np.where((from_axis < 0.085)[:, None], iris, white)
            out = np.where(((from_axis > 0.075) & (from_axis < 0.09))[:, None], iris * 0.25, out)
            return np.where((from_axis < 0.04)[:, None], 0.006, out)

        return colour

    shapes = {}
    for i, side in enumerate((-0.28, 0.28)):
        ball = ellipsoid((side, 0.2, 0.56), (0.165, 0.145, 0.15))
        path = mesh_solid(ball, (side - 0.2, 0, 0.36), (side + 0.2, 0.4, 0.76), 90, paint(side))
        shapes[f"eye{i}"] = _wooden(path, 0.06)
    return shapes


def _brows(look: Look) -> dict[str, Any]:
    random = np.random.default_rng(look.seed + 5)
    strands: list[np.ndarray] = []
    for side in (-1, 1):
        for _ in range(170):
            t = random.uniform()
            root = np.array([side * (0.1 + 0.4 * t), 0.47 + 0.03 * random.normal(), 0.8 - 0.2 * t * t])
            tip = root + np.array([side * 0.1, 0.06 + 0.03 * random.normal(), 0.05])
            strands.append(np.linspace(root, tip, 4) + np.array([0, 0, 0.02]))
    return {"brows": curves(strands, 0.008, tuple(0.5 * np.asarray(look.hair)))}


def _hair(look: Look) -> dict[str, Any]:
    """Yarn rooted on the skull, falling outwards with a curl."""
    random = np.random.default_rng(look.seed)
    strands: list[np.ndarray] = []
    while len(strands) < 2600:
        direction = random.normal(size=3)
        direction /= np.linalg.norm(direction)
        if direction[1] < -0.05 or (direction[2] > 0.35 and direction[1] < 0.72):
            continue
        root = direction * np.array([0.72, 0.95, 0.74]) + np.array([0, 0.05, 0])
        length = look.hair_length * random.uniform(0.7, 1.3)
        phase, turns = random.uniform(0, 6.28), random.uniform(1.5, 3.5)
        points = []
        for t in np.linspace(0, 1, 16):
            out = direction * np.array([1, 0.55, 1]) * length * t * (1 - 0.35 * t)
            fall = np.array([0, -0.9 * length * t * t, -0.12 * t])
            curl = 0.05 * t * np.array([np.cos(phase + turns * 6.28 * t), 0, np.sin(phase + turns * 6.28 * t)])
            points.append(root + out + fall + curl)
        strands.append(np.array(points))
    return {"hair": curves(strands, 0.009, look.hair)}


def curves(strands: list[np.ndarray], radius: float, colour: tuple[Any, ...]) -> dict[str, Any]:
    """Round threads through points. (The renderer's B-spline curves crash it at random.)"""
    with tempfile.NamedTemporaryFile("w", suffix=".txt", delete=False) as file:
        for strand in strands:
            for i, point in enumerate(strand):
                thin = radius * (1 - 0.5 * i / len(strand))
                file.write(f"{point[0]:.5f} {point[1]:.5f} {point[2]:.5f} {thin:.5f}\n")
            file.write("\n")
    bsdf = {
        "type": "principled",
        "base_color": {"type": "rgb", "value": [float(c) for c in colour]},
        "roughness": 0.5,
        "specular": 0.3,
    }
    return {"type": "linearcurve", "filename": file.name, "bsdf": bsdf}


def body(look: Look, arm_left: float, arm_right: float) -> dict[str, Any]:
    """Robe, collar, sleeves and hands below a head at the origin; arms raised by an angle in radians."""
    shapes: dict[str, Any] = {"robe": _robe(look)}
    for i, (side, angle) in enumerate(((-1, arm_left), (1, arm_right))):
        shoulder = np.array([side * 0.62, -1.5, 0.05])
        along = np.array([side * np.cos(angle), np.sin(angle), 0.35])
        wrist = shoulder + 1.25 * along / np.linalg.norm(along)
        sleeve = capsule(tuple(shoulder), tuple(wrist), 0.26, 0.34)
        low, high = np.minimum(shoulder, wrist) - 0.6, np.maximum(shoulder, wrist) + 0.6
        path = mesh_solid(sleeve, tuple(low), tuple(high), 90, plain(look.robe, 0.2, 20))
        shapes[f"sleeve{i}"] = _cloth(path)
        palm = wrist + 0.34 * along / np.linalg.norm(along)
        fingers = [
            capsule(tuple(palm), tuple(palm + 0.3 * along + np.array([0.1 * k, 0.1 * abs(k), 0.05])), 0.08, 0.05)
            for k in (-1.5, -0.5, 0.5, 1.5)
        ]
        hand = blend([ellipsoid(tuple(palm), (0.19, 0.19, 0.14)), *fingers], 0.03)
        path = mesh_solid(hand, tuple(palm - 0.7), tuple(palm + 0.7), 90, wood(look.light, look.dark, 1.5))
        shapes[f"hand{i}"] = _wooden(path)
        shapes[f"string{i}"] = string(palm, palm + np.array([side * 0.2, 9.0, 0]))
    shapes["string-head"] = string(np.array([0.0, 1.0, 0.0]), np.array([0.0, 9.0, 0.0]))
    return shapes


def string(start: np.ndarray, end: np.ndarray) -> dict[str, Any]:
    """A taut black thread."""
    return {
        "type": "cylinder",
        "p0": [float(v) for v in start],
        "p1": [float(v) for v in end],
        "radius": 0.012,
        "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": [0.03, 0.025, 0.02]}},
    }


def _robe(look: Look) -> dict[str, Any]:
    around, down = np.meshgrid(np.linspace(0, 2 * np.pi, 700), np.linspace(0, 1, 420))
    folds = 0.10 * down * np.sin(11 * around + 2 * np.sin(3 * down)) + 0.05 * down * np.sin(23 * around + 1.3)
    radius = 0.34 + 0.42 * np.sqrt(down) + 0.34 * down**2 + folds
    points = np.stack([radius * np.cos(around), -1.05 - 2.3 * down, 0.85 * radius * np.sin(around)], axis=-1)
    weave = 1 + 0.10 * np.sin(around * 350) * np.sin(down * 900)
    colour = np.asarray(look.robe)[None, None] * weave[..., None]
    trim = np.asarray(look.trim)[None, None] * weave[..., None]
    banded = (np.abs(down - 0.9) < 0.035) | (down < 0.06)
    dots = (np.mod(around * 40 / (2 * np.pi), 1) - 0.5) ** 2 + ((np.mod(down * 16, 1) - 0.5) * 1.0) ** 2 < 0.03
    colour = np.where((banded | (dots & (down > 0.15)))[..., None], trim, colour)
    return _cloth(mesh_grid(points, colour))


def _cloth(path: Path) -> dict[str, Any]:
    return {
        "type": "ply",
        "filename": str(path),
        "bsdf": {
            "type": "twosided",
            "inner": {
                "type": "principled",
                "base_color": {"type": "mesh_attribute", "name": "vertex_color"},
                "roughness": 0.8,
                "sheen": 0.8,
                "specular": 0.2,
            },
        },
    }


def placed(shapes: dict[str, Any], name: str, transform: Any) -> dict[str, Any]:
    """The shapes moved by a transform, under names that begin with ``name``."""
    return {f"{name}-{key}": {**shape, "to_world": transform} for key, shape in shapes.items()}
