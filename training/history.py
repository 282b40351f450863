"""What may have happened to a picture before a user has it, in the order in which it happens.

A lens and a shrink soften it, a sensor adds noise, a program sharpens it, a file compresses it, and a site
resizes and compresses it again. Everything that is done is written down, so that it can be told or found.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np
from PIL import Image

from training.damage import NOISE_PLANE_LEVELS, Damaged, coarse_noise
from wamplex.core.analysis.compression.file_compression import Codec, equivalent_jpeg_quality
from wamplex.core.analysis.report.findings import LEAST_SHARPENING, LEAST_SOFTNESS_PX
from wamplex.core.upscale.stages.deconvolution import AMOUNT_PER_VALUE, MASK_RADIUS_PX, PX_PER_VALUE

_KERNELS = {
    "bicubic": Image.Resampling.BICUBIC,
    "lanczos": Image.Resampling.LANCZOS,
    "hamming": Image.Resampling.HAMMING,
    "box": Image.Resampling.BOX,
    "bilinear": Image.Resampling.BILINEAR,
}
# Cycles per pixel over which softness and sharpening are weighed against each other: where pictures still
# have something, and blur has not taken it all.
_WEIGHED = np.linspace(0.08, 0.38, 16)


# Share of the noisy pictures that are not compressed whatever else is drawn: scans, and what raw files were
# developed to.
_NOISY_AND_WHOLE = 0.3
# Of the photographs that Mender learns from, the share in which there is noise and nothing else.
_NOISE_ALONE = 0.12
# Of the pictures, the share in which sharpness is told as the program measures it.
_AS_MEASURED = 0.7


@dataclass(frozen=True)
class History:
    """What is done to a picture; see `drawn` for how often.

    Attributes
    ----------
    kernel : antialiased filter that it is shrunk with
    blur_px : standard deviation of a Gaussian blur, in pixels of the small picture
    amount, radius_px : of an unsharp mask; an amount of 1 is what programs call 100 %
    noise, colour_noise : standard deviations in 8-bit levels of what is added to the luma, and to each
        channel on its own
    grain_px : 1 for noise that differs from pixel to pixel, 2 for blotches of two pixels
    with_light : whether noise grows with the light; it is as told in the middle tones then
    codec, quality : of the last save; None where it is not compressed
    earlier : quality of a JPEG save before, on a grid that lies elsewhere
    detour : how much larger the picture was when it was saved before; 1 for as large as it is
    enlarged : how much it is enlarged again with the bicubic kernel before the last save
    """

    kernel: str = "bicubic"
    blur_px: float = 0.0
    amount: float = 0.0
    radius_px: float = MASK_RADIUS_PX
    noise: float = 0.0
    colour_noise: float = 0.0
    grain_px: int = 1
    with_light: bool = False
    codec: Codec | None = None
    quality: int = 100
    subsampling: int = 2
    earlier: int | None = None
    detour: float = 1.0
    enlarged: float = 1.0

    @property
    def blocks(self) -> float:
        """What Mender is told of the compression, 0 to 1."""
        if self.codec is None:
            return 0.0
        return (100 - equivalent_jpeg_quality(self.codec, self.quality)) / 100


def apply(
    large: np.ndarray,
    side: tuple[int, int],
    history: History,
    random: np.random.Generator,
    *,
    last_save: bool = True,
) -> np.ndarray:
    """The small picture, (side[1], side[0], 3) uint8, that history leaves of a large one (H, W, 3) uint8."""
    factor = large.shape[1] / side[0]
    if history.blur_px > 0:
        large = cv2.GaussianBlur(large, (0, 0), history.blur_px * factor, borderType=cv2.BORDER_REPLICATE)
    if history.detour > 1 and history.earlier is not None:
        between = tuple(round(n * history.detour) for n in side)
        first = np.asarray(Image.fromarray(large).resize(between, Image.Resampling.BICUBIC))
        large = saved(first, "jpeg", history.earlier)
    small = np.asarray(Image.fromarray(large).resize(side, _KERNELS[history.kernel])).astype(np.float32)
    if history.noise > 0 or history.colour_noise > 0:
        small = small + _noise(small, history, random)
    if history.amount > 0:
        small = sharpened(small, history.amount, history.radius_px)
    pixels = np.clip(np.rint(small), 0, 255).astype(np.uint8)
    if history.earlier is not None and history.detour == 1:
        pixels = _saved_elsewhere(pixels, history.earlier, random)
    if history.enlarged > 1:
        size = tuple(round(n * history.enlarged) for n in side)
        pixels = np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BICUBIC))
    return saved(pixels, history.codec, history.quality, history.subsampling) if last_save else pixels


def sharpened(pixels: np.ndarray, amount: float, radius_px: float) -> np.ndarray:
    """Unsharp mask of float levels, not clipped."""
    blurred = cv2.GaussianBlur(pixels, (0, 0), radius_px, borderType=cv2.BORDER_REPLICATE)
    made: np.ndarray = pixels + np.float32(amount) * (pixels - blurred)
    return made


def saved(pixels: np.ndarray, codec: Codec | None, quality: int, subsampling: int = 2) -> np.ndarray:
    """The picture after saving and opening again; ``subsampling`` is Pillow's number, for JPEG."""
    if codec is None:
        return pixels
    file = io.BytesIO(save_as(pixels, codec, quality, subsampling))
    return np.asarray(Image.open(file).convert("RGB"))


