"""Measures how well the condition sheet finds what was put in, and writes the tables of the documentation."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from training.finding_faces import face_tables
from training.heldout import held_out_drawings, held_out_photographs
from training.history import History, apply, balance, noise_after, save_as
from training.real import damaged_file, noisy_jpeg
from training.second import second_drawings, second_pages, second_photographs
from wamplex.core.analysis.compression.double_jpeg import detect_earlier_quality
from wamplex.core.analysis.compression.jpeg_blocks import estimate_compression
from wamplex.core.analysis.compression.webp_quality import read_webp_quality
from wamplex.core.analysis.degradation.degradation_estimator import KINDS, estimate_degradation
from wamplex.core.analysis.degradation.earlier_enlargement import detect_earlier_enlargement
from wamplex.core.analysis.report.condition import UPSCALING_ROWS, measure_whole_condition
from wamplex.core.colour.luma import luma_plane

_HEAD = """# The condition sheet, measured

Made by `make evaluate-condition`. The pictures are the 14 held-out photographs of [measured.md](measured.md)
with known, added damage. "Within" counts the pictures whose value lies within the bound. The median of all
values is beside it.
"""
_READ_HEAD = """## Sharpness and noise, as the network reads them

The second set of held-out photographs, shrunk 2 and 4 times, with a known history
([Reader](../src/wamplex/models/reader.md)). Root mean square errors of: blur, in px; sharpening, as the
amount of an equivalent mask of 0.8 px; the amount of the mask itself; noise, in levels, with the number of
pictures within 20 %. Behind JPEG, noise is the mean of the network's value and of what the file's quantiser
left. In half of these pictures the noise grows with brightness; its image-wide deviation counts.

| history | factor | softness | bias | sharpening | amount | noise | within 20 % |
|---|---|---|---|---|---|---|---|"""
_MEDIA_HEAD = """## Medium

The content type that the network detects. Pictures were shrunk 2 and 4 times (most are then 110 to 450 pixels
a side), and used unchanged and as JPEG 50.

