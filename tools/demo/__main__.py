"""Renders the demo pictures: ``python -m tools.demo [NAME ...] [--preview]``."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

import numpy as np
from PIL import Image

ROOT = Path(__file__).parents[2]
RAW = ROOT / "build" / "demo"
_SAMPLES_PER_PASS = 4
# How bright the pictures are on average.
_KEYS = {"stage": 0.085, "rehearsal": 0.06, "carved_head": 0.12, "dress_rehearsal": 0.05}


def _traced(name: str, preview: bool) -> Image.Image:
    import mitsuba as mi

    mi.set_variant(os.environ.get("MITSUBA_VARIANT", "scalar_rgb"))
    from tools.demo import scenes

    sizes = {
        "stage": (1600, 1200),
        "rehearsal": (1536, 1024),
        "carved_head": (800, 1000),
        "dress_rehearsal": (1800, 1200),
    }
    samples = {"stage": 40, "rehearsal": 40, "carved_head": 64, "dress_rehearsal": 12}
    width, height = sizes[name]
    size = (width // 4, height // 4) if preview else (width, height)
    described = getattr(scenes, name)(size, 16 if preview else _SAMPLES_PER_PASS)
    scene = mi.load_dict(described)
    passes = 1 if preview else samples[name] // _SAMPLES_PER_PASS
    total = np.zeros((size[1], size[0], 3))
    for seed in range(passes):
        # In passes, since the vectorised variants hold all samples of one in memory.
        total += np.asarray(mi.render(scene, seed=seed))[..., :3]
        print(f"{name}: pass {seed + 1} of {passes}", flush=True)
    pixels = total / passes
    np.save(RAW / f"{name}{'-preview' if preview else ''}.npy", pixels.astype(np.float32))
    return Image.fromarray(_developed(pixels, _KEYS[name]))


def _developed(linear: np.ndarray, key: float) -> np.ndarray:
    """Linear light to 8-bit sRGB: log-average brought to ``key``, a soft shoulder for the highlights."""
    light = np.maximum(linear, 0)
    average = np.exp(np.log(light @ np.array([0.2126, 0.7152, 0.0722]) + 1e-3).mean())
    exposed = light * key / average
    shouldered = np.where(exposed < 0.6, exposed, 0.6 + 0.4 * (1 - np.exp(-(exposed - 0.6) / 0.4)))
    curve = np.where(shouldered <= 0.0031308, 12.92 * shouldered, 1.055 * shouldered ** (1 / 2.4) - 0.055)
    return np.clip(np.rint(curve * 255), 0, 255).astype(np.uint8)


def main() -> None:
    """Render the named pictures, or all, and degrade them as the story says."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument(
        "names",
        nargs="*",
        default=["stage", "rehearsal", "carved_head", "dress_rehearsal", "backdrop", "poster"],
    )
    parser.add_argument("--preview", action="store_true", help="small and quick, not degraded")
    args = parser.parse_args()
    RAW.mkdir(parents=True, exist_ok=True)
    for name in args.names:
        if name in ("backdrop", "poster"):
            from tools.demo import backdrop, poster

            image = backdrop.draw() if name == "backdrop" else poster.draw()
        else:
            image = _traced(name, args.preview)
        image.save(RAW / (f"{name}-preview.png" if args.preview else f"{name}.png"))
        print(f"{name}: {image.size}", flush=True)


if __name__ == "__main__":
    main()
