"""The folder of the user's own networks: adding after a trial run in a scratch process, listing, removing."""

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

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import UpscalerError
from wamplex.core.model.settings import user_networks_dir
from wamplex.core.upscale.user_networks.external_weights import external_weight_files
from wamplex.core.upscale.user_networks.inspection import LARGEST_FACTOR, TYPES, Layout, NetworkInterface
from wamplex.core.upscale.user_networks.network_client import LIMIT_BYTES
from wamplex.core.upscale.user_networks.user_upscaler import UserUpscaler

LIMIT_SECONDS = 60


def add_user_network(path: Path, name: str | None = None, taken: tuple[str, ...] = ()) -> UserUpscaler:
    """Try a network in a scratch process, and copy it to the user's folder when it works.

    Parameters
    ----------
    name : what the user calls it; the file's name when left out
    taken : keys that are in use

    Raises
    ------
    UpscalerError : with the reason, when it cannot be used; nothing is kept then
    """
    if not path.is_file():
        raise UpscalerError(f"There is no file {path}.")
    words = (name or path.stem).strip()
    key = re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")
    if not key:
        raise UpscalerError(f"“{words}” has no letter or digit to call it by. Give a name with --name.")
    if key in taken:
        raise UpscalerError(f"There is an upscaler called “{key}” already. Give another name with --name.")
    weights = external_weight_files(path)
    findings = try_out(path)
    folder = user_networks_dir()
    model = Path(key) / path.name if weights else Path(f"{key}.onnx")
    (folder / model).parent.mkdir(parents=True, exist_ok=True)
    for file in weights:  # the network knows them by their names, so they get a folder of their own
        write_atomically(folder / key / file.name, file.read_bytes())
    write_atomically(folder / model, path.read_bytes())
    # The note comes last: a network without one is not listed.
    note = {"name": words, "model": str(model), **asdict(findings)}
    write_atomically(folder / f"{key}.json", json.dumps(note, indent=2).encode())
    return UserUpscaler(key, words, folder / model, findings)


def try_out(path: Path, seconds: float = LIMIT_SECONDS, memory: int = LIMIT_BYTES) -> NetworkInterface:
    """Examine a network in a process with limits on its time and memory.

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
        raise UpscalerError(f"{refused}It did not finish its trial in {seconds:g} seconds.") from error
    lines = done.stdout.strip().splitlines()
    if done.returncode != 0 or not lines:
        raise UpscalerError(f"{refused}It crashed, or needed more than {memory / 1e9:.1f} GB in its trial.")
    said = json.loads(lines[-1])
    if "refused" in said:
        raise UpscalerError(refused + str(said["refused"]))
    return _findings(said)


def user_upscalers() -> tuple[UserUpscaler, ...]:
    """What was added, by name; read again when the folder has changed."""
    folder = user_networks_dir()
    try:
        changed = folder.stat().st_mtime_ns
    except OSError:
        return ()  # nothing was ever added
    return _listed(folder, changed)


@lru_cache(maxsize=4)
def _listed(folder: Path, changed: int) -> tuple[UserUpscaler, ...]:
    found = []
    for note in sorted(folder.glob("*.json")):
        try:
            said = json.loads(note.read_bytes())
            model = folder / said.pop("model", f"{note.stem}.onnx")
            if model.is_file() and model.resolve().is_relative_to(folder.resolve()):
                found.append(UserUpscaler(note.stem, str(said.pop("name")), model, _findings(said)))
        except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
            continue  # a damaged note hides one upscaler, not the program
    return tuple(found)


def rename_user_network(key: str, name: str) -> None:
    """Call a network otherwise; its key, which recipes know it by, stays.

    Raises
    ------
    UpscalerError : when it is none of the user's, or the name is empty
    """
    words = name.strip()
    if not words:
        raise UpscalerError("A network needs a name.")
    if key not in [own.key for own in user_upscalers()]:
        raise UpscalerError(f"“{key}” is not one of the upscalers that were added.")
    note = user_networks_dir() / f"{key}.json"
    said = json.loads(note.read_bytes())
    write_atomically(note, json.dumps({**said, "name": words}, indent=2).encode())


def remove_user_network(key: str) -> None:
    """Take a network out of the folder.

    Raises
    ------
    UpscalerError : when it is none of the user's
    """
    folder = user_networks_dir()
    if key not in [own.key for own in user_upscalers()]:
        raise UpscalerError(f"“{key}” is not one of the upscalers that were added.")
    (folder / f"{key}.json").unlink()
    (folder / f"{key}.onnx").unlink(missing_ok=True)
    shutil.rmtree(folder / key, ignore_errors=True)


def _findings(said: dict[str, Any]) -> NetworkInterface:
    """What a note says, every field of it checked: it lies in the user's folder, and may say anything."""
    side = said["side"]
    found = NetworkInterface(
        layout=said["layout"],
        top=float(said["top"]),
        side=None if side is None else (int(side[0]), int(side[1])),
        factor=int(said["factor"]),
        type=str(said["type"]),
        seconds_per_megapixel=float(said["seconds_per_megapixel"]),
    )
    known = found.layout in get_args(Layout) and found.top in (1.0, 255.0) and found.type in TYPES
    if not known or not 1 <= found.factor <= LARGEST_FACTOR or (found.side and min(found.side) < 16):
        raise ValueError("the note does not fit any network")
    return found
