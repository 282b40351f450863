"""A mosaic as planes: its cells of two by two pixels become one pixel of four planes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.tone_curve import srgb_encode

# Noise below black goes no further; so far it comes where a dark file is brightened by six stops.
_DARKEST = np.float32(-2.0)
# So that noise as it is met lies between 0 and 1.
_SHOT_SCALE, _READ_SCALE = 5.0, 30.0


def pack_mosaic(linear: NDArray[np.float32]) -> NDArray[np.float32]:
    """Red, green, green, blue of each cell, as seen: (H, W) that begins with red to (4, H/2, W/2)."""
    planes = (linear[0::2, 0::2], linear[0::2, 1::2], linear[1::2, 0::2], linear[1::2, 1::2])
    return np.maximum(srgb_encode(np.stack(planes)), _DARKEST)


def conditioning_planes(noise: tuple[SensorNoise, SensorNoise, SensorNoise]) -> NDArray[np.float32]:
    """Conditioning values of a network for the noise of red, green and blue: (6,) float32."""
    shot = [_SHOT_SCALE * max(channel.shot, 0.0) ** 0.5 for channel in noise]
    read = [_READ_SCALE * max(channel.read, 0.0) ** 0.5 for channel in noise]
    return np.array(shot + read, np.float32)


def network_input(
    linear: NDArray[np.float32], noise: tuple[SensorNoise, SensorNoise, SensorNoise]
) -> NDArray[np.float32]:
    """All that a network is given: (10, H/2, W/2) for a balanced mosaic (H, W) that begins with red."""
    planes = pack_mosaic(linear)
    return np.concatenate([planes, np.broadcast_to(conditioning_planes(noise)[:, None, None], (6, *planes.shape[1:]))])
