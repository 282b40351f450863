"""Weights that an ONNX network keeps in files beside it."""

from __future__ import annotations

import os
import re
from pathlib import Path

from wamplex.core.base.errors import UpscalerError
from wamplex.core.base.regular_files import read_regular_file

# StringStringEntryProto with the key "location" (onnx.proto3, TensorProto.external_data), short names.
_LOCATION = re.compile(rb"\x0a\x08location\x12([\x01-\x7f])")


def external_weight_files(path: Path) -> tuple[Path, ...]:
    """The files that a network keeps weights in, without itself.

    Raises
    ------
    UpscalerError : when one does not lie beside it
    """
    model = read_regular_file(path)
    names = {
        model[match.end() : match.end() + match[1][0]].decode("utf-8", "replace") for match in _LOCATION.finditer(model)
    }
    files = []
    for name in sorted(names):
        sibling = path.parent / name
        if Path(name).name != name or not os.path.isfile(sibling) or os.path.islink(sibling):
            raise UpscalerError(
                f"{path.name} cannot be used as an upscaler. Its weights, {name}, are not in the same folder. "
                "Put both files into one folder."
            )
        files.append(sibling)
    return tuple(files)
