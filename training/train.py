"""Trains a Vellum network; resumes from its checkpoint until its time budget is used up."""

from __future__ import annotations

import math
import os
import time
from pathlib import Path

import numpy as np
import torch
from PIL import Image

from training.heldout import held_out_pictures, luma_psnr, shrink
from training.network import GRADES, Enlarger
from training.patches import PatchSource
from training.places import checkpoint_path

RATE = 5e-4
BATCH = 16
FACTOR_SHARES = {2: 0.35, 3: 0.15, 4: 0.50}
SAVE_EVERY_S = 300.0
# A step that took longer was interrupted by other work; it does not count against the budget.
LONGEST_STEP_S = 3.0


def train_vellum(work: Path, *, grade: str, minutes: float, seed: int) -> None:
    """Train with L1 loss and Adam; the rate falls along a cosine to 0 at the end of the budget."""
    network = Enlarger(GRADES[grade]).to(memory_format=torch.channels_last)
    optimizer = torch.optim.Adam(network.parameters(), lr=RATE)
    path = checkpoint_path(work, grade)
    step, used_s = _resume(path, network, optimizer)
    source = PatchSource(work, seed=seed + step)
    budget_s = minutes * 60
    last_save, losses = time.monotonic(), []
    torch.manual_seed(seed + step)
    while used_s < budget_s:
        begun = time.monotonic()
        for group in optimizer.param_groups:
            group["lr"] = RATE * 0.5 * (1 + math.cos(math.pi * used_s / budget_s))
        factor = int(source.random.choice(list(FACTOR_SHARES), p=list(FACTOR_SHARES.values())))
        small, large = source.batch(factor, BATCH)
        result = network(small.contiguous(memory_format=torch.channels_last), factor)
        loss = torch.nn.functional.l1_loss(result, large)
        optimizer.zero_grad(set_to_none=True)
        loss.backward()
        torch.nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        optimizer.step()
        step += 1
        losses.append(float(loss.detach()))
        used_s += min(time.monotonic() - begun, LONGEST_STEP_S)
        if time.monotonic() - last_save > SAVE_EVERY_S or used_s >= budget_s:
            _save(path, network, optimizer, step, used_s)
            gains = {f: measured_gain(network, f) for f in FACTOR_SHARES}
            words = ", ".join(f"{f}x {gain:+.2f} dB" for f, gain in gains.items())
            print(
                f"step {step}, {used_s / 60:.1f} min, L1 {np.mean(losses):.5f}, over bicubic: {words}",
                flush=True,
            )
            last_save, losses = time.monotonic(), []


def _resume(path: Path, network: Enlarger, optimizer: torch.optim.Adam) -> tuple[int, float]:
    if not path.exists():
        return 0, 0.0
    state = torch.load(path, weights_only=True)
    network.load_state_dict(state["network"])
    optimizer.load_state_dict(state["optimizer"])
    return int(state["step"]), float(state["used_s"])


def _save(path: Path, network: Enlarger, optimizer: torch.optim.Adam, step: int, used_s: float) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial")
    state = {
        "network": network.state_dict(),
        "optimizer": optimizer.state_dict(),
        "step": step,
        "used_s": used_s,
    }
    torch.save(state, partial)
    os.replace(partial, path)


@torch.no_grad()
def measured_gain(network: Enlarger, factor: int) -> float:
    """Mean luma PSNR gain over bicubic on the held-out pictures, in dB, border of the factor cut off."""
    gains = []
    for picture in held_out_pictures().values():
        truth, small = shrink(picture, factor)
        size = (truth.shape[1], truth.shape[0])
        bicubic = np.asarray(Image.fromarray(small).resize(size, Image.Resampling.BICUBIC))
        tensor = torch.from_numpy(small.transpose(2, 0, 1).copy()).float().div_(255)[None]
        enlarged = network(tensor.contiguous(memory_format=torch.channels_last), factor)[0]
        result = (enlarged.clamp(0, 1) * 255).round().byte().numpy().transpose(1, 2, 0)
        gains.append(luma_psnr(result, truth, factor) - luma_psnr(bicubic, truth, factor))
    return float(np.mean(gains))
