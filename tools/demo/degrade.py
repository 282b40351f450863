"""Makes the six demo sources as the story says; the originals stay as known answers."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

from tools.camera.sensor import CAMERA_FROM_XYZ, SimulatedCamera
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic

# Variance = shot x signal + read, as of a sensor that holds 25,000 electrons, at ISO 6400.
_HIGH_SENSITIVITY = SensorNoise(2.5e-3, 2.5e-3**2)
ROOT = Path(__file__).parents[2]
RAW = ROOT / "build" / "demo"
OUT = ROOT / "src" / "wamplex" / "demo"
ORIGINALS = ROOT / "demo-originals"


def main() -> None:
    """Write sources into the application's demo folder, originals beside the project."""
    OUT.mkdir(parents=True, exist_ok=True)
    ORIGINALS.mkdir(exist_ok=True)
    for make in (_stage, _rehearsal, _backdrop, _poster, _head, _dress_rehearsal):
        make()


def _load(name: str) -> Image.Image:
    return Image.open(RAW / f"{name}.png").convert("RGB")


def _cleaned(name: str, strength: float) -> Image.Image:
    """A render without the path tracer's own grain (non-local means, Buades et al. 2005)."""
    pixels = np.asarray(_load(name))
    return Image.fromarray(cv2.fastNlMeansDenoisingColored(pixels, None, strength, strength, 5, 15))


def _shrunk(image: Image.Image, width: int) -> Image.Image:
    return image.resize((width, round(image.height * width / image.width)), Image.Resampling.BICUBIC)


def _stage() -> None:
    """A web photo: small, and saved as JPEG at a low quality."""
    image = _cleaned("stage", 7)
    image.save(ORIGINALS / "stage-web.jpg", quality=92)
    _shrunk(image, 400).save(
        OUT / "stage-web.jpg", quality=42, icc_profile=make_profile(SRGB), exif=_exif("Pocket camera", 2011)
    )


def _rehearsal() -> None:
    """A snapshot at a high sensitivity: shot noise, coarser in colour, then the camera's own JPEG."""
    image = _cleaned("rehearsal", 7)
    image.save(ORIGINALS / "rehearsal.jpg", quality=90)
    small = np.asarray(_shrunk(image, 768)).astype(np.float64)
    random = np.random.default_rng(12)
    spread = np.sqrt(4.0**2 + 0.9 * small)
    noisy = small + spread * 0.62 * random.normal(size=small.shape)
    colour = np.stack([gaussian_filter(random.normal(size=small.shape[:2]), 1.6) * 5.6 for _ in range(3)], axis=-1)
    noisy += 5.0 * (colour - colour.mean(axis=2, keepdims=True))
    picture = Image.fromarray(np.clip(np.rint(noisy), 0, 255).astype(np.uint8))
    picture.save(OUT / "rehearsal.jpg", quality=88, icc_profile=make_profile(SRGB), exif=_exif("Night camera", 2024))


def _backdrop() -> None:
    """What a picture generator hands out: small and clean."""
    image = _load("backdrop")
    image.save(ORIGINALS / "dusk-backdrop.jpg", quality=93)
    _shrunk(image, 640).save(OUT / "dusk-backdrop.png")


def _poster() -> None:
    """A scan at a low density: slightly soft, with the paper's grain."""
    image = _load("poster")
    image.save(ORIGINALS / "linocut-poster.jpg", quality=88)
    small = np.asarray(_shrunk(image, 520)).astype(np.float64)
    soft = gaussian_filter(small, (0.45, 0.45, 0)) + np.random.default_rng(3).normal(0, 1.2, small.shape)
    Image.fromarray(np.clip(np.rint(soft), 0, 255).astype(np.uint8)).save(OUT / "linocut-poster.png", dpi=(75, 75))


def _head() -> None:
    """A tiny crop out of a larger picture."""
    image = _cleaned("carved_head", 2)
    image.save(ORIGINALS / "carved-head.jpg", quality=93)
    _shrunk(image, 200).save(OUT / "carved-head.png")


def _dress_rehearsal() -> None:
    """A raw file, three stops underexposed at a high sensitivity, to be printed 60 cm wide."""
    light = np.load(RAW / "dress_rehearsal.npy")
    image = _cleaned("dress_rehearsal", 9)
    image.save(ORIGINALS / "dress-rehearsal.jpg", quality=92)
    height, width = light.shape[0] // 2, light.shape[1] // 2
    small = light.reshape(height, 2, width, 2, 3).mean(axis=(1, 3))
    # What is seen as white of cloth and faces lies three stops under the sensor's white; lanterns reach it.
    exposed = small / np.quantile(small.max(axis=2), 0.97) / 8
    camera = SimulatedCamera(CAMERA_FROM_XYZ, _HIGH_SENSITIVITY)
    neutral = (1 / camera.gains[0], 1.0, 1 / camera.gains[2])
    tags = MosaicTags(CAMERA_FROM_XYZ, neutral, model="Hollowmere Night camera", iso=6400, exposure_s=1 / 60)
    write_mosaic(OUT / "dress-rehearsal.dng", camera.levels(exposed, seed=21), tags)


def _exif(camera: str, year: int) -> Image.Exif:
    exif = Image.Exif()
    exif[270] = "Hollowmere Puppet Theatre (a made-up place)"
    exif[271] = "Hollowmere"
    exif[272] = camera
    exif[306] = f"{year}:10:04 19:30:00"
    return exif


if __name__ == "__main__":
    main()
