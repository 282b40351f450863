"""Finds out how an unknown network takes its input; runs in its own process, since it may crash or hang.

Run as a module with FILE PARENT BYTES SECONDS, it prints a `NetworkInterface` as JSON, or ``{"refused": reason}``,
and takes no more memory than BYTES.
"""

from __future__ import annotations

import json
import os
import re
import sys
import time
from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.onnx_runtime import load_onnxruntime
from wamplex.core.upscale.user_networks.process_limits import limit_process

TensorLayout = Literal["NCHW", "NHWC"]
LARGEST_NETWORK_FACTOR = 8
# Sides of the pictures that a network which takes any size is tried with; the last is that of real use.
TILE_SIDE_PX = 224
_FREE_SIDES_PX = ((96, 96), (64, 83), (TILE_SIDE_PX, TILE_SIDE_PX))
TYPES = {"tensor(float)": np.float32, "tensor(float16)": np.float16, "tensor(uint8)": np.uint8}
_ENGINE_CODE = re.compile(r"^\[ONNXRuntimeError\] : \d+ : \w+ : ")
_ENGINE_PLACE = re.compile(r"(?:Status Message: )?(?:/[\w.+-]+)+\.(?:cc|h|cpp|cu):\d+.*")
# An enlargement, shrunk back, resembles its source; what comes further off than this is something else.
_LARGEST_DEPARTURE = 0.15


class RefusedError(Exception):
    """The network cannot be used; the text says why."""


@dataclass(frozen=True)
class NetworkInterface:
    """How to feed a network, and what it does.

    Attributes
    ----------
    layout : order of the input's axes
    top : value that stands for white, 1 or 255
    side : rows and columns it insists on, None when any will do
    factor : enlargement
    type : ONNX type of the input
    seconds_per_megapixel : of output, in the examining run
    """

    layout: TensorLayout
    top: float
    side: tuple[int, int] | None
    factor: int
    type: str
    seconds_per_megapixel: float


def inspect_network(path: str) -> NetworkInterface:
    """Feed the network a known picture and see what comes back.

    Raises
    ------
    RefusedError : when it is no enlarging network that this program can use
    """
    session = open_session(path)
    if len(session.get_inputs()) != 1 or len(session.get_outputs()) != 1:
        raise RefusedError(
            f"It has {len(session.get_inputs())} inputs and {len(session.get_outputs())} outputs; "
            "one picture in and one picture out are needed."
        )
    entry = session.get_inputs()[0]
    if entry.type not in TYPES:
        raise RefusedError(f"Its input is {entry.type}; float, float16 or uint8 is needed.")
    layout, side = _shape(entry.shape)
    height, width = side or _FREE_SIDES_PX[0]
    picture = test_pattern(height, width)
    best: tuple[float, float, NDArray[np.float32], float] | None = None
    for top in (1.0, 255.0):
        if top == 1.0 and entry.type == "tensor(uint8)":
            continue
        begun = time.monotonic()
        result = to_network_input(session, picture, layout, top, entry.type)
        seconds = time.monotonic() - begun
        _check_result(result, height, width)
        departure = _departure(result, picture)
        if best is None or departure < best[0]:
            best = (departure, top, result, seconds)
    assert best is not None
    departure, top, result, seconds = best
    if departure > _LARGEST_DEPARTURE:
        raise RefusedError(
            f"Its result does not resemble its input: shrunk back, it differs by {100 * departure:.0f} % on average."
        )
    factor = result.shape[0] // height
    megapixels = result.shape[0] * result.shape[1] / 1e6
    interface = NetworkInterface(layout, top, side, factor, entry.type, seconds / megapixels)
    for height, width in () if side else _FREE_SIDES_PX[1:]:
        _check_size(session, interface, height, width)
    return interface


def _check_size(session: Any, interface: NetworkInterface, height: int, width: int) -> None:
    """See that it does the same at another size."""
    try:
        result = to_network_input(session, test_pattern(height, width), interface.layout, interface.top, interface.type)
        _check_result(result, height, width)
    except RefusedError as error:
        raise RefusedError(f"At {width} × {height} px: {error}") from error
    except Exception as error:
        raise RefusedError(f"It fails at {width} × {height} px, though not at 96 × 96 px.") from error
    if result.shape[0] != height * interface.factor:
        raise RefusedError(f"At {width} × {height} px it enlarges by another factor than at 96 × 96 px.")