def save_as(pixels: np.ndarray, codec: Codec | None, quality: int, subsampling: int = 2) -> bytes:
    """The file; a PNG where it is not compressed."""
    file = io.BytesIO()
    if codec is None:
        Image.fromarray(pixels).save(file, "PNG")
        return file.getvalue()
    options = {"jpeg": {"subsampling": subsampling}, "webp": {"method": 2}, "avif": {"speed": 9}}[codec]
    Image.fromarray(pixels).save(file, codec.upper(), quality=quality, **options)
    return file.getvalue()


def _saved_elsewhere(pixels: np.ndarray, quality: int, random: np.random.Generator) -> np.ndarray:
    down, right = random.integers(0, 8, 2)
    padded = np.pad(pixels, ((down, 0), (right, 0), (0, 0)), mode="edge")
    return saved(padded, "jpeg", quality)[down:, right:]


def _noise(small: np.ndarray, history: History, random: np.random.Generator) -> np.ndarray:
    """Noise of the luma and of the channels."""
    shape = small.shape
    if history.grain_px == 1:
        luma, colour = random.normal(0, 1, (*shape[:2], 1)), random.normal(0, 1, shape)
    else:
        luma, colour = coarse_noise((*shape[:2], 1), 1.0, random), coarse_noise(shape, 1.0, random)
    made = history.noise * luma + history.colour_noise * colour
    if history.with_light:
        made = made * _light(small)
    return made.astype(np.float32)


def _light(small: np.ndarray) -> np.ndarray:
    """How much stronger than in the middle tones noise is at each place."""
    made: np.ndarray = np.sqrt(small.mean(axis=2, keepdims=True) / 128 + 0.05)
    return made


def balance(history: History) -> tuple[float, float]:
    """Softness in pixels and amount of a mask of radius 0.8 px that come to the same; one of them is 0.

    Blur and mask work against each other. What is left of both, weighed as logarithms over the frequencies
    that matter, is either softness or sharpening.
    """
    f2 = 2 * np.pi**2 * _WEIGHED**2
    lifted = np.log1p(history.amount * (1 - np.exp(-f2 * history.radius_px**2)))
    total = lifted - f2 * (history.blur_px**2 + kernel_variance(history.kernel))
    if total.mean() <= 0:
        variance = -(total * f2).sum() / (f2 * f2).sum()
        return float(np.sqrt(max(variance, 0.0))), 0.0
    amounts = np.linspace(0, 4, 401)
    mask = 1 - np.exp(-f2 * MASK_RADIUS_PX**2)
    misses = [np.square(np.log1p(a * mask) - total).sum() for a in amounts]
    return 0.0, float(amounts[int(np.argmin(misses))])


@lru_cache
def kernel_variance(kernel: str) -> float:
    """Variance in px² by which a shrink softens more than the bicubic one; negative where less.

    From the kernels' Fourier transforms, fitted over the frequencies that matter.
    """
    x = np.linspace(-3, 3, 6001)
    a = np.abs(x)
    shapes = {
        "box": (a <= 0.5) * 1.0,
        "bilinear": np.maximum(1 - a, 0),
        "hamming": np.where(a < 1, np.sinc(x) * (0.54 + 0.46 * np.cos(np.pi * x)), 0),
        "lanczos": np.sinc(x) * np.sinc(x / 3),
        "bicubic": np.where(
            a < 1, 1.5 * a**3 - 2.5 * a**2 + 1, np.where(a < 2, -0.5 * a**3 + 2.5 * a**2 - 4 * a + 2, 0)
        ),
    }
    waves = np.cos(2 * np.pi * _WEIGHED[:, None] * x)
    one, base = ((waves * (s / s.sum())).sum(axis=1) for s in (shapes[kernel], shapes["bicubic"]))
    f2 = 2 * np.pi**2 * _WEIGHED**2
    return float(-(np.log(one / base) * f2).sum() / (f2 * f2).sum())


