"""Takes finished pictures back to what a sensor would have seen of them (Brooks et al. 2019)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import torch
from torch.nn import functional

from training.patches import PatchSource
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.mosaic_planes import network_input
from wamplex.core.raw.tone_curve import srgb_encode

_CLEAN_SHARE = 0.2
_LEAST_SHOT, _MOST_SHOT = 3e-5, 0.03
# Shares and stops of what is brightened when it is developed.
_AS_EXPOSED, _MOST_STOPS = 0.65, 3.5
_AS_IT_IS = 0.5


@dataclass(frozen=True)
class Sensor:
    """One camera and exposure, for light whose green is cut off at 1.

    Attributes
    ----------
    matrix : (3, 3) from the picture's colours to the camera's, rows of sum 1, so that grey stays grey
    gains : of the white balance, for red, green, blue
    noise : of the sensor before the white balance
    white : where the sensor is cut off; above 1 in pictures that are brightened when they are developed
    """

    matrix: np.ndarray
    gains: tuple[float, float, float]
    noise: SensorNoise
    white: float = 1.0

    @property
    def balanced_noise(self) -> tuple[SensorNoise, SensorNoise, SensorNoise]:
        """Of red, green and blue after the white balance."""
        red, green, blue = (self.noise.amplified(gain) for gain in self.gains)
        return red, green, blue

    def seen_by(self, light: np.ndarray, random: np.random.Generator) -> np.ndarray:
        """The balanced mosaic of (H, W, 3) linear light, red first: (H, W), with noise, cut off at white."""
        mosaic = np.empty(light.shape[:2], np.float32)
        for (row, column), channel in (((0, 0), 0), ((0, 1), 1), ((1, 0), 1), ((1, 1), 2)):
            place = np.s_[row::2, column::2]
            raw = np.clip(light[place][..., channel] / self.gains[channel], 0, self.white)
            mosaic[place] = np.minimum(noisy(raw, self.noise, random), self.white) * self.gains[channel]
        return mosaic


def noisy(raw: np.ndarray, noise: SensorNoise, random: np.random.Generator) -> np.ndarray:
    """A signal from 0 on with shot noise as photons make it and Gaussian read noise."""
    if noise.shot > 0:
        raw = random.poisson(raw / noise.shot) * noise.shot
    if noise.read > 0:
        raw = raw + random.normal(0, noise.read**0.5, raw.shape)
    return raw.astype(np.float32)


def random_sensor(random: np.random.Generator) -> Sensor:
    """A camera as there might be one."""
    mixed = random.uniform(0, 0.3, (3, 3)) * random.uniform(0, 1)
    np.fill_diagonal(mixed, 0)
    matrix = mixed + np.diag(1 - mixed.sum(axis=1))
    gains = (float(random.uniform(1.2, 2.8)), 1.0, float(random.uniform(1.2, 2.6)))
    white = 1.0 if random.random() < _AS_EXPOSED else float(2.0 ** random.uniform(0, _MOST_STOPS))
    if random.random() < _CLEAN_SHARE:
        return Sensor(matrix, gains, SensorNoise(), white)
    shot = float(np.exp(random.uniform(np.log(_LEAST_SHOT), np.log(_MOST_SHOT))))
    # Where there is much shot noise, there is much read noise: about as in the cameras of Brooks et al.
    read = float(0.17 * shot**0.6 * 10 ** random.normal(0, 0.25))
    return Sensor(matrix, gains, SensorNoise(shot, read * read), white)


def linear_light(pixels: np.ndarray) -> np.ndarray:
    """sRGB uint8 to linear light, float32 in 0..1 (IEC 61966-2-1)."""
    return _LINEAR[pixels]


_LEVELS = np.arange(256) / 255
_LINEAR = np.where(_LEVELS <= 0.04045, _LEVELS / 12.92, ((_LEVELS + 0.055) / 1.055) ** 2.4).astype(np.float32)


def shrunk_light(light: np.ndarray, factor: int, mode: str = "bicubic") -> np.ndarray:
    """Linear light shrunk by a whole factor: antialiased bicubic, or the mean of the area."""
    if factor == 1:
        return light
    tensor = torch.from_numpy(np.ascontiguousarray(light.transpose(2, 0, 1)))[None]
    if mode == "area":
        small = functional.avg_pool2d(tensor, factor)
    else:
        size = (light.shape[0] // factor, light.shape[1] // factor)
        small = functional.interpolate(tensor, size, mode="bicubic", antialias=True)
    return small[0].numpy().transpose(1, 2, 0)


class SensorSource(PatchSource):
    """Draws mosaics and what they were made from."""

    def batch(self, factor: int, count: int) -> tuple[torch.Tensor, torch.Tensor]:
        """``count`` pairs: (N, 10, s/2, s/2), and (N, 3, s f, s f) as seen in the camera's colours."""
        pairs = [self._mosaic_pair(factor) for _ in range(count)]
        small, large = (np.stack(parts) for parts in zip(*pairs, strict=True))
        return torch.from_numpy(small), torch.from_numpy(large)

    def _mosaic_pair(self, factor: int) -> tuple[np.ndarray, np.ndarray]:
        side = self._family.patch_px
        large, _ = self.cut_with_collection(side * factor * (2 if self._is_halved(factor) else 1))
        light = linear_light(large)
        if light.shape[0] > side * factor:
            light = np.clip(shrunk_light(light, 2), 0, 1)
        sensor = random_sensor(self.random)
        light = light @ sensor.matrix.T.astype(np.float32)
        if self.random.random() > _AS_IT_IS:
            most = 1.0 if sensor.white == 1 else 2.5
            light = light * np.float32(2.0 ** self.random.uniform(-2.5, most))
        small = shrunk_light(light, factor, "area" if self.random.random() < 0.25 else "bicubic")
        mosaic = sensor.seen_by(small, self.random)
        truth = np.minimum(light, np.array(sensor.gains, np.float32) * np.float32(sensor.white))
        return network_input(mosaic, sensor.balanced_noise), srgb_encode(truth.transpose(2, 0, 1))

    def _is_halved(self, factor: int) -> bool:
        """Pictures were once made from mosaics themselves; at half the size every colour is sharp."""
        return factor == 1 and self.random.random() < 0.6