def test_pattern(height: int, width: int) -> NDArray[np.float32]:
    """Smooth colours with a few edges, (H, W, 3) in 0..1."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    planes = [0.5 + 0.4 * np.sin(x / 9 + k) * np.cos(y / 11 - k) for k in range(3)]
    picture = np.stack(planes, axis=-1)
    picture[height // 3 : height // 2, width // 4 : width // 2] = (0.9, 0.8, 0.2)
    return picture.astype(np.float32)


def to_network_input(session: Any, picture: NDArray[np.float32], layout: TensorLayout, top: float, kind: str) -> Any:
    """Run a picture (H, W, 3) in 0..1 through a network; (H', W', C) float32 in 0..1 comes back."""
    scaled = np.clip(picture, 0.0, 1.0) * np.float32(top)
    if kind == "tensor(uint8)":
        scaled = np.rint(scaled)
    tensor = scaled.astype(TYPES[kind])
    tensor = tensor.transpose(2, 0, 1) if layout == "NCHW" else tensor
    (output,) = session.run(None, {session.get_inputs()[0].name: np.ascontiguousarray(tensor[np.newaxis])})
    if output.ndim != 4 or output.shape[0] != 1:
        raise RefusedError(f"Its result has the shape {output.shape}; one picture of three colours is needed.")
    result = output[0].astype(np.float32) / np.float32(top)
    return result.transpose(1, 2, 0) if layout == "NCHW" else result


def open_session(path: str, threads: int = 0) -> Any:
    """A session for a network, on the processor.

    Raises
    ------
    RefusedError : when it cannot be opened
    """
    onnxruntime = load_onnxruntime()
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    # Its threads would go on turning for the next picture while the program takes this one out.
    options.add_session_config_entry("session.force_spinning_stop", "1")
    options.log_severity_level = 4
    try:
        return onnxruntime.InferenceSession(path, options, providers=["CPUExecutionProvider"])
    except Exception as error:
        raise RefusedError(f"It cannot be opened as an ONNX network: {runtime_message(error)}") from error


def runtime_message(error: Exception) -> str:
    """What the inference engine says, without its error codes and the places in its own source code."""
    line = (str(error).strip().splitlines() or [type(error).__name__])[0]
    return _ENGINE_PLACE.sub("", _ENGINE_CODE.sub("", line))[:200].strip(" :.") or type(error).__name__


def _shape(shape: list[Any]) -> tuple[TensorLayout, tuple[int, int] | None]:
    """Order of the axes, and the fixed size where there is one."""
    if len(shape) != 4:
        raise RefusedError(f"Its input has {len(shape)} axes; a batch of pictures has four.")
    if isinstance(shape[0], int) and shape[0] != 1:
        raise RefusedError(f"It needs {shape[0]} pictures at a time; Wamplex gives one.")
    layout: TensorLayout
    if shape[1] == 3:
        layout, sides = "NCHW", shape[2:4]
    elif shape[3] == 3:
        layout, sides = "NHWC", shape[1:3]
    else:
        raise RefusedError("Its input has no axis of three colours.")
    fixed = [side for side in sides if isinstance(side, int)]
    if not fixed:
        return layout, None
    if len(fixed) == 1 or min(fixed) < 16:
        raise RefusedError("Its input has a fixed size that cannot be tiled.")
    return layout, (fixed[0], fixed[1])


def _check_result(result: NDArray[np.float32], height: int, width: int) -> None:
    if result.shape[2] != 3:
        raise RefusedError(f"Its result has {result.shape[2]} channels; three colours are needed.")
    if not np.isfinite(result).all():
        raise RefusedError("Its result holds NaN or infinite values.")
    rows, columns = result.shape[0] / height, result.shape[1] / width
    if rows != columns or rows != int(rows) or not 1 <= rows <= LARGEST_NETWORK_FACTOR:
        raise RefusedError(
            f"From {width} × {height} px it makes {result.shape[1]} × {result.shape[0]} px; the same whole "
            f"factor of 1 to {LARGEST_NETWORK_FACTOR} both ways is needed."
        )


def _departure(result: NDArray[np.float32], picture: NDArray[np.float32]) -> float:
    """Mean difference between the result, shrunk back by averaging, and what it was made from."""
    height, width = picture.shape[:2]
    factor = result.shape[0] // height
    shrunk = result.reshape(height, factor, width, factor, 3).mean(axis=(1, 3))
    return float(np.abs(shrunk - picture).mean())


def main() -> None:
    """Examine the file named on the command line within so many bytes of memory and seconds."""
    cores = os.cpu_count() or 1
    parent, memory, seconds = (int(word) for word in sys.argv[2:5])
    limit_process(parent, memory, processor_seconds=cores * seconds)
    try:
        print(json.dumps(asdict(inspect_network(sys.argv[1]))))
    except RefusedError as reason:
        print(json.dumps({"refused": str(reason)}))
    except Exception as error:
        print(json.dumps({"refused": f"Running it failed: {runtime_message(error)}"}))


if __name__ == "__main__":
    main()