def drawn(random: np.random.Generator, *, clean_share: float = 0.18) -> History:
    """A history by chance, about as often as pictures have it."""
    kernel = str(random.choice(list(_KERNELS), p=(0.5, 0.2, 0.1, 0.1, 0.1)))
    if random.random() < clean_share:
        return History("bicubic")
    blur = amount = noise = colour = 0.0
    draw = random.random()
    if draw < 0.42:
        blur = float(random.uniform(0.2, 1.0) if random.random() < 0.7 else random.uniform(0.8, 1.8))
    if draw > 0.36 and draw < 0.68:
        amount = float(random.uniform(0.15, 1.6))
    if random.random() < 0.35:
        level = float(np.exp(random.uniform(np.log(1.0), np.log(30))))
        share = float(random.uniform(0, 1))  # of independent channels
        noise, colour = level * (1 - share) ** 0.5, level * share**0.5
    codec: Codec | None = None
    quality, earlier, detour = 100, None, 1.0
    draw = random.random()
    if noise > 0 and random.random() < _NOISY_AND_WHOLE:
        draw = 1.0
    if draw < 0.62:
        codec, quality = "jpeg", int(random.integers(30, 97))
        if random.random() < 0.25:
            earlier = int(random.integers(max(quality - 10, 30), 97))
            detour = 1.0 if random.random() < 0.5 else float(random.uniform(1.2, 2.0))
    elif draw < 0.74:
        codec, quality = "webp", int(random.integers(30, 95))
    elif draw < 0.78:
        codec, quality = "avif", int(random.integers(35, 90))
    return History(
        kernel,
        blur,
        amount,
        float(random.choice((0.8, random.uniform(0.5, 1.5)))),
        noise,
        colour,
        int(random.choice((1, 2), p=(0.8, 0.2))),
        bool(random.random() < 0.5),
        codec,
        quality,
        int(random.choice((0, 2, 2))),
        earlier,
        detour,
    )


def noise_after(history: History, small: np.ndarray | None = None) -> tuple[float, float]:
    """Standard deviations in 8-bit levels of all noise and of the channels' own, once it is sharpened.

    An unsharp mask makes white noise stronger by the root of the sum of its squared weights. Of noise that
    grows with the light it is that of the middle tones or, given a picture, of all of it.
    """
    point = np.zeros((31, 31), np.float32)
    point[15, 15] = 1
    gain = float(np.sqrt(np.square(sharpened(point, history.amount, history.radius_px)).sum()))
    if history.with_light and small is not None:
        gain *= float(np.sqrt(np.square(_light(small)).mean()))
    return gain * float(np.hypot(history.noise, history.colour_noise)), gain * history.colour_noise


def softness_value(history: History) -> float:
    """The value of the slider that undoes it, -100 to 100."""
    softness, sharpening = balance(history)
    value = softness / PX_PER_VALUE if softness > 0 else -sharpening / AMOUNT_PER_VALUE
    return float(np.clip(value, -100, 100))


def damage_photograph(large: np.ndarray, side: int, random: np.random.Generator) -> Damaged:
    """A photograph, (side, side, 3) of a larger one, with a history by chance, told not quite right."""
    history = _noise_alone(random) if random.random() < _NOISE_ALONE else drawn(random, clean_share=0.10)
    return _told_of(apply(large, (side, side), history, random), history, random)


def _noise_alone(random: np.random.Generator) -> History:
    """What a scan or a developed raw file brings."""
    part = _noisier(History(), (2.0, 40.0), random)
    return replace(part, grain_px=int(random.choice((1, 2), p=(0.8, 0.2))), with_light=random.random() < 0.5)


