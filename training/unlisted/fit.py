"""Trains the judge: quantiles of what each way to enlarge gains over bicubic, from what was measured of a picture."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import onnx
import torch
from torch import Tensor, nn
from torch.nn import functional

from training.places import KEPT
from training.unlisted.few_tones import FEW_TONES_KINDS
from training.unlisted.held_back import is_held_back
from wamplex.core.analysis.suggestion.expected_gains import JUDGED_KEYS, LEVELS, ExpectedGain, best_way

NAME, KEPT_NAME = "judge", "judged"
_KEPT_PICTURES = 4000  # in a file below 4 MB
_WIDTH, _MEMBERS, _EPOCHS, _BATCH, _RATE = 128, 5, 60, 64, 2e-3
_RANGE_DB = 6.0  # gains beyond it teach nothing more
_NEAR_DB = 0.05
_INTERVAL = 0.9


@dataclass(frozen=True)
class Examples:
    """Judged pictures.

    Attributes
    ----------
    numbers : (N, inputs) float32
    gains : (N, judged) dB; the last is what the rules suggest; not a number where it was not tried
    held_back : (N,) whether nothing is learned from it
    chains : what was done to each
    """

    numbers: Tensor
    gains: Tensor
    held_back: Tensor
    chains: list[dict[str, object]]

    def chosen(self, rows: Tensor) -> Examples:
        """Some of them, by a boolean for each."""
        chains = [chain for chain, row in zip(self.chains, rows.tolist(), strict=True) if row]
        return Examples(self.numbers[rows], self.gains[rows], self.held_back[rows], chains)


class Judge(nn.Module):
    """One member: residual layers from numbers to quantiles of gains in dB, lowest first."""

    def __init__(self, mean: Tensor, spread: Tensor) -> None:
        super().__init__()
        self.register_buffer("mean", mean)
        self.register_buffer("spread", spread)
        self.first = nn.Linear(len(mean), _WIDTH)
        self.middle = nn.ModuleList(nn.Linear(_WIDTH, _WIDTH) for _ in range(2))
        self.last = nn.Linear(_WIDTH, len(JUDGED_KEYS) * len(LEVELS))

    def forward(self, numbers: Tensor) -> Tensor:
        """(N, inputs) to (N, judged, quantiles)."""
        x = functional.dropout(((numbers - self.mean) / self.spread).clamp(-4, 4), 0.1, self.training)
        x = functional.relu(self.first(x))
        for layer in self.middle:
            x = x + functional.relu(layer(functional.dropout(x, 0.2, self.training)))
        made: Tensor = self.last(x)
        return made.reshape(-1, len(JUDGED_KEYS), len(LEVELS))


class Panel(nn.Module):
    """The mean of several judges, its spread widened until it holds what was promised.

    Attributes
    ----------
    widening : (judged, 2) what is taken from the lowest and added to the highest quantile, dB
    """

    def __init__(self, members: list[Judge]) -> None:
        super().__init__()
        self.members = nn.ModuleList(members)
        self.register_buffer("widening", torch.zeros(len(JUDGED_KEYS), 2))

    def forward(self, numbers: Tensor) -> Tensor:
        """(N, inputs) to (N, judged, quantiles)."""
        made = torch.stack([member(numbers) for member in self.members]).mean(dim=0)
        lowest, highest = made[..., :1] - self.widening[:, :1], made[..., -1:] + self.widening[:, 1:]
        return torch.cat([lowest, made[..., 1:-1], highest], dim=-1)


def examples(work: Path) -> Examples:
    """Everything that was collected, here and on the machines before; each picture once."""
    paths = [*sorted(KEPT.glob(f"{KEPT_NAME}-*.npz")), *sorted((work / "judged").glob("*.npz"))]
    shards = [np.load(path) for path in paths]
    chains = [json.loads(text) for shard in shards for text in shard["chains"]]
    parts = (np.concatenate([shard[part] for shard in shards]) for part in ("numbers", "gains"))
    # Of a picture that is there twice, the one that was not kept in 16 bits.
    once = list({(chain["seed"], chain["source"]): row for row, chain in enumerate(chains)}.values())
    numbers, gains = (torch.from_numpy(part[once].astype(np.float32)) for part in parts)
    chains = [chains[row] for row in once]
    held_back = torch.tensor([is_held_back(str(chain["source"])) for chain in chains])
    return Examples(numbers, gains, held_back, chains)


def keep(work: Path) -> list[Path]:
    """Write what was collected into the repository, in 16 bits and in parts; a new machine goes on from there."""
    known, paths = examples(work), list[Path]()
    for number, first in enumerate(range(0, len(known.chains), _KEPT_PICTURES)):
        some = slice(first, first + _KEPT_PICTURES)
        chains = [{key: chain[key] for key in ("seed", "kinds", "source")} for chain in known.chains[some]]
        path = KEPT / f"{KEPT_NAME}-{number}.npz"
        np.savez_compressed(
            path,
            numbers=known.numbers[some].numpy().astype(np.float16),
            gains=known.gains[some].numpy().astype(np.float16),
            chains=np.array([json.dumps(chain) for chain in chains]),
        )
        paths.append(path)
    return paths


def fit(work: Path, seed: int) -> None:
    """Train on everything that was collected, report on what was held back, and save; takes some minutes."""
    torch.set_num_threads(1)  # its layers are too small to share
    known = examples(work)
    learned = ~known.held_back
    whole = known.held_back & ~known.gains.isnan().any(dim=1)  # of these every way is known
    members = [_member(known.numbers[learned], known.gains[learned], seed + k) for k in range(_MEMBERS)]
    panel = Panel(members).eval()
    with torch.no_grad():
        panel.widening.copy_(widening(panel, known.numbers[whole], known.gains[whole]))
        print(report(panel, known.chosen(whole)), flush=True)
    torch.save({"panel": panel.state_dict(), "count": int(learned.sum())}, work / "checkpoints" / f"{NAME}.pt")


def _member(numbers: Tensor, gains: Tensor, seed: int) -> Judge:
    torch.manual_seed(seed)
    judge = Judge(numbers.mean(dim=0), numbers.std(dim=0) + 1e-3)
    optimizer = torch.optim.AdamW(judge.parameters(), lr=_RATE, weight_decay=2e-2)
    count = len(numbers) // _BATCH
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, _RATE, total_steps=_EPOCHS * count)
    meant = gains.clamp(-_RANGE_DB, _RANGE_DB)
    for _ in range(_EPOCHS):
        order = torch.randperm(len(numbers))
        for some in order[: count * _BATCH].split(_BATCH):
            loss = pinball(judge(numbers[some]), meant[some])
            optimizer.zero_grad(set_to_none=True)
            loss.backward()
            optimizer.step()
            schedule.step()
    return judge.eval()


def pinball(quantiles: Tensor, gains: Tensor) -> Tensor:
    """Quantile loss (Koenker and Bassett 1978) of (N, A, Q) for gains (N, A), where they are known."""
    levels = quantiles.new_tensor(LEVELS)
    known = ~gains.isnan()
    off = gains[known][:, None] - quantiles[known]
    return torch.maximum(levels * off, (levels - 1) * off).mean()


def widening(panel: Panel, numbers: Tensor, gains: Tensor) -> Tensor:
    """How much wider each alternative's spread must be to hold nine in ten of the pictures held back.

    Conformalised quantile regression (Romano, Patterson and Candès 2019), each side on its own.
    """
    made, meant = panel(numbers), gains.clamp(-_RANGE_DB, _RANGE_DB)
    side = 1 - (1 - _INTERVAL) / 2
    below = torch.quantile(made[..., 0] - meant, side, dim=0)
    above = torch.quantile(meant - made[..., -1], side, dim=0)
    return torch.stack([below, above], dim=1)


def report(panel: Panel, known: Examples) -> str:
    """What the suggestion gains on pictures of which every way is known, beside the rules and the best of all.

    Returns
    -------
    A Markdown table, and how many of the gains lie within their spread.
    """
    made, gains = panel(known.numbers), known.gains
    histories = [_history(chain["kinds"]) for chain in known.chains]
    judged = []
    for quantiles, gain, history in zip(made.tolist(), gains.tolist(), histories, strict=True):
        ways = {k: ExpectedGain(*q) for k, q in zip(JUDGED_KEYS, quantiles, strict=True)}
        key = best_way(ways, colours=2 if history == "few tones" else 4096)
        judged.append(0.0 if key is None else gain[JUDGED_KEYS.index(key)])
    best = gains.max(dim=1).values.clamp(min=0)
    choices = {"rules": gains[:, -1], "judged": torch.tensor(judged), "best of all": best}
    lines = ["| history | choice | mean | near the best | below bicubic | below -0.3 dB | least |", "|---" * 7 + "|"]
    for history in sorted(set(histories)):
        part = torch.tensor([h == history for h in histories])
        for name, gain in choices.items():
            some = gain[part]
            parts = (some >= best[part] - _NEAR_DB, some < -0.005, some < -0.3)
            cells = [f"{some.mean():+.2f}", *(f"{100 * p.float().mean():.1f} %" for p in parts), f"{some.min():+.2f}"]
            lines.append(f"| {history} ({int(part.sum())}) | {name} | {' | '.join(cells)} |")
    inside = (gains >= made[..., 0]) & (gains <= made[..., -1])
    return "\n".join([*lines, f"\n{100 * inside.float().mean():.1f} % of the gains lie within their spread."])


def _history(kinds: object) -> str:
    if kinds == ["usual"]:
        return "usual"
    return "few tones" if kinds in [[kind] for kind in FEW_TONES_KINDS] else "by chance"


def load(work: Path) -> tuple[Panel, int]:
    """The trained panel, and from how many pictures it has learned."""
    state = torch.load(work / "checkpoints" / f"{NAME}.pt", weights_only=True)
    mean, spread = (state["panel"][f"members.0.{part}"] for part in ("mean", "spread"))
    panel = Panel([Judge(mean, spread) for _ in range(_MEMBERS)])
    panel.load_state_dict(state["panel"])
    return panel.eval(), state["count"]


def export(work: Path, out_dir: Path) -> None:
    """Write the checkpoint as ``judge.onnx``."""
    panel, count = load(work)
    path = out_dir / f"{NAME}.onnx"
    torch.onnx.export(
        panel,
        (torch.rand(2, len(panel.members[0].mean)),),
        str(path),
        dynamo=False,
        opset_version=17,
        input_names=["numbers"],
        output_names=["gains"],
        dynamic_axes={"numbers": {0: "count"}, "gains": {0: "count"}},
    )
    model = onnx.load(path)
    onnx.helper.set_model_props(model, {"pictures": str(count), "alternatives": ", ".join(JUDGED_KEYS)})
    onnx.save(model, path)
    print(f"{path.name}: learned from {count} pictures, {path.stat().st_size / 1e6:.2f} MB")
