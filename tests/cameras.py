"""Raw files for tests: a chart in front of the simulated camera."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from tools.camera.sensor import CAMERA_FROM_XYZ, SimulatedCamera

from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic

CAMERA = SimulatedCamera(CAMERA_FROM_XYZ, SensorNoise())


def chart(width: int = 96, height: int = 64) -> NDArray[np.float64]:
    """Linear sRGB light: a ramp of colours with a few hard edges."""
    across, down = np.meshgrid(np.linspace(0, 1, width), np.linspace(0, 1, height))
    light = np.stack([across, down, 1 - across], axis=-1) * 0.8 + 0.05
    light[height // 4 : height // 2, width // 3 : width // 2] = (0.6, 0.1, 0.1)
    return light


def raw_file(
    path: Path,
    light: NDArray[np.float64],
    *,
    noise: SensorNoise | None = None,
    told: bool = False,
    orientation: int = 1,
    pattern: tuple[int, int, int, int] = (0, 1, 1, 2),
) -> Path:
    """A DNG of this light; a pattern that does not begin with red cuts off the first row or column."""
    camera = SimulatedCamera(CAMERA_FROM_XYZ, noise or SensorNoise())
    mosaic = camera.levels(light, seed=3)
    column, row = pattern.index(0) % 2, pattern.index(0) // 2
    # A mosaic begun one pixel later begins with another colour.
    mosaic = mosaic[row:, column:]
    gains = camera.gains
    tags = MosaicTags(
        CAMERA_FROM_XYZ,
        (1 / gains[0], 1.0, 1 / gains[2]),
        pattern=pattern,
        noise=camera.noise if told else None,
        orientation=orientation,
    )
    write_mosaic(path, mosaic, tags)
    return path
