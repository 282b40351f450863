"""Steps of sensors, films and the programs that clean what they recorded."""

from __future__ import annotations

import cv2
import numpy as np
from skimage.restoration import denoise_wavelet

from training.unlisted.step import Levels, Step, eight_bits, spread


def _sensor_noise(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma = spread(random, 1.0, 25.0)
    light = np.sqrt(np.clip(levels, 0, 255) / 128 + 0.05)
    noisy = levels + sigma * light * random.standard_normal(levels.shape)
    return noisy.astype(np.float32), f"{sigma:.1f} levels, growing with the light"


def _even_noise(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma = spread(random, 1.0, 25.0)
    noisy = levels + sigma * random.standard_normal((*levels.shape[:2], 1))
    return noisy.astype(np.float32), f"{sigma:.1f} levels of lightness"


def _colour_noise(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma, grain = spread(random, 3.0, 40.0), spread(random, 0.5, 2.0)
    noise = cv2.GaussianBlur(random.standard_normal(levels.shape).astype(np.float32), (0, 0), grain)
    noise = noise / noise.std() * sigma
    luma = noise @ np.array([0.299, 0.587, 0.114], np.float32)
    return levels + noise - luma[..., None], f"{sigma:.1f} levels of colour alone, {grain:.1f} px"


def _film_grain(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma, grain = spread(random, 2.0, 16.0), spread(random, 0.5, 1.5)
    noise = cv2.GaussianBlur(random.standard_normal(levels.shape[:2]).astype(np.float32), (0, 0), grain)
    middle = np.clip(levels.mean(axis=2) / 255, 0, 1)
    strength = sigma * 2 * np.sqrt(np.clip(middle * (1 - middle), 0.02, 1))
    grained = levels + (noise / noise.std() * strength)[..., None]
    return grained.astype(np.float32), f"{sigma:.1f} levels, {grain:.1f} px"


def _banding(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma, axis = spread(random, 0.7, 5.0), int(random.integers(2))
    shape = (levels.shape[0], 1, 1) if axis == 0 else (1, levels.shape[1], 1)
    rows = random.standard_normal(shape)
    return (levels + sigma * rows).astype(np.float32), f"{sigma:.1f} levels of {'rows' if axis == 0 else 'columns'}"


def _bilateral(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    colour, space = spread(random, 8, 50), spread(random, 1.0, 3.0)
    return np.asarray(cv2.bilateralFilter(levels, 7, colour, space)), f"{colour:.0f} levels, {space:.1f} px"


def _non_local_means(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    strength = spread(random, 2, 15)
    cleaned = cv2.fastNlMeansDenoisingColored(eight_bits(levels), None, strength, strength, 5, 13)
    return cleaned.astype(np.float32), f"strength {strength:.1f}"


def _wavelet(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma = spread(random, 2, 15)
    cleaned = denoise_wavelet(levels / 255, sigma=sigma / 255, channel_axis=2, convert2ycbcr=True)
    return np.asarray(cleaned * 255, np.float32), f"{sigma:.1f} levels"


def _median(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    share = float(random.uniform(0.3, 1.0))
    median = cv2.medianBlur(levels, 3)
    return levels + np.float32(share) * (median - levels), f"3 px, {100 * share:.0f} %"


def _poor_demosaic(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    method = str(random.choice(("bilinear", "edge-aware", "gradients")))
    code = {
        "bilinear": cv2.COLOR_BayerRG2RGB,
        "edge-aware": cv2.COLOR_BayerRG2RGB_EA,
        "gradients": cv2.COLOR_BayerRG2RGB_VNG,
    }[method]
    pixels = eight_bits(levels)
    # OpenCV names the pattern by its second row and column: what it calls RG has blue in the first corner.
    mosaic = pixels[..., 1].copy()
    mosaic[0::2, 0::2] = pixels[0::2, 0::2, 2]
    mosaic[1::2, 1::2] = pixels[1::2, 1::2, 0]
    return cv2.cvtColor(mosaic, code).astype(np.float32), method


SENSOR = (
    Step("sensor noise", _sensor_noise, 2.0),
    Step("even noise", _even_noise),
    Step("colour noise", _colour_noise),
    Step("film grain", _film_grain),
    Step("banding", _banding, 0.3),
    Step("bilateral denoising", _bilateral),
    Step("non-local means", _non_local_means, 0.7),
    Step("wavelet denoising", _wavelet, 0.7),
    Step("median", _median, 0.5),
    Step("poor demosaic", _poor_demosaic),
)
