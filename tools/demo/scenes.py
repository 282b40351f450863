"""The three photographed scenes, as descriptions for the path tracer."""

from __future__ import annotations

from typing import Any

import mitsuba as mi
import numpy as np

from tools.demo.puppet import Look, body, curves, head, placed
from tools.demo.solids import mesh_grid

KING = Look(3, (0.05, 0.09, 0.32), (0.65, 0.45, 0.1), (0.28, 0.20, 0.12), (0.10, 0.22, 0.12), 1.2, 0.45)
MAID = Look(8, (0.30, 0.34, 0.07), (0.7, 0.6, 0.4), (0.42, 0.09, 0.03), (0.05, 0.12, 0.3), 0.5, 0.75)
FOOL = Look(5, (0.45, 0.06, 0.04), (0.75, 0.55, 0.1), (0.06, 0.04, 0.03), (0.16, 0.08, 0.03), 0.9, 0.4)


def _rgb(*value: float) -> dict[str, Any]:
    return {"type": "rgb", "value": list(value)}


def _camera(origin: list[Any], target: list[Any], fov: float, size: tuple[int, int], samples: int) -> dict[str, Any]:
    return {
        "type": "thinlens",
        "to_world": mi.ScalarTransform4f().look_at(origin=origin, target=target, up=[0, 1, 0]),
        "fov": fov,
        "aperture_radius": 0.035,
        "focus_distance": float(np.linalg.norm(np.array(origin) - np.array(target))),
        "film": {
            "type": "hdrfilm",
            "width": size[0],
            "height": size[1],
            "rfilter": {"type": "gaussian", "stddev": 0.42},
        },
        "sampler": {"type": "independent", "sample_count": samples},
    }


def _curtain(z: float, left: float, right: float, top: float, gather: float = 0.0) -> dict[str, Any]:
    """Velvet in deep folds from ``left`` to ``right``, drawn towards ``left`` at the middle by ``gather``."""
    u, v = np.meshgrid(np.linspace(0, 1, 1100), np.linspace(0, 1, 420))
    span = abs(right - left)
    phase = span * (3.1 * u + 0.15 * np.sin(5.3 * u + left)) + 0.8 * np.sin(2.5 * v + 4 * u) + left
    depth = (0.34 * np.sin(phase * 2) + 0.1 * np.sin(4.26 * phase + 1)) * (0.75 + 0.35 * v)
    depth += 0.02 * np.sin(31 * u + 19 * v)
    drawn = 1 - gather * np.sin(np.pi * np.clip(v * 1.15, 0, 1)) ** 1.5
    points = np.stack([left + (right - left) * u * drawn, top - v * (top + 3.4), z + depth], axis=-1)
    pile = np.random.default_rng(2).normal(1, 0.10, u.shape)
    shade = np.clip(0.75 + 0.3 * np.sin(phase * 2), 0.3, 1.1) * pile
    fringe = (v > 0.955) & (np.sin(u * span * 150) > -0.4)
    colour = np.where(fringe[..., None], np.array([0.62, 0.40, 0.09]), np.array([0.42, 0.012, 0.022]))
    velvet = {
        "type": "principled",
        "base_color": {"type": "mesh_attribute", "name": "vertex_color"},
        "roughness": 0.7,
        "sheen": 1.0,
        "sheen_tint": 0.8,
        "specular": 0.1,
    }
    if right < left:
        points, colour = points[:, ::-1], colour[:, ::-1]
        shade = shade[:, ::-1]
    return {
        "type": "ply",
        "filename": str(mesh_grid(points, colour * shade[..., None])),
        "bsdf": {"type": "twosided", "inner": velvet},
    }


