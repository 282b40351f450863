"""Held-out photographs as raw files: one simulated camera, three kinds of light."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
from tools.camera.sensor import XYZ_FROM_SRGB, SimulatedCamera

from training.heldout import held_out_photographs
from training.network import Enlarger
from training.sensor import Sensor, linear_light, shrunk_light
from wamplex.core.intake.read import read_picture
from wamplex.core.model.development import Development
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic
from wamplex.core.raw.mosaic_planes import network_input
from wamplex.core.trial.developed_picture import develop_picture

BORDER_PX = 8
_QUICK_PX = 280_000
GAINS = (2.0, 1.0, 1.54)
NOISES = {
    "clean": SensorNoise(),
    "middle": SensorNoise(0.0005, 0.002**2),
    "strong": SensorNoise(0.004, 0.006**2),
}


def simulated(picture: np.ndarray, factor: int, noise: SensorNoise) -> tuple[np.ndarray, np.ndarray, Sensor]:
    """What a raw file holds of a picture shrunk in linear light.

    Parameters
    ----------
    picture : (H, W, 3) uint8, sRGB

    Returns
    -------
    truth (H, W, 3) uint8, cut so that its mosaic has whole cells; the balanced mosaic (H / f, W / f) float32,
    which begins with red; the sensor
    """
    height, width = (n - n % (2 * factor) for n in picture.shape[:2])
    truth = np.ascontiguousarray(picture[:height, :width])
    small = np.clip(shrunk_light(linear_light(truth), factor), 0, 1)
    sensor = Sensor(np.eye(3), GAINS, noise)
    return truth, sensor.seen_by(small, np.random.default_rng(11)), sensor


def opened_camera(path: Path, light: np.ndarray, noise: SensorNoise) -> Picture:
    """Linear light (H, W, 3) in front of the simulated camera, opened again and developed into sRGB.

    The camera's colours are those of sRGB, seen through the balance turned round.
    """
    from_xyz = np.diag(1 / np.asarray(GAINS)) @ np.linalg.inv(XYZ_FROM_SRGB)
    camera = SimulatedCamera(from_xyz, noise)
    neutral = (1 / GAINS[0], 1.0, 1 / GAINS[2])
    write_mosaic(path, camera.levels(light, seed=11), MosaicTags(from_xyz, neutral, noise=noise))
    picture = read_picture(path)
    return develop_picture(picture, Recipe(development=Development(space="srgb")))


def colour_psnr(result: np.ndarray, truth: np.ndarray) -> float:
    """PSNR in dB of all channels of uint8 pictures, border cut off."""
    cut = (slice(BORDER_PX, -BORDER_PX), slice(BORDER_PX, -BORDER_PX))
    squared = np.square(result[cut].astype(np.float64) - truth[cut]).mean()
    return float(10 * np.log10(255**2 / max(squared, 1e-6)))


@torch.no_grad()
def measured_raw(work: Path, network: Enlarger, factor: int, noise: SensorNoise) -> float:
    """Mean PSNR in dB over the smaller held-out photographs of what a network makes of their mosaics."""
    found = []
    for picture in held_out_photographs(work).values():
        if picture.shape[0] * picture.shape[1] > _QUICK_PX:
            continue
        truth, mosaic, sensor = simulated(picture, factor, noise)
        # Cells of cells must be whole too; what is repeated past the border is cut off again.
        even = np.pad(mosaic, [(0, -n % 4) for n in mosaic.shape], mode="symmetric")
        tensor = torch.from_numpy(network_input(even, sensor.balanced_noise))[None]
        made = network(tensor.contiguous(memory_format=torch.channels_last), factor)[0]
        made = made[:, : truth.shape[0], : truth.shape[1]].clamp(0, 1)
        found.append(colour_psnr((made * 255).round().byte().numpy().transpose(1, 2, 0), truth))
    return float(np.mean(found))
