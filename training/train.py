"""Trains a family of networks for some minutes, going on from its checkpoint or its shipped weights."""

from __future__ import annotations

import math
import os
import threading
import time
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

import numpy as np
import torch
from PIL import Image
from torch.nn import functional

from training.families import Family
from training.flat_colour import ripple, unevenness
from training.heldout import CONDITIONS, held_out_drawings, held_out_photographs, luma_psnr, shrink
from training.heldout_raw import NOISES, measured_raw
from training.network import Enlarger
from training.objectives import Exact, ExactEverywhere, Faithful, Inventing, Objective
from training.patches import PatchSource, told_input
from training.places import MODELS, checkpoint_path
from training.sensor import SensorSource
from training.shipped import first_weights
from wamplex.core.base.window import Window
from wamplex.core.upscale.networks.position_noise import fold_into_planes, position_noise

WARM_UP_STEPS = 100
SAVE_EVERY_S = 300.0
MEASURE_EVERY_S = 600.0
# A step that took longer was interrupted by other work; it does not count against the budget.
LONGEST_STEP_S = 5.0
MEASURED_INVENTION = 0.6
CELLS = 4  # the largest squares that a network works on, in pixels a side
_OBJECTIVES: dict[str, type[Objective]] = {
    "faithful": Faithful,
    "exact": Exact,
    "exact everywhere": ExactEverywhere,
    "inventing": Inventing,
}


Batch = tuple[int, torch.Tensor, torch.Tensor]  # factor, small and large patches


@dataclass
class Run:
    """A network on its way: ``used_s`` counts within this run, ``minutes`` before it, ``steps`` in all."""

    network: Enlarger
    optimizer: torch.optim.Adam
    objective: Objective
    steps: int = 0
    minutes: float = 0.0
    used_s: float = 0.0


def train(work: Path, family: Family, *, minutes: float, seed: int, models: Path = MODELS) -> None:
    """Train for ``minutes`` with Adam; the rate rises at once and falls along a cosine to 0.

    An interrupted run is taken up where its last checkpoint was.
    """
    torch.manual_seed(seed)
    run = begin(work, family, minutes, models)
    torch.manual_seed(seed + run.steps)
    kind = SensorSource if family.mosaic else PatchSource
    batches = _drawn_ahead(kind(work, family, seed=seed + run.steps), family)
    saved = measured = time.monotonic()
    losses: list[float] = []
    while run.used_s < minutes * 60:
        begun = time.monotonic()
        losses.append(_step(run, family, batches.get(), minutes))
        run.used_s += min(time.monotonic() - begun, LONGEST_STEP_S)
        if time.monotonic() - saved > SAVE_EVERY_S:
            save(work, family, run)
            saved = time.monotonic()
        if time.monotonic() - measured > MEASURE_EVERY_S:
            _report(work, family, run, losses)
            measured, losses = time.monotonic(), []
    save(work, family, run)
    _report(work, family, run, losses)


def _drawn_ahead(source: PatchSource, family: Family) -> Queue[Batch]:
    """Batches of one factor each, drawn by a thread of their own while the network learns."""
    batches: Queue[Batch] = Queue(maxsize=4)

    def fill() -> None:
        while True:
            factor = int(source.random.choice(family.factors, p=family.factor_shares))
            batches.put((factor, *source.batch(factor, family.batch)))

    threading.Thread(target=fill, daemon=True).start()
    return batches


def _step(run: Run, family: Family, batch: Batch, minutes: float) -> float:
    place = run.used_s / (minutes * 60)
    warm = min(1.0, (_adam_steps(run.optimizer) + 1) / WARM_UP_STEPS)
    for group in run.optimizer.param_groups:
        group["lr"] = family.rate * warm * 0.5 * (1 + math.cos(math.pi * place))
    factor, small, large = batch
    result = run.network(small.contiguous(memory_format=torch.channels_last), factor)
    loss = run.objective.loss(result, large, factor)
    if family.evened:
        loss = loss + unevenness(run.network, family, factor)
    run.optimizer.zero_grad(set_to_none=True)
    loss.backward()
    torch.nn.utils.clip_grad_norm_(run.network.parameters(), 1.0)
    run.optimizer.step()
    run.steps += 1
    return float(loss.detach())


