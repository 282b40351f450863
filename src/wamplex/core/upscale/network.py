"""Runs a learned network on exact tiles."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from wamplex.core.errors import Cancelled
from wamplex.core.picture import Pixels
from wamplex.core.progress import Progress
from wamplex.core.upscale.stage import Stage
from wamplex.core.window import Window


@lru_cache(maxsize=16)
def load_session(path: Path, threads: int = 0) -> Any:
    """ONNX Runtime session on the CPU, made once per file.

    Parameters
    ----------
    path : ONNX file with input (1, 3, H, W) and output (1, 3, fH, fW), float32 in 0..1
    threads : how many to use, 0 for one per core
    """
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    options.log_severity_level = 3
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])


class NetworkStage:
    """Enlarges ``factor`` times with a convolutional network.

    The network pads with zeros at every layer, so a tile that lies at the border of the picture must
    end there, and any other tile needs ``halo`` more pixels, which are cut off the result. Then tiles
    agree with the whole to rounding.
    """

    # Most source pixels of a tile, its halo included: many, so that the halo costs little; few enough
    # that the work of one layer (and it alone cannot be interrupted) ends within 0.2 s on two cores.
    TILE_AREA_PX = 820_000

    def __init__(self, before: Stage, model: Path, factor: int, halo: int) -> None:
        self.width = before.width * factor
        self.height = before.height * factor
        self._before = before
        self._model = model
        self._factor = factor
        self._halo = halo

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        f = self._factor
        x, y = window.x // f, window.y // f
        covered = Window(x, y, -(-window.right // f) - x, -(-window.bottom // f) - y)
        out: Pixels | None = None
        tile_width, tile_height = tile_shape(covered.width, covered.height, self._halo, self.TILE_AREA_PX)
        for tile in covered.tiles(tile_width, tile_height):
            pixels = self._render_tile(tile, progress)
            made = Window(tile.x * f, tile.y * f, tile.width * f, tile.height * f)
            shared = Window(made.x - window.x, made.y - window.y, made.width, made.height)
            kept = shared.clipped(window.width, window.height)
            if out is None:
                out = np.empty((window.height, window.width, pixels.shape[2]), np.float32)
            part = pixels[
                kept.y - shared.y : kept.bottom - shared.y, kept.x - shared.x : kept.right - shared.x
            ]
            # Plane by plane: a third faster than moving all channels at once.
            for channel in range(part.shape[2]):
                out[kept.y : kept.bottom, kept.x : kept.right, channel] = part[..., channel]
        assert out is not None
        return out

    def _render_tile(self, tile: Window, progress: Progress) -> Pixels:
        f = self._factor
        padded = tile.grown(self._halo, self._before.width, self._before.height)
        source = self._before.render(padded, progress)
        left, top = (tile.x - padded.x) * f, (tile.y - padded.y) * f
        parts = [self._run(part, progress) for part in _as_colour(source)]
        cut = [p[top : top + tile.height * f, left : left + tile.width * f] for p in parts]
        return _from_colour(cut, source.shape[2])

    def _run(self, colour: Pixels, progress: Progress) -> Pixels:
        import onnxruntime

        session = load_session(self._model)
        options = onnxruntime.RunOptions()

        def stop() -> None:
            options.terminate = True

        # Networks know pictures within 0..1; an earlier pass may overshoot.
        tensor = np.clip(colour.transpose(2, 0, 1), 0.0, 1.0, order="C")[np.newaxis]
        with progress.interruptible(stop):
            try:
                (result,) = session.run(None, {session.get_inputs()[0].name: tensor}, options)
            except Exception as error:
                # The runtime has no exception of its own for a run that was told to end.
                if progress.cancelled:
                    raise Cancelled from error
                raise
        planes: Pixels = result[0]
        return planes.transpose(1, 2, 0)


def tile_shape(width: int, height: int, halo: int, area: int) -> tuple[int, int]:
    """The even division of an image into tiles that computes the fewest pixels, halos included.

    Parameters
    ----------
    width, height : of the image in pixels
    area : most pixels of a tile with its halo, unless a single pixel with its halo is larger
    """
    best, best_cost = (1, 1), float("inf")
    for columns in range(1, width + 1):
        tile_width = -(-width // columns)
        room = area // (tile_width + 2 * halo) - 2 * halo
        if room < 1:
            continue
        rows = -(-height // min(room, height))
        tile_height = -(-height // rows)
        cost = (width + 2 * halo * (columns - 1)) * (height + 2 * halo * (rows - 1))
        if cost < best_cost:
            best, best_cost = (tile_width, tile_height), cost
        if tile_width <= 2 * halo:
            break
    return best


def _as_colour(source: Pixels) -> list[Pixels]:
    """The three-channel images a picture of 1 to 4 channels is run as; alpha runs by itself as grey."""
    channels = source.shape[2]
    if channels == 3:
        return [source]
    if channels == 4:
        return [source[..., :3], np.repeat(source[..., 3:], 3, axis=2)]
    return [np.repeat(source[..., c : c + 1], 3, axis=2) for c in range(channels)]


def _from_colour(parts: list[Pixels], channels: int) -> Pixels:
    if channels == 3:
        return parts[0]
    greys = [p.mean(axis=2, keepdims=True) for p in (parts[1:] if channels == 4 else parts)]
    return np.concatenate([parts[0], *greys] if channels == 4 else greys, axis=2)
