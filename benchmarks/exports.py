"""Thirty exports and their digests: a change of the code alone must not change a file.

``python -m benchmarks.exports record FILE`` before the change, ``python -m benchmarks.exports compare FILE``
after it, on the same machine: other processors may round the last bit of a network differently.
"""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import pyvips

from wamplex.core.demo import demo_pictures

_PHOTO = ("stage-web.jpg", "--crop", "240x180+100+60")
_HEAD = ("carved-head.png", "--crop", "120x90+60+60")
_POSTER = ("linocut-poster.png", "--crop", "200x150+40+40")
_NIGHT = ("rehearsal.jpg", "--crop", "200x150+100+100")
_RAW = ("dress-rehearsal.dng", "--crop", "160x120+80+80")
# Names of results by what makes them; the suffix is the format.
EXPORTS: dict[str, tuple[str, ...]] = {
    "nearest.tif": (*_PHOTO, "--factor", "2", "--upscaler", "nearest"),
    "bilinear.png": (*_PHOTO, "--factor", "2.5", "--upscaler", "bilinear"),
    "bicubic.jpg": (*_PHOTO, "--factor", "3", "--upscaler", "bicubic", "--chroma", "420"),
    "mitchell.webp": (*_PHOTO, "--factor", "4", "--upscaler", "mitchell"),
    "lanczos.pdf": (*_PHOTO, "--print", "10x7cm", "--upscaler", "lanczos", "--no-recipe-inside"),
    "contour.tif": (*_POSTER, "--factor", "3.3", "--upscaler", "contour", "--compression", "lzw"),
    "vellum.tif": (*_HEAD, "--factor", "4", "--upscaler", "vellum"),
    "vellum-six.png": (*_HEAD, "--factor", "6", "--upscaler", "vellum", "--depth", "8"),
    "quick.tif": (*_HEAD, "--factor", "2", "--upscaler", "vellum-quick"),
    "soft.tif": (*_HEAD, "--factor", "3", "--upscaler", "vellum", "--softness", "40"),
    "moved.tif": (*_HEAD, "--factor", "2", "--upscaler", "vellum", "--moved", "3", "--moved-along", "30"),
    "careful.tif": (*_HEAD, "--factor", "2", "--upscaler", "vellum", "--careful"),
    "anchored.tif": (*_HEAD, "--factor", "4", "--upscaler", "vellum", "--anchor", "1"),
    "mender.tif": (*_NIGHT, "--factor", "4", "--upscaler", "mender", "--noise", "40", "--blocks", "30"),
    "burin.png": (*_POSTER, "--factor", "4", "--upscaler", "burin", "--noise", "25"),
    "thicket.jpg": (*_HEAD, "--factor", "4", "--upscaler", "thicket", "--invention", "70"),
    "suggested-photo.tif": (*_PHOTO, "--factor", "2"),
    "suggested-poster.tif": (*_POSTER, "--factor", "2"),
    "straightened.tif": (
        "stage-web.jpg",
        "--crop",
        "180x200+60+100",
        "--turn",
        "90",
        "--factor",
        "2",
        "--straighten",
        "2",
        "--flip",
    ),
    "sheet.tif": ("dusk-backdrop.png", "--sheet", "10x8cm", "--place", "extend", "--bleed", "3"),
    "canvas.jpg": ("dusk-backdrop.png", "--sheet", "9x7cm", "--place", "fill", "--wrap", "10"),
    "mixed.tif": (*_HEAD, "--factor", "3", "--layer", "bicubic:60", "--keep-source", "10"),
    "faces.tif": (*_HEAD, "--factor", "3", "--upscaler", "vellum", "--faces", "mender:80"),
    "surface.tif": (*_NIGHT, "--factor", "2", "--sharpen", "80", "--grain", "3", "--halo-limit", "8"),
    "matched.png": (*_NIGHT, "--factor", "2", "--upscaler", "lanczos", "--match", "stage-web.jpg:60"),
    "profile.tif": (*_PHOTO, "--factor", "2", "--upscaler", "bicubic", "--profile", "adobe-rgb"),
    "raw.tif": (*_RAW, "--factor", "2", "--upscaler", "tessera"),
    "raw-warm.tif": (*_RAW, "--factor", "3", "--exposure", "1", "--light", "3000", "--tones", "shoulder"),
    "raw-bicubic.jpg": (*_RAW, "--factor", "2", "--upscaler", "bicubic", "--demosaic", "dcb"),
    "linear.dng": (*_RAW, "--factor", "2", "--upscaler", "tessera", "--no-recipe-inside"),
}


def main() -> int:
    """Record or compare; 1 when anything differs."""
    verb, path = sys.argv[1], Path(sys.argv[2])
    digests = export_digests()
    if verb == "record":
        path.write_text(json.dumps(digests, indent=1))
        return 0
    recorded = json.loads(path.read_text())
    for kind in ("file", "pixels"):
        other = [name for name in recorded if digests[name][kind] != recorded[name][kind]]
        print(f"{kind}: {len(recorded) - len(other)} of {len(recorded)} as recorded", *other)
    return int(any(digests[name]["pixels"] != recorded[name]["pixels"] for name in recorded))


def export_digests() -> dict[str, dict[str, str]]:
    """SHA-256 of each file, and of its pixels with profile and density, by the file's name."""
    digests = {}
    with tempfile.TemporaryDirectory() as folder:
        for source in demo_pictures():
            shutil.copy(source, folder)
        for name, words in EXPORTS.items():
            subprocess.run([sys.executable, "-m", "wamplex", "enlarge", *words, "--out", name], cwd=folder, check=True)
            path = Path(folder) / name
            digests[name] = {"file": _digest(path.read_bytes()), "pixels": pixel_digest(path)}
    return digests


def pixel_digest(path: Path) -> str:
    """SHA-256 of the pixels, profile and density; of the file itself where libvips does not read it."""
    if path.suffix in (".pdf", ".dng"):
        return _digest(path.read_bytes())
    image = pyvips.Image.new_from_file(str(path))
    profile = image.get("icc-profile-data") if "icc-profile-data" in image.get_fields() else b""
    head = f"{image.width} {image.height} {image.bands} {image.format} {image.xres:.4f}"
    return _digest(head.encode() + profile + image.write_to_memory())


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


if __name__ == "__main__":
    raise SystemExit(main())