def _adam_steps(optimizer: torch.optim.Adam) -> int:
    return next((int(kept["step"]) for kept in optimizer.state.values()), 0)


def begin(work: Path, family: Family, minutes: float, models: Path) -> Run:
    """A new run, or the interrupted one in the checkpoint."""
    network, steps, spent = first_weights(family, models)
    network = network.to(memory_format=torch.channels_last)
    objective = _OBJECTIVES[family.objective]()
    if family.grained:
        network.requires_grad_(False)
        network.texture.requires_grad_(True)
    learning = [p for p in network.parameters() if p.requires_grad]
    run = Run(network, torch.optim.Adam(learning, lr=family.rate), objective, steps, spent)
    path = checkpoint_path(work, family.name)
    if path.exists():
        state = torch.load(path, weights_only=True)
        run.network.load_state_dict(state["network"])
        run.objective.load(state["objective"])
        run.steps, run.minutes = state["steps"], state["minutes"]
        if state["used_s"] < minutes * 60:
            run.optimizer.load_state_dict(state["optimizer"])
            run.used_s = state["used_s"]
        else:
            run.minutes += state["used_s"] / 60
    return run


def save(work: Path, family: Family, run: Run) -> None:
    """Write the checkpoint, whole or not at all."""
    path = checkpoint_path(work, family.name)
    path.parent.mkdir(parents=True, exist_ok=True)
    state = {
        "network": run.network.state_dict(),
        "optimizer": run.optimizer.state_dict(),
        "objective": run.objective.state(),
        "steps": run.steps,
        "minutes": run.minutes,
        "used_s": run.used_s,
    }
    partial = path.with_suffix(".partial")
    torch.save(state, partial)
    os.replace(partial, path)


def _report(work: Path, family: Family, run: Run, losses: list[float]) -> None:
    if family.mosaic:
        noise = NOISES["middle"]
        found = [f"{f}x {measured_raw(work, run.network, f, noise):.2f} dB" for f in family.factors]
    else:
        found = [f"{f}x {measured_gain(work, family, run.network, f):+.2f} dB" for f in family.factors]
    told = "PSNR with middle noise" if family.mosaic else "over bicubic"
    if family.evened:
        found += [f"ripple at {f}x {ripple(run.network, family, f):.3f}" for f in family.factors]
    print(
        f"{family.name}: step {run.steps}, {run.minutes + run.used_s / 60:.1f} min, "
        f"loss {np.mean(losses):.5f}, {told}: {', '.join(found)}",
        flush=True,
    )


@torch.no_grad()
def measured_gain(work: Path, family: Family, network: Enlarger, factor: int) -> float:
    """Mean luma PSNR gain over bicubic in dB, border of the factor cut off, under the family's condition."""
    drawn = "drawings" in family.picture_shares
    pictures = held_out_drawings(work) if drawn else held_out_photographs(work)
    gains = []
    for picture in pictures.values():
        truth, small = shrink(picture, factor)
        damaged = CONDITIONS[family.measured_on](small)
        size = (truth.shape[1], truth.shape[0])
        bicubic = np.asarray(Image.fromarray(damaged.pixels).resize(size, Image.Resampling.BICUBIC))
        if family.inputs > 3:
            tensor = torch.from_numpy(told_input(damaged))[None]
        else:
            tensor = torch.from_numpy(damaged.pixels.transpose(2, 0, 1).copy()).float().div_(255)[None]
        if family.grained:
            numbers = fold_into_planes(position_noise(Window(0, 0, *size)), factor) * MEASURED_INVENTION
            tensor = torch.cat([tensor, torch.from_numpy(numbers)[None]], dim=1)
        rows, columns = tensor.shape[2:]
        even = functional.pad(tensor, (0, -columns % CELLS, 0, -rows % CELLS), mode="replicate")
        enlarged = network(even.contiguous(memory_format=torch.channels_last), factor)[0]
        enlarged = enlarged[:, : rows * factor, : columns * factor]
        result = (enlarged.clamp(0, 1) * 255).round().byte().numpy().transpose(1, 2, 0)
        gains.append(luma_psnr(result, truth, factor) - luma_psnr(bicubic, truth, factor))
    return float(np.mean(gains))
