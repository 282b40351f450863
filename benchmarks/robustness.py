"""Random mutations of valid files, read in processes of their own: no crash, no hang."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
from pathlib import Path

from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure

_PER_FORMAT = 2500
_SCRIPT = """
import sys, time
from pathlib import Path
import logging; logging.disable(logging.CRITICAL)
import numpy as np
from wamplex.core.errors import UnreadablePictureError
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
    """10,000 mutated files of four kinds."""
    image = Image.fromarray(photo_like(90, 70))
    crashes, refused, longest = 0, 0, 0.0
    with tempfile.TemporaryDirectory() as folder:
        for suffix in ("jpg", "png", "tif", "webp"):
            path = Path(folder) / f"good.{suffix}"
            body = io.BytesIO()
            image.save(body, {"jpg": "JPEG", "tif": "TIFF"}.get(suffix, suffix.upper()))
            path.write_bytes(body.getvalue())
            words = [sys.executable, "-c", _SCRIPT, str(path), str(_PER_FORMAT)]
            run = subprocess.run(words, capture_output=True, text=True, check=False, timeout=1200)
            if run.returncode != 0:
                crashes += 1
                print(run.stderr[-2000:])
                continue
            counts = run.stdout.split()
            refused, longest = refused + int(counts[0]), max(longest, float(counts[1]))
    detail = f"{refused} of {4 * _PER_FORMAT} refused in words; longest read {longest:.2f} s"
    return [Figure("kinds of file whose mutations crash or raise", crashes, 0, "", True, detail)]
