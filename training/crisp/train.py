"""Trains Kestrel by regression towards the truth from any point between noise and truth."""

from __future__ import annotations

import math
import os
import threading
import time
from dataclasses import dataclass, replace
from pathlib import Path
from queue import Queue

import numpy as np
import torch
from torch import Tensor

from training.crisp.keep import kept_state
from training.crisp.measure import measure
from training.crisp.network import RESIDUAL_LIMIT, CrispNetwork, detail_scale, luma, uniform_noise
from training.families import FAMILIES
from training.network import Enlarger
from training.patches import PatchSource
from training.places import MODELS, checkpoint_path
from training.shipped import shipped_weights

TOTAL_STEPS = 150_000
WARM_UP_STEPS = 50
RATE = 1.5e-3
PATCH_PX, BATCH, BORDER_PX = 36, 8, 8
FROM_NOISE = 0.2  # fraction of the draws that start at the noise itself
AVERAGE_DECAY = 0.9995
SAVE_EVERY_S = 300.0
MEASURE_EVERY_S = 1800.0


@dataclass
class Run:
    """A network in training; ``average`` holds the running average of its weights."""

    network: CrispNetwork
    average: CrispNetwork
    optimizer: torch.optim.Adam
    steps: int = 0
    minutes: float = 0.0


def train(work: Path, factor: int, minutes: float, seed: int) -> None:
    """Train for ``minutes``, resuming from the checkpoint; the rate follows the number of steps."""
    run = resume(work, factor)
    torch.manual_seed(seed + run.steps)
    mean_network, _, _ = shipped_weights(FAMILIES["vellum-standard"], MODELS)
    mean_network = mean_network.requires_grad_(False).to(memory_format=torch.channels_last)
    batches = _batches(work, factor, seed + run.steps)
    begun = saved = measured = time.monotonic()
    end, losses = begun + minutes * 60, list[float]()
    while time.monotonic() < end and run.steps < TOTAL_STEPS:
        losses.append(_step(run, mean_network, *batches.get()))
        now = time.monotonic()
        run.minutes += (now - begun) / 60
        begun = now
        if now - saved > SAVE_EVERY_S:
            save(work, run)
            saved = now
            print(f"step {run.steps}, {run.minutes:.1f} min, loss {np.mean(losses):.5f}", flush=True)
            losses = []
        if now - measured > MEASURE_EVERY_S:
            print(measure(work, run.average, mean_network), flush=True)
            measured = begun = time.monotonic()
    save(work, run)
    print(measure(work, run.average, mean_network), flush=True)


def resume(work: Path, factor: int) -> Run:
    """The run in the checkpoint, else the kept one, else a new one whose trunk starts from Vellum's."""
    network, average = (CrispNetwork(factor).to(memory_format=torch.channels_last) for _ in range(2))
    optimizer = torch.optim.Adam(network.parameters(), lr=RATE, betas=(0.9, 0.99))
    path = checkpoint_path(work, f"kestrel-{factor}x")
    state = torch.load(path, weights_only=True) if path.exists() else kept_state(factor)
    if state is not None:
        network.load_state_dict(state["network"])
        average.load_state_dict(state["average"])
        optimizer.load_state_dict(state["optimizer"])
        return Run(network, average, optimizer, state["steps"], state["minutes"])
    trunk = shipped_weights(FAMILIES["vellum-standard"], MODELS)[0].state_dict()
    shared = {k: v for k, v in trunk.items() if k.startswith(("entry.", "blocks."))}
    network.load_state_dict(shared, strict=False)
    average.load_state_dict(network.state_dict())
    return Run(network, average, optimizer)


def save(work: Path, run: Run) -> None:
    """Write the checkpoint, whole or not at all."""
    path = checkpoint_path(work, f"kestrel-{run.network.factor}x")
    path.parent.mkdir(parents=True, exist_ok=True)
    state = {
        "network": run.network.state_dict(),
        "average": run.average.state_dict(),
        "optimizer": run.optimizer.state_dict(),
        "steps": run.steps,
        "minutes": run.minutes,
    }
    partial = path.with_suffix(".partial")
    torch.save(state, partial)
    os.replace(partial, path)


def _batches(work: Path, factor: int, seed: int) -> Queue[tuple[Tensor, Tensor]]:
    """Pairs of clean patches, drawn by a thread of their own while the network learns."""
    family = replace(FAMILIES["vellum-standard"], patch_px=PATCH_PX, batch=BATCH, damage="none")
    source = PatchSource(work, family, seed=seed)
    batches: Queue[tuple[Tensor, Tensor]] = Queue(maxsize=4)

    def fill() -> None:
        while True:
            small, large = source.batch(factor, BATCH)
            batches.put((small.contiguous(memory_format=torch.channels_last), large))

    threading.Thread(target=fill, daemon=True).start()
    return batches


def _step(run: Run, mean_network: Enlarger, small: Tensor, large: Tensor) -> float:
    for group in run.optimizer.param_groups:
        group["lr"] = learning_rate(run.steps)
    loss = flow_loss(run.network, mean_network, small, large)
    run.optimizer.zero_grad(set_to_none=True)
    loss.backward()
    torch.nn.utils.clip_grad_norm_(run.network.parameters(), 1.0)
    run.optimizer.step()
    with torch.no_grad():
        decay = min(AVERAGE_DECAY, (run.steps + 1) / (run.steps + 10))
        for average, own in zip(run.average.parameters(), run.network.parameters(), strict=True):
            average.lerp_(own, 1 - decay)
    run.steps += 1
    return float(loss.detach())


def learning_rate(step: int) -> float:
    """Rising over the first steps, constant up to the half, then a cosine to 0."""
    warm = min(1.0, (step + 1) / WARM_UP_STEPS)
    place = max(0.0, 2 * step / TOTAL_STEPS - 1)
    return RATE * warm * 0.5 * (1 + math.cos(math.pi * min(place, 1.0)))


def flow_loss(network: CrispNetwork, mean_network: Enlarger, small: Tensor, large: Tensor) -> Tensor:
    """Squared error of the velocity, weighted by the local detail; the border is not judged."""
    factor = network.factor
    with torch.no_grad():
        mean = luma(mean_network(small, factor))
        detail, scale = detail_scale(mean)
        residual = ((luma(large) - mean) / scale).clamp(-RESIDUAL_LIMIT, RESIDUAL_LIMIT)
        noise = uniform_noise(tuple(residual.shape))
        moment = torch.rand(len(small))
        moment[torch.rand(len(small)) < FROM_NOISE] = 0.0
        place = moment[:, None, None, None]
        state = (1 - place) * noise + place * residual
    predicted = network.velocity(network.features(small), state, detail, moment)
    border = BORDER_PX * factor
    inner = (..., slice(border, -border), slice(border, -border))
    weight = scale[inner] / scale[inner].mean()
    return ((predicted - (residual - noise))[inner] ** 2 * weight).mean()
