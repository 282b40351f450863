"""Finish: how quickly painting is seen, and what mixing, sharpening and grain cost an export."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image

from benchmarks.rendering import photo_like
from benchmarks.table import Figure, rounds_of
from benchmarks.window import run_script
from wamplex.core.base.malloc import spare_time
from wamplex.core.base.window import Window
from wamplex.core.finish.grey_mask import encode_grey
from wamplex.core.finish.strokes import Stroke, encode_points
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import Grain, InitialMask, Layer, Mask, Sharpen
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.plan import plan

_SCRIPT = """
import math, sys, time
from pathlib import Path
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from wamplex.app.startup.start import make_window
from wamplex.app.window.main_window import FINISH
from wamplex.core.model.trial_spec import TrialSpec
app, window = make_window()
window.show()
window.take_in([Path(sys.argv[1])])
def wait(done):
    while not done():
        app.processEvents()
        time.sleep(0.001)
def rest():
    until = time.perf_counter() + 0.5
    wait(lambda: time.perf_counter() > until)
    wait(lambda: not window.workers.renderer.busy)
wait(lambda: window.tray.entries and window.tray.entries[0].suggested is not None)
step, pane = window.finish_step, window.finish_step.pane
window.open_step(FINISH)
step.viewport.set_zoom(1.0)
for key in ("vellum", "burin"):
    step.add_layer(TrialSpec(upscaler=key))
rest()
longest, seen = 0.0, []
for turn in range(3):
    start = QPoint(150, 150 + 100 * turn)
    QTest.mousePress(pane, Qt.MouseButton.LeftButton, pos=start)
    for i in range(200):
        QTest.mouseMove(pane, start + QPoint(2 * i, round(60 * math.sin(i / 9))))
        begun = time.perf_counter()
        pane.repaint()
        longest = max(longest, time.perf_counter() - begun)
    begun = time.perf_counter()
    QTest.mouseRelease(pane, Qt.MouseButton.LeftButton, pos=start + QPoint(400, 0))
    keys = [key for _, key in pane.tiles_of(pane._recipe)]
    wait(lambda: all(step.tiles.cache.get(key) is not None for key in keys))
    seen.append(time.perf_counter() - begun)
    rest()
print(longest, min(seen), len(keys))
window.end(asked=False)
"""


def painting() -> list[Figure]:
    """Strokes over a result of 100 megapixels, in a window of 1280 x 800."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        Image.fromarray(photo_like(3200, 2000)).save(path, compress_level=1)
        longest, seen, tiles = (float(word) for word in run_script(_SCRIPT, path).split())
    detail = f"best of 3 strokes, {tiles:.0f} tiles of 512 px"
    return [
        Figure("longest repaint while painting on 102 MP", 1e3 * longest, 16.7, "ms", True, ""),
        Figure("pixels after letting go, two learned layers", seen, 0.3, "s", True, detail),
    ]


def finishing() -> list[Figure]:
    """Costs as shares of what the trials alone cost."""
    picture = Picture(photo_like(700, 500).astype(np.float32) / np.float32(255))
    half = np.zeros((500, 700), np.float32)
    half[:, :350] = 1
    mask = Mask(initial_mask=InitialMask(kind="file", picture=process_assets().put(encode_grey(half))), feather_px=4)
    base, other = TrialSpec(upscaler="vellum"), TrialSpec(upscaler="burin")
    plain, second = Recipe(base=base, factor=4), Recipe(base=other, factor=4)
    # Painted somewhere else: what is made of it here is nothing.
    dot = encode_points((Stroke(((1.0, 1.0, 1.0),), radius=0.5),))
    nowhere = Mask(initial_mask=InitialMask(kind="nowhere"), strokes=process_assets().put(dot))
    hidden = plain.replace(layers=(Layer(source_trial=other, mask=nowhere),))
    layer = Layer(source_trial=other, mask=mask, strength=80)
    whole = plain.replace(layers=(layer,), sharpen=Sharpen(), grain=Grain())
    everything = Window(0, 0, 2800, 2000)
    # The layer shows in a half of the picture, and as far beyond as its mask is feathered.
    reached = Window(0, 0, 1400 + 3 * 4 * 4 + 4, 2000)
    parts = ((plain, everything), (second, reached), (hidden, everything), (whole, everything))
    works = [partial(_render, picture, recipe, window) for recipe, window in parts]
    # What is measured is less than the machine's speed changes between two shortest times, but not between
    # neighbours: the median of the rounds' own ratios.
    with spare_time():  # as an export has it
        rounds = rounds_of(works, 15)
    hidden_share = median(nothing / alone for alone, _, nothing, _ in rounds)
    finished_share = median(finished / (alone + needed) for alone, needed, _, finished in rounds)
    detail = f"median of {len(rounds)} rounds"
    return [
        Figure("layer hidden everywhere / no layer", hidden_share, 1.05, "", True, detail),
        Figure("mix, sharpening, grain / trials alone", finished_share, 1.15, "", True, detail),
    ]


def _render(picture: Picture, recipe: Recipe, window: Window) -> None:
    plan(picture, recipe).render(window)
