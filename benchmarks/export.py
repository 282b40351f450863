"""Export against its parts, and its memory."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure, best_of_each
from wamplex.core.base.window import Window
from wamplex.core.deliver.deliver import _WRITERS, deliver, describe_file
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.writers.tile_samples import file_samples
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render


def export_overhead() -> list[Figure]:
    """Whole export over render alone plus encode alone, 3 MP to 48 MP."""
    figures = []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "source.png"
        pixels = photo_like(2000, 1500)
        Image.fromarray(pixels).save(path)
        picture = Picture(pixels.astype(np.float32) / np.float32(255), source=Source.of(path))
        for upscaler, delivery in (
            ("lanczos", Delivery(format="tiff")),
            ("lanczos", Delivery(format="jpeg")),
            ("lanczos", Delivery(format="png")),
            ("vellum", Delivery(format="tiff")),
        ):
            figures.append(_one(picture, Recipe(base=TrialSpec(upscaler=upscaler), factor=4.0), delivery, Path(folder)))
    return figures


def _one(picture: Picture, recipe: Recipe, delivery: Delivery, folder: Path) -> Figure:
    about = describe_file(picture, recipe, delivery)
    whole = Window(0, 0, about.width, about.height)
    pixels = render(picture, recipe, whole)
    samples = file_samples(pixels, picture, delivery, about)
    del pixels
    rows = -(-about.height // 24)
    strips = [slice(top, top + rows) for top in range(0, about.height, rows)]
    write = _WRITERS[delivery.format]
    render_s, encode_s, whole_s = best_of_each(
        [
            lambda: render(picture, recipe, whole),
            lambda: write(folder / "encoded", iter([samples[rows] for rows in strips]), about),
            lambda: deliver(picture, recipe, delivery),
        ],
        3,
    )
    name = f"export {recipe.upscaler} {delivery.format} 48 MP over render + encode"
    detail = f"{whole_s:.1f} s, reading back included, against {render_s:.1f} + {encode_s:.1f} s"
    return Figure(name, whole_s / (render_s + encode_s), 1.25, "x", True, detail)


_MEMORY_SCRIPT = """
import sys
from pathlib import Path
from wamplex.core.deliver.deliver import deliver
from wamplex.core.intake.read import read_picture
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render
from wamplex.core.model.upscale_values import Values
from wamplex.core.base.window import Window
picture = read_picture(Path(sys.argv[1]))
for key in sys.argv[4:]:  # what was tried before
    for values in (Values(), Values(noise=6, softness=30), Values(noise=20, blocks=40)):
        tried = Recipe(base=TrialSpec(upscaler=key, values=values), factor=4.0)
        render(picture, tried, Window(8000, 6000, 3000, 2000))
recipe = Recipe(base=TrialSpec(upscaler=sys.argv[2]), factor=float(sys.argv[3]))
done = deliver(picture, recipe, Delivery())
# Not getrusage: its figure starts at the parent's, from before this program was loaded.
status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
peak_gb = int(status["VmHWM"].split()[0]) * 1024 / 1e9
print(peak_gb, done.seconds, done.check.file_bytes / 1e9)
"""


def _build_dir() -> Path:
    """A folder on a real disk, which the system's temporary folder may not be."""
    folder = Path("build")
    folder.mkdir(exist_ok=True)
    return folder


def memory() -> list[Figure]:
    """Peak resident memory of 24 MP to 864 MP as a 16-bit TIFF, in a process of its own."""
    figures = []
    folder = Path(tempfile.mkdtemp(dir=_build_dir()))
    try:
        path = folder / "source.jpg"
        Image.fromarray(photo_like(6000, 4000)).save(path, quality=92)
        tried = ("vellum", "mender", "burin", "thicket", "vellum-quick", "contour")
        for upscaler, factor, before in (("lanczos", "6", ()), ("vellum", "2", ()), ("vellum", "2", tried)):
            out = subprocess.run(
                [sys.executable, "-c", _MEMORY_SCRIPT, str(path), upscaler, factor, *before],
                capture_output=True,
                text=True,
                check=True,
            ).stdout.split()
            peak_gb, seconds, file_gb = (float(v) for v in out)
            name = f"memory, 24 MP {upscaler} {factor}x to 16-bit TIFF"
            name += ", six upscalers tried before" if before else ""
            detail = f"{seconds:.0f} s, file of {file_gb:.2f} GB"
            figures.append(Figure(name, peak_gb, 1.5, "GB", True, detail))
    finally:
        shutil.rmtree(folder)
    return figures
