"""Measures how well the condition sheet finds what was put in, and writes the tables of the documentation."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from skimage import data as sk_data

from training.heldout import held_out_drawings, held_out_photographs
from wamplex.core.colour.luma import luma_plane
from wamplex.core.measure.blocks import compression_in_pixels
from wamplex.core.measure.enlarged import earlier_enlargement
from wamplex.core.measure.faces import find_faces
from wamplex.core.measure.medium import medium
from wamplex.core.measure.noise import noise_levels
from wamplex.core.measure.resaved import earlier_quality
from wamplex.core.measure.softness import softness
from wamplex.core.picture import Picture

_HEAD = """# The condition sheet, measured

Made by `make evaluate-condition`. The pictures are the 14 held-out photographs of [measured.md](measured.md),
in which something known was put. "Within" counts the pictures whose value lies within the bound; the median
of all values stands beside it.
"""
_BAR = "|---|---|---|---|"


def write_condition_tables(work: Path, out: Path) -> None:
    """Write all tables as Markdown."""
    photographs = held_out_photographs(work)
    parts = [_HEAD, *_noise(photographs), *_compression(photographs), *_blur(photographs)]
    parts += [*_enlarged(photographs), *_media(photographs, held_out_drawings(work)), *_faces()]
    out.write_text("\n".join(parts) + "\n")


def _levels(pixels: np.ndarray) -> np.ndarray:
    return luma_plane(pixels.astype(np.float32))


def _saved(pixels: np.ndarray, quality: int) -> np.ndarray:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file))


def _row(name: str, values: list[float | None], near: Callable[[float, int], bool], bound: str) -> str:
    found = [value for value in values if value is not None]
    within = sum(value is not None and near(value, i) for i, value in enumerate(values))
    median = f"{np.median(found):.2f}" if found else "none"
    return f"| {name} | {median} | {within} of {len(values)} | {bound} |"


def _noise(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield "## Noise\n\nGaussian, levels of 255. The pictures have noise and fine texture of their own (first"
    yield "line); squares add up, so what should be found is the root of both squares.\n"
    yield f"| put in | median found | within | bound |\n{_BAR}"
    pictures = list(photographs.values())
    own = [noise_levels(Picture(p.astype(np.float32) / 255)) for p in pictures]
    yield f"| 0 | {np.median(own):.2f} | | |"
    random = np.random.default_rng(3)
    for sigma in (2, 5, 10, 15, 20, 30):
        found = []
        for picture in pictures:
            noisy = np.clip(np.rint(picture + random.normal(0, sigma, picture.shape)), 0, 255)
            found.append(noise_levels(Picture(noisy.astype(np.float32) / 255)))
        yield _row(str(sigma), found, lambda v, i, s=sigma: abs(v / np.hypot(s, own[i]) - 1) <= 0.2, "20 %")
    yield ""


def _compression(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    clean = [p for p in photographs.values() if compression_in_pixels(_levels(p)) is None]
    yield "## Compression\n\nWhere a file has quantisation tables they are read, and the quality is exact."
    yield f"Here it is found in the pixels alone, of the {len(clean)} photographs in which there is none"
    yield "before.\n"
    yield f"| saved at | median found | within | bound |\n{_BAR}"
    for quality in (20, 30, 40, 50, 60, 70, 80, 85, 90, 95):
        found = [compression_in_pixels(_levels(_saved(p, quality))) for p in clean]
        values = [None if f is None else float(f.quality) for f in found]
        yield _row(str(quality), values, lambda v, _i, q=quality: abs(v - q) <= 8, "8")
    called = len(photographs) - len(clean)
    yield f"\nOf the {len(photographs)} photographs as they come, {called} were called compressed;"
    yield "seven of them are JPEG files.\n\n### Saved twice\n"
    yield f"| saved at, then at | median found | within | bound |\n{_BAR}"
    for first, second in ((30, 60), (40, 90), (50, 70), (60, 85), (75, 92)):
        found = [earlier_quality(_levels(_saved(_saved(p, first), second)), second) for p in clean]
        values = [None if f is None else float(f) for f in found]
        yield _row(f"{first}, {second}", values, lambda v, _i, q=first: abs(v - q) <= 8, "8")
    once = [earlier_quality(_levels(_saved(p, q)), q) for p in clean for q in (60, 90)]
    yield f"\nOf {len(once)} files saved once, {sum(f is not None for f in once)} were called saved twice.\n"


def _blur(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield "## Softness\n\nGaussian blur, standard deviation in pixels. What should be found is the root of"
    yield "the squares of the blur put in and the picture's own. What is put in is what the sampled filter"
    yield "does: asked for 0.5 px, OpenCV's has a standard deviation of 0.46.\n"
    yield f"| put in | median found | within | bound |\n{_BAR}"
    own = [softness(_levels(p)) for p in photographs.values()]
    before = [0.0 if s is None else s.blur_px for s in own]
    for blur in (0.5, 1.0, 1.5, 2.0, 2.5, 3.0):
        spread = _spread(blur)
        found = [softness(_levels(cv2.GaussianBlur(p, (0, 0), blur))) for p in photographs.values()]
        values = [None if s is None else s.blur_px for s in found]
        yield _row(
            str(blur), values, lambda v, i, b=spread: abs(v / np.hypot(b, before[i]) - 1) <= 0.25, "25 %"
        )
    yield ""


def _spread(sigma: float) -> float:
    """Standard deviation of OpenCV's sampled Gaussian, for 8-bit pictures."""
    size = round(sigma * 6 + 1) | 1
    weights = cv2.getGaussianKernel(size, sigma)[:, 0]
    return float(np.sqrt((weights * (np.arange(size) - size // 2) ** 2).sum()))


def _enlarged(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield "## Earlier enlargement\n\nThe photographs, enlarged with a kernel of OpenCV.\n"
    yield f"| kernel, factor | median found | within | bound |\n{_BAR}"
    kernels = (("bilinear", cv2.INTER_LINEAR), ("bicubic", cv2.INTER_CUBIC), ("Lanczos", cv2.INTER_LANCZOS4))
    for name, kernel in kernels:
        for factor in (1.5, 2.0, 2.5, 3.0, 4.0):
            found = []
            for picture in photographs.values():
                larger = cv2.resize(picture, None, fx=factor, fy=factor, interpolation=kernel)
                seen = earlier_enlargement(_levels(larger))
                found.append(None if seen is None else seen.factor)
            yield _row(f"{name}, {factor:g}", found, lambda v, _i, f=factor: abs(v / f - 1) <= 0.2, "20 %")
    called = sum(earlier_enlargement(_levels(p)) is not None for p in photographs.values())
    yield f"\nOf the {len(photographs)} photographs as they are, {called} were called enlarged.\n"


def _media(photographs: dict[str, np.ndarray], drawings: dict[str, np.ndarray]) -> Iterator[str]:
    yield "## Medium\n\n| pictures | called |\n|---|---|"
    pages = {n: p for n, p in drawings.items() if "page" in n}
    others = {n: p for n, p in drawings.items() if n not in pages}
    for name, group in (("photographs", photographs), ("drawings", others), ("pages of lettering", pages)):
        kinds = [_kind(picture) for picture in group.values()]
        counted = ", ".join(f"{kind} {kinds.count(kind)}" for kind in dict.fromkeys(sorted(kinds)))
        yield f"| {len(group)} {name} | {counted} |"
    yield ""


def _kind(picture: np.ndarray) -> str:
    pixels = np.ascontiguousarray(picture)
    levels = noise_levels(Picture(pixels.astype(np.float32) / 255))
    compressed = compression_in_pixels(_levels(pixels)) is not None
    return medium(pixels, levels, compressed=compressed).kind


def _faces() -> Iterator[str]:
    cuts = np.rint(sk_data.lfw_subset() * 255).astype(np.uint8)
    yield "## Faces\n\n100 faces and 100 other cut-outs of 25 x 25 pixels, from Labeled Faces in the Wild"
    yield "(Huang et al. 2007) as scikit-image ships them, with their edge pixels repeated around them.\n"
    yield "| enlarged | faces found | found where there is none |\n|---|---|---|"
    for scale in (1, 2, 3):
        hits = []
        for cut in cuts:
            larger = cv2.resize(cut, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
            edge = 12 * scale
            framed = cv2.copyMakeBorder(larger, edge, edge, edge, edge, cv2.BORDER_REPLICATE)
            hits.append(len(find_faces(cv2.cvtColor(framed, cv2.COLOR_GRAY2RGB))) > 0)
        yield f"| {scale}x | {sum(hits[:100])} of 100 | {sum(hits[100:])} of 100 |"