def _boards(z0: float, z1: float, half: float, y: float) -> dict[str, Any]:
    """Stage floor of planks."""
    x, z = np.meshgrid(np.linspace(-half, half, 1500), np.linspace(z0, z1, 1100))
    plank = np.floor(x / 0.62)
    random = np.random.default_rng(4)
    tone = random.uniform(0.65, 1.1, 400)[plank.astype(int) % 400]
    shift = random.uniform(0, 50, 400)[plank.astype(int) % 400]
    grain = 0.5 + 0.5 * np.sin(38 * x + 2.4 * np.sin(1.1 * z + shift) + 1.2 * np.sin(2.7 * z + 2 * shift) + shift)
    fine = random.normal(0, 0.06, x.shape)
    base = np.array([0.30, 0.16, 0.075])
    colour = base * (tone * (0.72 + 0.4 * grain + fine))[..., None]
    gap = np.abs(np.mod(x / 0.62, 1) - 0.5) > 0.485
    colour[gap] *= 0.12
    height = y - 0.03 * gap
    return {
        "type": "ply",
        "filename": str(mesh_grid(np.stack([x, height, z], axis=-1)[::-1], colour[::-1])),
        "bsdf": {
            "type": "twosided",
            "inner": {
                "type": "principled",
                "base_color": {"type": "mesh_attribute", "name": "vertex_color"},
                "roughness": 0.32,
                "specular": 0.5,
            },
        },
    }


def _glow(place: tuple[Any, ...], radius: float, power: tuple[Any, ...]) -> dict[str, Any]:
    return {
        "type": "sphere",
        "center": list(place),
        "radius": radius,
        "emitter": {"type": "area", "radiance": _rgb(*power)},
    }


def _lantern(place: tuple[Any, ...], power: float) -> dict[str, Any]:
    """Paper lantern lit from inside: a glowing body, bamboo ribs, caps and a cord; named parts."""
    x, y, z = place
    black = {"type": "diffuse", "reflectance": _rgb(0.02, 0.015, 0.01)}
    body = {
        "type": "sphere",
        "center": [x, y, z],
        "radius": 0.45,
        "emitter": {"type": "area", "radiance": _rgb(power, 0.5 * power, 0.15 * power)},
    }
    ribs = []
    for angle in np.linspace(0, 2 * np.pi, 16, endpoint=False):
        up = np.linspace(-1.4, 1.4, 14)
        out = 0.46 * np.cos(up)
        ribs.append(np.stack([x + out * np.cos(angle), y + 0.46 * np.sin(up), z + out * np.sin(angle)], axis=-1))
    parts = {"body": body, "ribs": curves(ribs, 0.014, (0.12, 0.05, 0.015))}
    for name, low, high, radius in (
        ("top", 0.46, 0.56, 0.13),
        ("bottom", -0.56, -0.46, 0.13),
        ("cord", 0.5, 7, 0.02),
    ):
        ends = {"p0": [x, y + low, z], "p1": [x, y + high, z]}
        parts[name] = {"type": "cylinder", **ends, "radius": radius, "bsdf": black}
    return parts


def _scene(camera: dict[str, Any], depth: int = 6) -> dict[str, Any]:
    return {"type": "scene", "integrator": {"type": "path", "max_depth": depth}, "camera": camera}


def stage(size: tuple[int, int], samples: int) -> dict[str, Any]:
    """The stage with its curtain drawn aside, two puppets in the spotlight."""
    t = mi.ScalarTransform4f
    scene = _scene(_camera([0.3, 0.1, 13.2], [0, -0.35, 0], 39, size, samples))
    scene["curtain-left"] = _curtain(1.2, -8.2, -2.6, 6.5, gather=0.22)
    scene["curtain-right"] = _curtain(1.2, 8.2, 2.6, 6.5, gather=0.22)
    scene["valance"] = _curtain(1.9, -8.2, 8.2, 6.5) | {"to_world": t().translate([0, 4.3, 0]).scale([1, 0.28, 1])}
    scene["back"] = _backcloth()
    scene["floor"] = _boards(-5, 9, 9, -3.4)
    scene |= placed(head(MAID, 170), "maid", t().translate([-1.35, 0.35, 0]).rotate([0, 1, 0], 20))
    scene |= placed(body(MAID, 0.5, -0.6), "maid-body", t().translate([-1.35, 0.35, 0]).rotate([0, 1, 0], 20))
    scene |= placed(head(KING, 170), "king", t().translate([1.35, 0.5, 0.2]).rotate([0, 1, 0], -24))
    scene |= placed(body(KING, -0.7, 0.7), "king-body", t().translate([1.35, 0.5, 0.2]).rotate([0, 1, 0], -24))
    scene["key"] = _glow((-4.5, 7.5, 9), 0.9, (34, 29, 22))
    scene["fill"] = _glow((7, 4, 10), 1.2, (3.4, 4.2, 6.0))
    for i, x in enumerate(np.linspace(-5.4, 5.4, 9)):
        scene[f"foot{i}"] = _glow((float(x), -3.2, 3.6), 0.17, (9, 5.6, 2.4))
    return scene


