"""What the simulated sensor makes of light: its colours, its mosaic, its noise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.model.sensor_noise import SensorNoise

# From CIE XYZ to the camera's colours under daylight, made up: broad bands that overlap, as real ones do.
CAMERA_FROM_XYZ = np.array([[0.83, -0.21, -0.09], [-0.42, 1.25, 0.19], [-0.05, 0.19, 0.62]])
# IEC 61966-2-1.
XYZ_FROM_SRGB = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)


@dataclass(frozen=True)
class SimulatedCamera:
    """A camera with a Bayer filter that begins with red.

    Attributes
    ----------
    from_xyz : (3, 3) from XYZ to its own colours, green of white light being 1
    noise : before the white balance, full scale being 1
    black, white : levels of 14 bits
    """

    from_xyz: np.ndarray
    noise: SensorNoise
    black: int = 512
    white: int = 16383

    @property
    def gains(self) -> tuple[float, float, float]:
        """White balance for daylight (D65): green is 1."""
        seen = self.from_xyz @ XYZ_FROM_SRGB @ np.ones(3)
        return float(seen[1] / seen[0]), 1.0, float(seen[1] / seen[2])

    def levels(self, light: np.ndarray, seed: int) -> np.ndarray:
        """The mosaic (H, W) uint16 of linear sRGB light (H, W, 3); white paper at 1 just fills green."""
        seen = light @ (self.from_xyz @ XYZ_FROM_SRGB).T
        seen = np.clip(seen / (self.from_xyz @ XYZ_FROM_SRGB @ np.ones(3))[1], 0, 1)
        random = np.random.default_rng(seed)
        mosaic = np.empty(seen.shape[:2])
        for row, column, channel in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
            mosaic[row::2, column::2] = seen[row::2, column::2, channel]
        if self.noise.shot > 0:
            mosaic = random.poisson(mosaic / self.noise.shot) * self.noise.shot
        mosaic = mosaic + random.normal(0, self.noise.read**0.5, mosaic.shape)
        scaled = np.rint(self.black + mosaic * (self.white - self.black))
        return np.clip(scaled, 0, self.white).astype(np.uint16)
