"""The folder of the user's networks: add after a test, list, rename, remove."""

from __future__ import annotations

import json
import math
import os
import re
import shutil
import subprocess
import sys
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path
from typing import Any, get_args

from wamplex.core.base.atomic_files import discard, write_atomically
from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import UpscalerError
from wamplex.core.base.regular_files import read_regular_file
from wamplex.core.model.settings import user_networks_dir
from wamplex.core.upscale.user_networks.external_weights import external_weight_files
from wamplex.core.upscale.user_networks.inspection import LARGEST_NETWORK_FACTOR, TYPES, NetworkInterface, TensorLayout
from wamplex.core.upscale.user_networks.network_client import LIMIT_BYTES
from wamplex.core.upscale.user_networks.user_upscaler import UserUpscaler

LIMIT_SECONDS = 60


def add_user_network(path: Path, name: str | None = None, used_keys: tuple[str, ...] = ()) -> UserUpscaler:
    """Test a network in a separate process and copy it to the user's folder if it works.

    Parameters
    ----------
    path : an ONNX file
    name : what the user calls it; the file's name when left out
    used_keys : keys that are in use

    Returns
    -------
    The new upscaler.

    Raises
    ------
    UpscalerError : with the reason, when it cannot be used; nothing is kept then
    """
    if not path.is_file():
        raise UpscalerError(f"{path}: file not found.")
    text = (name or path.stem).strip()
    key = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")
    if not key:
        raise UpscalerError(f"“{text}” has no letter or digit. Give a name with --name.")
    if key in used_keys:
        raise UpscalerError(f"There is an upscaler called “{key}” already. Give another name with --name.")
    weights = external_weight_files(path)
    findings = try_out(path)
    folder = user_networks_dir()
    model = Path(key) / path.name if weights else Path(f"{key}.onnx")
    note = {"name": text, "model": str(model), **asdict(findings)}
    try:
        (folder / model).parent.mkdir(parents=True, exist_ok=True)
        for file in weights:  # the network knows them by their names, so they get a folder of their own
            write_atomically(folder / key / file.name, read_regular_file(file))
        write_atomically(folder / model, read_regular_file(path))
        # The note comes last: a network without one is not listed.
        write_atomically(folder / f"{key}.json", json.dumps(note, indent=2).encode())
    except OSError as error:
        _remove_files(key)
        raise UpscalerError(f"{path.name} cannot be stored in {folder}: {_reason(error)}.") from error
    return UserUpscaler(key, text, folder / model, findings)


def try_out(path: Path, seconds: float = LIMIT_SECONDS, memory: int = LIMIT_BYTES) -> NetworkInterface:
    """Test a network in a process with limited time and memory.

    Parameters
    ----------
    path : an ONNX file
    seconds : time limit, in seconds
    memory : memory limit, in bytes

    Returns
    -------
    Interface of the network: factor, tile size and type.

    Raises
    ------
    UpscalerError : with the reason it cannot be used
    """
    limits = [str(os.getpid()), str(memory), str(math.ceil(seconds))]
    refused = f"{path.name} cannot be used as an upscaler. "
    try:
        done = subprocess.run(
            [sys.executable, "-m", "wamplex.core.upscale.user_networks.inspection", str(path), *limits],
            capture_output=True,
            text=True,
            timeout=seconds,
            check=False,
        )
    except subprocess.TimeoutExpired as error:
        raise UpscalerError(f"{refused}It did not finish its test in {seconds:g} seconds.") from error
    lines = done.stdout.strip().splitlines()
    if done.returncode != 0 or not lines:
        raise UpscalerError(f"{refused}It crashed, or needed more than {memory / 1e9:.1f} GB in its test.")
    fields = parse_json(lines[-1])
    if "refused" in fields:
        raise UpscalerError(refused + str(fields["refused"]))
    return _findings(fields)


def user_upscalers() -> tuple[UserUpscaler, ...]:
    """Load the user's own networks.

    Returns
    -------
    Sorted by name.
    """
    folder = user_networks_dir()
    try:
        changed = folder.stat().st_mtime_ns
    except OSError:
        return ()  # nothing was ever added
    return _listed(folder, changed)


@lru_cache(maxsize=4)
def _listed(folder: Path, changed: int) -> tuple[UserUpscaler, ...]:
    networks = []
    for note in sorted(folder.glob("*.json")):
        try:
            fields = parse_json(note.read_bytes())
            model = folder / fields.pop("model", f"{note.stem}.onnx")
            if model.is_file() and model.resolve().is_relative_to(folder.resolve()):
                networks.append(UserUpscaler(note.stem, str(fields.pop("name")), model, _findings(fields)))
        except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
            continue  # a damaged note hides one upscaler, not the program
    return tuple(networks)


def rename_user_network(key: str, name: str) -> None:
    """Call a network otherwise; its key, which recipes know it by, stays.

    Parameters
    ----------
    key : key of the upscaler
    name : the new name

    Raises
    ------
    UpscalerError : when it is none of the user's, or the name is empty
    """
    text = name.strip()
    if not text:
        raise UpscalerError("A network needs a name.")
    if key not in [own.key for own in user_upscalers()]:
        raise UpscalerError(f"“{key}” is not one of the upscalers that were added.")
    note = user_networks_dir() / f"{key}.json"
    fields = parse_json(note.read_bytes())
    write_atomically(note, json.dumps({**fields, "name": text}, indent=2).encode())


def remove_user_network(key: str) -> None:
    """Take a network out of the folder.

    Parameters
    ----------
    key : key of the upscaler

    Raises
    ------
    UpscalerError : when it is none of the user's
    """
    folder = user_networks_dir()
    if key not in [own.key for own in user_upscalers()]:
        raise UpscalerError(f"“{key}” is not one of the upscalers that were added.")
    try:
        (folder / f"{key}.json").unlink(missing_ok=True)
    except OSError as error:
        raise UpscalerError(f"“{key}” cannot be removed from {folder}: {_reason(error)}.") from error
    _remove_files(key)


def _remove_files(key: str) -> None:
    folder = user_networks_dir()
    discard(folder / f"{key}.onnx")
    shutil.rmtree(folder / key, ignore_errors=True)


def _reason(error: OSError) -> str:
    return (error.strerror or str(error)).lower()


def _findings(fields: dict[str, Any]) -> NetworkInterface:
    """Validate the note of a user's network."""
    side = fields["side"]
    interface = NetworkInterface(
        layout=fields["layout"],
        top=float(fields["top"]),
        side=None if side is None else (int(side[0]), int(side[1])),
        factor=int(fields["factor"]),
        type=str(fields["type"]),
        seconds_per_megapixel=float(fields["seconds_per_megapixel"]),
    )
    is_valid = interface.layout in get_args(TensorLayout) and interface.top in (1.0, 255.0) and interface.type in TYPES
    if (
        not is_valid
        or not 1 <= interface.factor <= LARGEST_NETWORK_FACTOR
        or (interface.side and min(interface.side) < 16)
    ):
        raise ValueError("the note does not fit any network")
    return interface
