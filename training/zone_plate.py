"""A zone plate in front of the simulated camera: where methods invent colours, mazes and zippers."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from training.heldout_raw import opened_camera
from wamplex.core.colour.lab import srgb_to_lab32
from wamplex.core.model.development import Development, Method
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.trial.developed_picture import develop_picture

_SIDE_PX = 384
_METHODS: tuple[Method, ...] = ("ahd", "dcb", "tessera")


def zone_plate(side: int = _SIDE_PX) -> np.ndarray:
    """Grey rings whose frequency grows with the distance: 0.4 cycles a pixel at the middle of the sides."""
    across, down = np.meshgrid(*[np.arange(side) - side / 2] * 2)
    rings = 0.5 + 0.45 * np.cos(np.pi * 0.8 * (across**2 + down**2) / side)
    return np.repeat(np.clip(rings, 0, 1)[..., None], 3, axis=2)


def write_zone_plate(out: Path) -> dict[Method, float]:
    """Write the plate as several methods make it, side by side; the mean colourfulness of each, in CIELAB."""
    light = zone_plate()
    made: list[np.ndarray] = []
    found: dict[Method, float] = {}
    with tempfile.TemporaryDirectory() as folder:
        picture = opened_camera(Path(folder) / "plate.dng", light, SensorNoise())
        for method in _METHODS:
            pixels = develop_picture(picture, Recipe(development=Development(space="srgb", method=method))).pixels
            lab = srgb_to_lab32(pixels)
            found[method] = float(np.hypot(lab[..., 1], lab[..., 2]).mean())
            made.append(pixels)
    joined = np.concatenate(made, axis=1)
    out.parent.mkdir(parents=True, exist_ok=True)
    Image.fromarray(np.rint(joined * 255).astype(np.uint8)).save(out)
    return found
