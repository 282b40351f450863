"""Reads a picture with the program and with other decoders; a process of its own, prints JSON."""

from __future__ import annotations

import json
import resource
import sys
import time
from collections import deque
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.report.condition import measure_condition
from wamplex.core.base.errors import WamplexError
from wamplex.core.base.window import Window
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture, read_small
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render

_SHARE_ALLOWED = 1e-3
_MOST_MEASURED_PX = 4_000_000


def main() -> None:
    """Name of the file as the only argument."""
    path = Path(sys.argv[1])
    begun = time.perf_counter()
    outcome: dict[str, Any] = {"file": path.name}
    try:
        picture, kind = _looked_at(path)
        outcome |= {"outcome": "read"} | _cost(begun)
        outcome |= _compared(path, picture, kind)
    except WamplexError as error:
        outcome |= {"outcome": "refused", "words": str(error)}
    except Exception as error:  # what the corpus is for
        outcome |= {"outcome": "traceback", "words": f"{type(error).__name__}: {error}"[:300]}
    outcome = _cost(begun) | outcome
    if outcome["outcome"] == "refused" and "megapixels" not in outcome["words"]:
        outcome["other"] = _other_reads(path)
    print(json.dumps(outcome))


def _cost(begun: float) -> dict[str, Any]:
    """Seconds and memory so far."""
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return {"seconds": time.perf_counter() - begun, "megabytes": most}


def _looked_at(path: Path) -> tuple[Picture, str]:
    """Header, small picture, pixels, condition sheet, and a part of the picture enlarged."""
    found = probe(path)
    read_small(path, 64)
    picture = read_picture(path)
    if (picture.width, picture.height) != (found.width, found.height):
        raise AssertionError(f"header {found.width} x {found.height}, pixels {picture.pixels.shape}")
    if picture.width * picture.height < _MOST_MEASURED_PX and min(picture.width, picture.height) >= 16:
        deque(measure_condition(picture), maxlen=0)
    recipe = Recipe(base=TrialSpec(upscaler="vellum"), factor=2)
    part = Window(0, 0, min(64, 2 * picture.width), min(64, 2 * picture.height))
    if not np.isfinite(render(picture, recipe, part)).all():
        raise AssertionError("the enlarged part holds values that are no numbers")
    return picture, found.kind


def _compared(path: Path, picture: Picture, kind: str) -> dict[str, Any]:
    """Right when any decoder of other people's agrees; each of them is wrong on some file of the corpus."""
    others = _others(path, kind)
    if not others:
        return {"outcome": "read", "words": "no second decoder"}
    ours = _as_seen(picture)
    same_size = [other for other in others.values() if other.shape[:2] == ours.shape[:2]]
    if not same_size:
        there = ", ".join(f"{name} {other.shape}" for name, other in others.items())
        return {"outcome": "wrong", "words": f"{ours.shape} here, {there}"}
    share = min(_share_away(ours, other, picture.depth) for other in same_size)
    words = f"{share:.2%} of the values differ from the nearest of {len(same_size)} decoders"
    return {"outcome": "wrong" if share > _SHARE_ALLOWED else "read", "words": words, "share": share}


def _share_away(ours: NDArray[np.float32], other: NDArray[np.float32], depth: int) -> float:
    """Share of values that differ by more than a level; by two where 16 bits met a decoder of 8."""
    if other.shape[2] == 1:
        other = np.repeat(other, 3, axis=2)
    level = 2.5 / 255 if depth == 16 else 1.01 / 255
    return float((np.abs(ours - other[..., :3]) > level).mean())


def _as_seen(picture: Picture) -> NDArray[np.float32]:
    """Colours on black where they are transparent, three channels: decoders differ in what lies behind."""
    colours = np.repeat(picture.pixels, 3, axis=2) if picture.pixels.shape[2] == 1 else picture.pixels
    return colours if picture.alpha is None else colours * picture.alpha[..., None]


def _others(path: Path, kind: str) -> dict[str, NDArray[np.float32]]:
    """The picture as (H, W, 1 or 3) in 0..1 by decoders that are not the one in use here."""
    found = {}
    for name, decode in {"tifffile": _by_tifffile, "Pillow": _by_pillow, "libpng": _by_libpng}.items():
        try:
            if (name == "tifffile") <= (kind in ("TIFF", "")) and (name == "libpng") <= (kind == "PNG"):
                found[name] = decode(path)
        except Exception:
            continue
    return found


def _by_libpng(path: Path) -> NDArray[np.float32]:
    import imagecodecs

    values = np.asarray(imagecodecs.png_decode(path.read_bytes()))
    most = 65535 if values.dtype == np.uint16 else 255
    seen = values.reshape(*values.shape[:2], -1).astype(np.float32) / np.float32(most)
    return np.asarray(seen if seen.shape[2] in (1, 3) else seen[..., :-1] * seen[..., -1:], np.float32)


def _by_tifffile(path: Path) -> NDArray[np.float32]:
    import tifffile

    with tifffile.TiffFile(path) as file:
        page: Any = file.pages.first
        if page.photometric not in (0, 1, 2) or page.samplesperpixel not in (1, 3) or page.dtype.kind not in "ub":
            raise ValueError
        values = page.asarray()
        if page.samplesperpixel == 3 and page.planarconfig == 2:
            values = np.moveaxis(values, 0, -1)
        turn = page.tags.get(274)
        most = 1 if values.dtype == bool else 2**page.bitspersample - 1
        pixels = values.reshape(page.imagelength, page.imagewidth, -1).astype(np.float32) / np.float32(most)
        pixels = 1 - pixels if page.photometric == 0 else pixels
        return _turned(pixels, 1 if turn is None else int(turn.value))


def _other_reads(path: Path) -> bool:
    """Whether any other decoder reads what was refused here."""
    return bool(_others(path, ""))


def _turned(pixels: NDArray[np.float32], orientation: int) -> NDArray[np.float32]:
    """Upright (EXIF 2.32, Orientation)."""
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return pixels


def _by_pillow(path: Path) -> NDArray[np.float32]:
    from PIL import Image, ImageOps

    with Image.open(path) as file:
        file.seek(0)
        image: Image.Image = ImageOps.exif_transpose(file)
        if image.mode.startswith("I"):
            values = np.asarray(image, np.float64)
            return (values[..., None] / 65535).astype(np.float32)
        if image.mode in ("F", "CMYK", "LAB"):
            raise ValueError
        seen = np.asarray(image.convert("RGBA"), np.float32) / 255
        return np.asarray(seen[..., :3] * seen[..., 3:], np.float32)


if __name__ == "__main__":
    main()
