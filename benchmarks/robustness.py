"""Random mutations of valid files, read in processes of their own: no crash, no hang."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pillow_heif
import tifffile
from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic

_PER_FORMAT = 850
_SCRIPT = """
import sys, time
from pathlib import Path
import logging; logging.disable(logging.CRITICAL)
import numpy as np
from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.read import read_picture, read_small
good, count = Path(sys.argv[1]), int(sys.argv[2])
body = np.frombuffer(good.read_bytes(), np.uint8)
random = np.random.default_rng(len(body))
path = good.with_name("mutated" + good.suffix)
refused, longest = 0, 0.0
for i in range(count):
    changed = body.copy()
    where = random.integers(0, len(body) if i % 2 else min(len(body), 300), 1 + i % 12)
    changed[where] = random.integers(0, 256, len(where))
    path.write_bytes(changed[: random.integers(1, len(body) + 1) if i % 5 == 0 else None].tobytes())
    begun = time.perf_counter()
    try:
        read_small(path, 64)
        read_picture(path)
    except UnreadablePictureError:
        refused += 1
    longest = max(longest, time.perf_counter() - begun)
print(refused, longest)
"""


def mutations() -> list[Figure]:
    """More than 10,000 mutated files of all kinds."""
    crashes, refused, longest, kind = 0, 0, 0.0, ""
    with tempfile.TemporaryDirectory() as folder:
        files = _good_files(Path(folder))
        for path in files:
            words = [sys.executable, "-c", _SCRIPT, str(path), str(_PER_FORMAT)]
            run = subprocess.run(words, capture_output=True, text=True, check=False, timeout=1200)
            if run.returncode != 0:
                crashes += 1
                print(path.suffix, run.returncode, run.stderr[-2000:])
                continue
            counts = run.stdout.splitlines()[-1].split()
            refused += int(counts[0])
            if float(counts[1]) > longest:
                longest, kind = float(counts[1]), path.suffix
    detail = f"{refused} of {len(files) * _PER_FORMAT} refused in words; longest read {longest:.2f} s ({kind})"
    return [Figure("kinds of file whose mutations crash or raise", crashes, 0, "", True, detail)]


def _good_files(folder: Path) -> list[Path]:
    """A small picture in every kind of file that is read."""
    pixels = photo_like(90, 70)
    image = Image.fromarray(pixels)
    names = {"jpg": "JPEG", "tif": "TIFF", "jp2": "JPEG2000", "ppm": "PPM"}
    files = []
    for suffix in ("jpg", "png", "tif", "webp", "avif", "gif", "bmp", "ppm", "jp2"):
        files.append(folder / f"good.{suffix}")
        image.save(files[-1], names.get(suffix, suffix.upper()))
    planes = folder / "good.tiff"
    tifffile.imwrite(planes, np.moveaxis(pixels, -1, 0), planarconfig="separate", compression="lzma")
    jxl, heic, exr = (folder / f"good.{suffix}" for suffix in ("jxl", "heic", "exr"))
    jxl.write_bytes(imagecodecs.jpegxl_encode(pixels))
    pillow_heif.from_bytes("RGB", image.size, image.tobytes()).save(heic)
    light = (pixels / 255).astype(np.float32)
    with OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": light}) as file:
        file.write(str(exr))
    mosaic = folder / "good.dng"
    write_mosaic(mosaic, pixels[..., 1].astype(np.uint16) * 60, MosaicTags(np.eye(3), (0.5, 1.0, 0.6)))
    return [*files, planes, jxl, heic, exr, mosaic]