| pictures | clean 2x | clean 4x | JPEG 50 2x | JPEG 50 4x |
|---|---|---|---|---|"""
_BAR = "|---|---|---|---|"
READ_CASES: dict[str, tuple[History, ...]] = {
    "clean": (History(),),
    "soft 0.4 to 0.7 px": tuple(History(blur_px=b) for b in (0.4, 0.5, 0.6, 0.7)),
    "soft 1 to 1.5 px": tuple(History(blur_px=b) for b in (1.0, 1.25, 1.5)),
    "soft 0.4 to 1.1 px, noise 5.7": tuple(History(blur_px=b, noise=4, colour_noise=4) for b in (0.4, 0.7, 1.1)),
    "soft 0.4 to 1.1 px, JPEG 60": tuple(History(blur_px=b, codec="jpeg", quality=60) for b in (0.4, 0.7, 1.1)),
    "mask 30 to 120 %, 0.5 to 1.5 px": tuple(
        History("lanczos", amount=a, radius_px=r) for r in (0.5, 0.8, 1.1, 1.5) for a in (0.3, 0.6, 0.9, 1.2)
    ),
    "mask 0.8 px 90 %, JPEG 75": (History("lanczos", amount=0.9, codec="jpeg", quality=75),),
    "noise 8, JPEG 80": noisy_jpeg(8, 80),
    "noise 20, JPEG 80": noisy_jpeg(20, 80),
    "JPEG 60": (History(codec="jpeg", quality=60),),
}


def write_condition_tables(work: Path, out: Path) -> None:
    """Write all tables as Markdown."""
    photographs = held_out_photographs(work)
    second = second_photographs(work)
    first_drawings = held_out_drawings(work)
    media = {
        "photographs": photographs,
        "further photographs": second,
        "drawings": {n: p for n, p in first_drawings.items() if "page" not in n},
        "further drawings": second_drawings(work),
        "pages of lettering": {n: p for n, p in first_drawings.items() if "page" in n},
        "further pages": second_pages(work),
    }
    parts = [_HEAD, *_read(second), *_compression(photographs), *_webp(second)]
    drawn = [p for name, pictures in media.items() if "photo" not in name for p in pictures.values()]
    parts += [*_enlarged(photographs), *_enlarged_small([*photographs.values(), *second.values()])]
    parts += [*_enlarged_drawings(drawn), *_media(media), *face_tables(work)]
    out.write_text("\n".join(parts) + "\n")


def _levels(pixels: np.ndarray) -> np.ndarray:
    return luma_plane(pixels.astype(np.float32))


def _saved(pixels: np.ndarray, quality: int) -> np.ndarray:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file))


def _row(name: str, values: list[float | None], near: Callable[[float, int], bool], bound: str) -> str:
    estimates = [value for value in values if value is not None]
    within = sum(value is not None and near(value, i) for i, value in enumerate(values))
    median = f"{np.median(estimates):.2f}" if estimates else "none"
    return f"| {name} | {median} | {within} of {len(values)} | {bound} |"


def _close_to(truth: float, bound: float) -> Callable[[float, int], bool]:
    return lambda value, _number: abs(value - truth) <= bound


def _compression(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    clean = [p for p in photographs.values() if estimate_compression(_levels(p)) is None]
    yield "## Compression\n\nWhere a file has quantisation tables, the quality is read from them and is exact."
    yield f"Here it is found in the pixels alone, of the {len(clean)} photographs in which there is none"
    yield "before.\n"
    yield f"| saved at | median found | within | bound |\n{_BAR}"
    for quality in (20, 30, 40, 50, 60, 70, 80, 85, 90, 95):
        estimates = [estimate_compression(_levels(_saved(p, quality))) for p in clean]
        values = [None if f is None else float(f.quality) for f in estimates]
        yield _row(str(quality), values, _close_to(quality, 8), "8")
    called = len(photographs) - len(clean)
    yield f"\nOf the {len(photographs)} original photographs, {called} were classified as compressed;"
    yield "seven of them are JPEG files.\n\n### Saved twice\n"
    yield f"| saved at, then at | median found | within | bound |\n{_BAR}"
    for first, second in ((30, 60), (40, 90), (50, 70), (60, 85), (75, 92)):
        earlier = [detect_earlier_quality(_levels(_saved(_saved(p, first), second)), second) for p in clean]
        values = [None if f is None else float(f) for f in earlier]
        yield _row(f"{first}, {second}", values, _close_to(first, 8), "8")
    once = [detect_earlier_quality(_levels(_saved(p, q)), q) for p in clean for q in (60, 90)]
    yield f"\nOf {len(once)} files saved once, {sum(f is not None for f in once)} were classified as saved twice.\n"


def _webp(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield "### WebP\n\nThe second set, saved as WebP. The quality is read from the quantisers of the frame.\n"
    yield f"| saved at | median found | within | bound |\n{_BAR}"
    enlarged = 0
    for quality in (40, 60, 75, 90):
        files = [save_as(p, "webp", quality) for p in photographs.values()]
        estimates = [read_webp_quality(file) for file in files]
        values = [None if f is None else float(f) for f in estimates]
        yield _row(str(quality), values, _close_to(quality, 8), "8")
        for file in files:
            pixels = np.asarray(Image.open(io.BytesIO(file)).convert("RGB"))
            enlarged += detect_earlier_enlargement(_levels(pixels), "webp") is not None
    yield f"\nOf these {4 * len(photographs)} files, {enlarged} were classified as enlarged.\n"


def _read(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield _READ_HEAD
    for name, histories in READ_CASES.items():
        for factor in (2, 4):
            yield _read_row(name, factor, list(photographs.values()), histories)
    yield ""


def _read_row(name: str, factor: int, pictures: list[np.ndarray], histories: tuple[History, ...]) -> str:
    misses, near = [], 0
    for number, truth in enumerate(pictures):
        history = histories[number % len(histories)]
        with tempfile.TemporaryDirectory() as folder:
            _, small = damaged_file(truth, factor, history, Path(folder), number)
            condition = measure_whole_condition(small, rows=UPSCALING_ROWS)
        degradation, levels = condition.read, condition.noise.levels
        assert degradation is not None
        noise, _ = noise_after(history, small.pixels * 255)
        true_values = (*balance(history), history.amount, noise)
        estimates = (degradation.blur.value, degradation.sharpening.value, degradation.amount.value, levels)
        misses.append([e - w for e, w in zip(estimates, true_values, strict=True)])
        near += abs(levels - noise) <= 0.2 * noise
    rms = np.sqrt(np.square(misses).mean(axis=0))
    noisy = f"{near} of {len(pictures)}" if histories[0].noise > 0 else ""
    cells = [f"{rms[0]:.3f}", f"{np.mean(misses, axis=0)[0]:+.3f}", *(f"{n:.2f}" for n in rms[1:]), noisy]
    return f"| {name} | {factor}x | {' | '.join(cells)} |"


def _small(truth: np.ndarray, factor: int, history: History, number: int) -> np.ndarray:
    height, width = (n - n % factor for n in truth.shape[:2])
    side = (width // factor, height // factor)
    return apply(np.ascontiguousarray(truth[:height, :width]), side, history, np.random.default_rng(number))


def _enlarged(photographs: dict[str, np.ndarray]) -> Iterator[str]:
    yield "## Earlier enlargement\n\nThe photographs, enlarged with a kernel of OpenCV.\n"
    yield f"| kernel, factor | median found | within | bound |\n{_BAR}"
    kernels = (("bilinear", cv2.INTER_LINEAR), ("bicubic", cv2.INTER_CUBIC), ("Lanczos", cv2.INTER_LANCZOS4))
    for name, kernel in kernels:
        for factor in (1.5, 2.0, 2.5, 3.0, 4.0):
            factors = []
            for picture in photographs.values():
                seen = detect_earlier_enlargement(_levels(_resized(picture, factor, kernel)))
                factors.append(None if seen is None else seen.factor)
            yield _row(f"{name}, {factor:g}", factors, _close_to(factor, 0.2 * factor), "20 %")
    called = sum(detect_earlier_enlargement(_levels(p)) is not None for p in photographs.values())
    yield f"\nOf the {len(photographs)} original photographs, {called} were classified as enlarged.\n"


def _enlarged_small(photographs: list[np.ndarray]) -> Iterator[str]:
    yield "The photographs of both sets, shrunk to 300 pixels, enlarged, cropped by some pixels and saved again.\n"
    yield f"| bicubic, factor, saved as | median found | within | bound |\n{_BAR}"
    smaller = [_resized(p, 300 / max(p.shape), cv2.INTER_AREA) for p in photographs]
    for factor in (1.25, 1.5, 2.0, 2.7):
        larger = [_resized(s, factor, cv2.INTER_CUBIC)[3:-2, 1:-4] for s in smaller]
        for quality in (100, 95, 85):
            saved = larger if quality == 100 else [_saved(p, quality) for p in larger]
            seen = [detect_earlier_enlargement(_levels(p)) for p in saved]
            factors = [None if one is None else one.factor for one in seen]
            name = f"{factor:g}, {'PNG' if quality == 100 else f'JPEG {quality}'}"
            yield _row(name, factors, _close_to(factor, 0.03 * factor), "3 %")
    blurs = (0.0, 0.7, 1.0, 1.5)
    called = [sum(detect_earlier_enlargement(_levels(_blurred(s, px))) is not None for s in smaller) for px in blurs]
    yield f"\nOf the {len(smaller)} shrunk alone, {_told(called, blurs)}\n"


def _enlarged_drawings(drawings: list[np.ndarray]) -> Iterator[str]:
    yield "The drawings and pages, shrunk and enlarged again so that half their size is left.\n"
    yield f"| kernel, factor | median found | within | bound |\n{_BAR}"
    for factor in (1.5, 2.0, 2.5, 3.0):
        small = [_resized(d, 0.5 / factor, cv2.INTER_AREA) for d in drawings]
        factors = [_drawn_factor(_resized(s, factor, cv2.INTER_CUBIC)) for s in small]
        yield _row(f"bicubic, {factor:g}", factors, _close_to(factor, 0.2 * factor), "20 %")
    halves = [_resized(d, 0.5, cv2.INTER_AREA) for d in drawings]
    blurs = (0.0, 0.7, 1.0, 1.5)
    called = [sum(_drawn_factor(_blurred(h, px)) is not None for h in halves) for px in blurs]
    yield f"\nOf the {len(drawings)} shrunk alone, {_told(called, blurs)}\n"


def _told(called: list[int], blurs: tuple[float, ...]) -> str:
    soft = ", ".join(f"soft by {px:g} px {n}" for n, px in zip(called[1:], blurs[1:], strict=True))
    return f"{called[0]} were classified as enlarged; {soft}."


def _resized(pixels: np.ndarray, factor: float, kernel: int) -> np.ndarray:
    return cv2.resize(pixels, None, fx=factor, fy=factor, interpolation=kernel)


def _drawn_factor(pixels: np.ndarray) -> float | None:
    seen = detect_earlier_enlargement(_levels(pixels), drawn=True)
    return None if seen is None else seen.factor


def _blurred(pixels: np.ndarray, px: float) -> np.ndarray:
    return cv2.GaussianBlur(pixels, (0, 0), px) if px > 0 else pixels


def _media(groups: dict[str, dict[str, np.ndarray]]) -> Iterator[str]:
    yield _MEDIA_HEAD
    for name, pictures in groups.items():
        cells = []
        for history in (History(), History(codec="jpeg", quality=50)):
            for factor in (2, 4):
                kinds = [_kind(_small(p, factor, history, n), history) for n, p in enumerate(pictures.values())]
                cells.append(", ".join(f"{k} {kinds.count(k)}" for k in sorted(set(kinds))))
        yield f"| {len(pictures)} {name} | {' | '.join(cells)} |"
    yield ""


def _kind(small: np.ndarray, history: History) -> str:
    degradation = estimate_degradation(small.astype(np.float32) / np.float32(255), history.blocks)
    return "too small" if degradation is None else KINDS[int(np.argmax(degradation.media))]
