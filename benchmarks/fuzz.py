"""Coverage-guided fuzzing of what reads strangers' files: ``python -m benchmarks.fuzz TARGET SECONDS``.

Targets: probe (headers of pictures), project, recipe, network (the examiner, without the engine's own run).
Whatever is raised besides the program's own errors is a find; atheris writes the file that brings it about.
Needs ``pip install wamplex[fuzz]``.
"""

from __future__ import annotations

import io
import logging
import sys
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["wamplex.core", "tifffile", "netpbmfile"]):
    from wamplex.core.analysis.compression.file_compression import read_compression
    from wamplex.core.base.errors import WamplexError
    from wamplex.core.intake.probe import LARGEST_SOURCE_MP, open_image_file
    from wamplex.core.intake.read import read_picture
    from wamplex.core.model.recipe import Recipe
    from wamplex.core.upscale.user_networks.external_weights import external_weight_files
    from wamplex.core.workflow.projects.project import open_project

_FOLDER = Path(tempfile.mkdtemp(prefix="wamplex-fuzz-"))
_SMALL_MP = 2.0


def probe_file(data: bytes) -> None:
    """Header, and the pixels where they are few."""
    path = _written(data)
    header, _ = open_image_file(path)
    read_compression(path.read_bytes())
    if header.width * header.height <= min(_SMALL_MP, LARGEST_SOURCE_MP) * 1e6:
        read_picture(path)


def project_file(data: bytes) -> None:
    """The bytes as a project's text in a sound archive, and as the archive itself."""
    body = io.BytesIO()
    with zipfile.ZipFile(body, "w") as archive:
        archive.writestr("project.json", data)
    for content in (body.getvalue(), data):
        try:
            open_project(_written(content))
        except WamplexError:
            continue


def recipe_text(data: bytes) -> None:
    """A recipe as it stands in projects and journals."""
    try:
        Recipe.model_validate_json(data)
    except ValueError:
        return  # pydantic's own, which whoever reads a recipe turns into words


def network_file(data: bytes) -> None:
    """What is looked for in a network's bytes before the engine sees them."""
    external_weight_files(_written(data))


_TARGETS: dict[str, Callable[[bytes], None]] = {
    "probe": probe_file,
    "project": project_file,
    "recipe": recipe_text,
    "network": network_file,
}


def main() -> None:
    """Run a target for so many seconds, starting from small valid files."""
    target, seconds = _TARGETS[sys.argv[1]], sys.argv[2]
    logging.disable(logging.CRITICAL)

    def once(data: bytes) -> None:
        try:
            target(data)
        except WamplexError:
            return

    seeds = _FOLDER / "seeds"
    seeds.mkdir()
    for index, seed in enumerate(_seeds(sys.argv[1])):
        (seeds / str(index)).write_bytes(seed)
    options = [f"-max_total_time={seconds}", "-timeout=20", "-rss_limit_mb=3000", "-max_len=20000"]
    atheris.Setup([sys.argv[0], str(seeds), *options], once)
    atheris.Fuzz()


def _seeds(target: str) -> list[bytes]:
    if target == "recipe":
        return [Recipe().model_dump_json().encode()]
    if target == "project":
        return [b'{"format": "wamplex-project", "version": 2, "pictures": []}']
    if target == "network":
        return [b"\x0a\x08location\x12\x07weights"]
    return _pictures()


def _pictures() -> list[bytes]:
    """The smallest picture of each kind that can be written here."""
    import imagecodecs
    import numpy as np
    import tifffile
    from PIL import Image

    pixels = np.random.default_rng(1).integers(0, 255, (9, 11, 3)).astype(np.uint8)
    seeds = []
    for kind in ("JPEG", "PNG", "WEBP", "GIF", "BMP", "PPM", "AVIF", "JPEG2000"):
        body = io.BytesIO()
        Image.fromarray(pixels).save(body, kind)
        seeds.append(body.getvalue())
    for options in ({}, {"planarconfig": "separate"}, {"compression": "lzw"}, {"tile": (16, 16)}):
        body = io.BytesIO()
        stored = np.moveaxis(pixels, -1, 0) if options.get("planarconfig") else pixels
        tifffile.imwrite(body, stored, photometric="rgb", **options)
        seeds.append(body.getvalue())
    return [*seeds, bytes(imagecodecs.jpegxl_encode(pixels, lossless=True))]


def _written(data: bytes) -> Path:
    path = _FOLDER / "input"
    path.write_bytes(data)
    return path


if __name__ == "__main__":
    main()