def _backcloth() -> dict[str, Any]:
    """A painted cloth: evening sky over hills, with a moon."""
    u, v = np.meshgrid(np.linspace(-1, 1, 1400), np.linspace(0, 1, 900))
    low, high = np.array([0.62, 0.28, 0.16]), np.array([0.03, 0.045, 0.16])
    colour = high + (low - high) * (v[..., None] ** 1.5)
    random = np.random.default_rng(6)
    for level, tint in ((0.62, (0.10, 0.07, 0.13)), (0.72, (0.05, 0.06, 0.08)), (0.83, (0.03, 0.06, 0.03))):
        ridge = level + sum(0.05 / k * np.sin(k * 4.1 * u + random.uniform(0, 6.3)) for k in (1, 2, 3, 5, 8, 13))
        colour = np.where((v > ridge)[..., None], np.asarray(tint), colour)
    moon = np.hypot((u - 0.12) * 1.6, v - 0.2) < 0.085
    colour = np.where(moon[..., None], np.array([0.8, 0.74, 0.55]), colour)
    stroke = 1 + 0.10 * np.sin(60 * v + 14 * np.sin(5 * u)) * np.sin(37 * u)
    colour *= (stroke * random.normal(1, 0.05, u.shape))[..., None]
    sag = 0.05 * np.sin(9 * u + 2 * v)
    points = np.stack([u * 5.4, 5.2 - v * 8.6, -2.6 + sag], axis=-1)
    return {
        "type": "ply",
        "filename": str(mesh_grid(points, colour)),
        "bsdf": {
            "type": "twosided",
            "inner": {"type": "diffuse", "reflectance": {"type": "mesh_attribute", "name": "vertex_color"}},
        },
    }


def rehearsal(size: tuple[int, int], samples: int) -> dict[str, Any]:
    """Backstage, lit by paper lanterns: puppets on their strings in front of brick."""
    t = mi.ScalarTransform4f
    scene = _scene(_camera([1.6, 0.6, 12.2], [0, -0.3, 0], 45, size, samples), depth=7)
    scene["wall"] = _bricks()
    scene["floor"] = _boards(-4, 8, 9, -3.6)
    cast = (
        (FOOL, -3.0, 0.2, 30, (0.6, -0.9)),
        (MAID, 0.1, -0.2, -10, (-0.9, -0.5)),
        (KING, 3.0, 0.4, -35, (0.1, 0.8)),
    )
    for i, (look, x, y, turn, arms) in enumerate(cast):
        place = t().translate([x, y, 0]).rotate([0, 1, 0], turn)
        scene |= placed(head(look, 140), f"head{i}", place) | placed(body(look, *arms), f"body{i}", place)
    for i, place in enumerate(((-4.7, 1.7, 1.6), (-1.5, 2.5, 2.2), (1.8, 2.2, 2.6), (4.7, 2.4, 1.2))):
        scene |= {f"lantern{i}-{name}": part for name, part in _lantern(place, 5.0).items()}
    scene["dim"] = _glow((2, 7, 11), 1.6, (2.2, 1.5, 0.9))
    return scene


