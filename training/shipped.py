"""Reads weights back from the shipped ONNX files, so that training can go on from them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnx
import torch
from onnx import numpy_helper

from training.families import FAMILIES, Family
from training.kept import kept_weights
from training.network import Enlarger

PREFIX = "_network."


def model_path(models: Path, name: str, factor: int) -> Path:
    """The ONNX file of one family and factor."""
    return models / f"{name}-{factor}x.onnx"


def first_weights(family: Family, models: Path) -> tuple[Enlarger, int, float]:
    """A network to train on: the kept or shipped weights of the family, else of the one it starts from.

    Kept weights are on their way to replace the shipped ones.

    Returns
    -------
    network, steps and minutes already spent on these very weights (0 when they are another family's)
    """
    network = Enlarger(family)
    kept = kept_weights(family)
    if kept is not None:
        network.load_state_dict(kept[0])
        return network, kept[1], kept[2]
    if _shipped(models, family):
        return shipped_weights(family, models)
    if family.start_from is not None:
        weights, _, _ = _read(models, FAMILIES[family.start_from])
        own = network.state_dict()
        for key, value in weights.items():
            if key == "entry.weight":
                own[key] = _entry(value, family.inputs)  # further planes start without effect
            elif key in own:
                own[key] = value
        network.load_state_dict(own)
    return network, 0, 0.0


def shipped_weights(family: Family, models: Path) -> tuple[Enlarger, int, float]:
    """The shipped weights of a family, with the steps and minutes they took."""
    network = Enlarger(family)
    weights, steps, minutes = _read(models, family)
    weights["entry.weight"] = _entry(weights["entry.weight"], family.inputs)
    # Blocks that were added to the family since start as they were made, next to without effect.
    if network.load_state_dict(weights, strict=False).unexpected_keys:
        raise SystemExit(f"the shipped {family.name} has weights that its family has no place for")
    return network, steps, minutes


def _entry(weights: torch.Tensor, inputs: int) -> torch.Tensor:
    """Weights for all inputs; the first Mender knew no more than noise and compression."""
    if weights.shape[1] == inputs:
        return weights
    wider = weights.new_zeros(weights.shape[0], inputs, *weights.shape[2:])
    wider[:, :3] = weights[:, :3]
    if weights.shape[1] > 3:
        wider[:, 6:8] = weights[:, 3:5]
    return wider


def _shipped(models: Path, family: Family) -> bool:
    return all(model_path(models, family.name, f).exists() for f in family.factors)


def _read(models: Path, family: Family) -> tuple[dict[str, torch.Tensor], int, float]:
    weights: dict[str, torch.Tensor] = {}
    steps, minutes = 0, 0.0
    for factor in family.factors:
        model = onnx.load(model_path(models, family.name, factor))
        for tensor in model.graph.initializer:
            if tensor.name.startswith(PREFIX):
                array = torch.from_numpy(numpy_helper.to_array(tensor).astype(np.float32))
                weights[tensor.name.removeprefix(PREFIX)] = array
        notes = {entry.key: entry.value for entry in model.metadata_props}
        steps, minutes = int(notes.get("steps", 0)), float(notes.get("minutes", 0))
    return weights, steps, minutes