def _noisier(history: History, levels: tuple[float, float], random: np.random.Generator) -> History:
    """The same with noise of so many levels, more or less of it the channels' own."""
    level, share = float(np.exp(random.uniform(*np.log(levels)))), float(random.uniform(0, 1))
    return replace(history, noise=level * (1 - share) ** 0.5, colour_noise=level * share**0.5)


def soften(large: np.ndarray, side: int, random: np.random.Generator) -> Damaged:
    """A photograph that is neither noisy nor compressed; half are slightly soft or sharpened."""
    kernel = str(random.choice(list(_KERNELS), p=(0.7, 0.1, 0.1, 0.1, 0.0)))
    history, draw = History(kernel), random.random()
    if draw < 0.35:
        history = replace(history, blur_px=float(random.uniform(0.2, 1.0)))
    elif draw < 0.45:
        history = replace(history, amount=float(random.uniform(0.2, 1.2)))
    made = _told_of(apply(large, (side, side), history, random), history, random)
    return made if draw < 0.45 else replace(made, blur=0.0)  # kernels alone are read as clean


def _about(plane: float, random: np.random.Generator) -> float:
    """Measured values are never quite right, so the told ones are a little wrong too."""
    return min(plane * float(random.uniform(0.85, 1.1)), 1.0)


def _about_softness(value: float, random: np.random.Generator) -> float:
    """What is told of a softness or sharpening: mostly as the program would measure it, else nearly right.

    A network that is always told the truth believes it; one that is told what is measured learns how far it
    may, and what a sharpened picture looks like that nothing is told of.
    """
    if random.random() < _AS_MEASURED:
        return _measured_softness(value, random)
    off = float(random.uniform(-7.5, 4.0)) if random.random() < 0.5 else float(random.uniform(-2, 1))
    if value == 0:
        return max(off, 0.0) if random.random() < 0.3 else 0.0
    # Careful is nearer to 0 on either side.
    told = value + off if value > 0 else value - 2 * off
    return float(np.clip(told, 0, 100) if value > 0 else np.clip(told, -100, 0))


def _measured_softness(value: float, random: np.random.Generator) -> float:
    """As the reader network misses: own measurement on 13,060 photographs and paintings of known history.

    Of masks of 65 % three in ten are not told, of 40 % six in ten; the others are off by 30 % or so. Blur is
    off by 0.13 px. Of pictures with neither one in six is told something.
    """
    draw = random.random()
    if value == 0:
        if draw < 0.84:
            return 0.0
        blur = draw < 0.92
        return random.uniform(0.2, 0.8) / PX_PER_VALUE if blur else -random.uniform(0.1, 0.6) / AMOUNT_PER_VALUE
    if value > 0:
        blur_px = value * PX_PER_VALUE + random.normal(-0.06, 0.13)
        return 0.0 if blur_px < LEAST_SOFTNESS_PX else min(blur_px / PX_PER_VALUE, 100.0)
    amount = -value * AMOUNT_PER_VALUE + random.normal(-0.1, 0.3)
    return 0.0 if draw < 0.15 or amount < LEAST_SHARPENING else max(-amount / AMOUNT_PER_VALUE, -100.0)


def damage_drawing(large: np.ndarray, side: int, random: np.random.Generator) -> Damaged:
    """A drawing, (side, side, 3) of a larger one; compressed as a rule, at times soft, sharpened or noisy."""
    history = _mostly_sharp(drawn(random, clean_share=0.1), random)
    if random.random() < 0.6:
        history = replace(history, noise=0.0, colour_noise=0.0)
    return _told_of(apply(large, (side, side), history, random), history, random)


def damage_noisy_drawing(large: np.ndarray, side: int, random: np.random.Generator) -> Damaged:
    """A drawing that is noisy, whatever else has become of it."""
    history = _noisier(_mostly_sharp(drawn(random, clean_share=0.0), random), (4.0, 40.0), random)
    return _told_of(apply(large, (side, side), history, random), history, random)


def _mostly_sharp(history: History, random: np.random.Generator) -> History:
    return replace(history, blur_px=0.0, amount=0.0) if random.random() < 0.6 else history


def _told_of(pixels: np.ndarray, history: History, random: np.random.Generator) -> Damaged:
    """What was done to a picture, told not quite right."""
    noise, _ = noise_after(history)
    return Damaged(
        pixels,
        _about(noise / NOISE_PLANE_LEVELS, random),
        _about(history.blocks, random),
        _about_softness(softness_value(history), random) / 100,
        history.codec in ("webp", "avif"),
    )