def dress_rehearsal(size: tuple[int, int], samples: int) -> dict[str, Any]:
    """The stage before the first night: curtain half drawn, two lanterns, footlights turned low."""
    t = mi.ScalarTransform4f
    scene = _scene(_camera([-1.2, 0.4, 12.0], [-0.1, -0.1, 0], 42, size, samples), depth=5)
    scene["curtain-right"] = _curtain(1.0, 8.2, 3.3, 6.5, gather=0.16)
    scene["back"] = _backcloth()
    scene["floor"] = _boards(-5, 9, 9, -3.4)
    cast = (
        (FOOL, -2.9, 0.1, 32, (0.7, -0.2)),
        (MAID, 0.1, 0.25, 8, (-0.7, -0.5)),
        (KING, 2.7, 0.4, -30, (-0.3, 0.5)),
    )
    for i, (look, x, y, turn, arms) in enumerate(cast):
        place = t().translate([x, y, 0.2]).rotate([0, 1, 0], turn)
        scene |= placed(head(look, 170), f"head{i}", place) | placed(body(look, *arms), f"body{i}", place)
    for i, place in enumerate(((-4.3, 2.3, 1.0), (1.35, 2.6, 1.2))):
        scene |= {f"lantern{i}-{name}": part for name, part in _lantern(place, 4.0).items()}
    scene["moon"] = _glow((6, 7, 9), 1.6, (0.7, 0.95, 1.6))
    for i, x in enumerate(np.linspace(-3.6, 3.6, 4)):
        scene[f"foot{i}"] = _glow((float(x), -3.4, 3.6), 0.35, (0.8, 0.46, 0.18))
    return scene


def _bricks() -> dict[str, Any]:
    x, y = np.meshgrid(np.linspace(-9, 9, 1800), np.linspace(7, -3.6, 1100))
    row = np.floor(y / 0.42)
    column = np.floor(x / 1.15 + 0.5 * np.mod(row, 2))
    fx, fy = np.mod(x / 1.15 + 0.5 * np.mod(row, 2), 1), np.mod(y / 0.42, 1)
    mortar = (np.abs(fx - 0.5) > 0.475) | (np.abs(fy - 0.5) > 0.44)
    random = np.random.default_rng(9)
    tone = random.uniform(0.6, 1.25, 4096)[(row * 61 + column).astype(int) % 4096]
    rough = random.normal(1, 0.12, x.shape)
    colour = np.array([0.26, 0.12, 0.085]) * (tone * rough)[..., None]
    colour[mortar] = np.array([0.22, 0.2, 0.18]) * rough[mortar][:, None]
    depth = -2.4 + np.where(mortar, -0.05, 0.02 * tone) + 0.008 * random.normal(size=x.shape)
    return {
        "type": "ply",
        "filename": str(mesh_grid(np.stack([x, y, depth], axis=-1), colour)),
        "bsdf": {
            "type": "twosided",
            "inner": {"type": "diffuse", "reflectance": {"type": "mesh_attribute", "name": "vertex_color"}},
        },
    }


def carved_head(size: tuple[int, int], samples: int) -> dict[str, Any]:
    """The king's head close up, by a window."""
    t = mi.ScalarTransform4f
    scene = _scene(_camera([0.5, 0.15, 5.6], [0.0, 0.05, 0.4], 30, size, samples))
    place = t().rotate([0, 1, 0], 14)
    scene |= placed(head(KING, 420), "king", place) | placed(body(KING, -0.9, -0.9), "king-body", place)
    scene["curtain"] = _curtain(-2.4, -7.4, 7.4, 6.5)
    scene["window"] = {
        "type": "rectangle",
        "to_world": t().look_at(origin=[-4.5, 2.5, 4.0], target=[0, 0, 0.3], up=[0, 1, 0]).scale([1.2, 1.6, 1]),
        "emitter": {"type": "area", "radiance": _rgb(9.5, 9.0, 8.2)},
    }
    scene["lamp"] = _glow((4.5, 1.0, 2.5), 0.5, (9, 5.2, 2.4))
    scene["room"] = {"type": "constant", "radiance": _rgb(0.05, 0.05, 0.06)}
    return scene
