"""One run of a shipped network, which can be cancelled."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.errors import Cancelled
from wamplex.core.base.onnx_runtime import load_onnxruntime
from wamplex.core.base.progress import Progress
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.networks.manifest import NetworkFile
from wamplex.core.upscale.networks.output_validation import validate_output
from wamplex.core.upscale.networks.sessions import load_session


def run_network(network: NetworkFile, tensor: Pixels, progress: Progress, *, brightest: float = 1.0) -> Pixels:
    """The planes that a network makes of planes: (C, H, W) to (3, fH, fW).

    Parameters
    ----------
    brightest : of what it is given

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    UpscalerError : when the network is missing, damaged, or makes no plausible numbers
    """
    onnxruntime = load_onnxruntime()
    session = load_session(network.path, network.digest)
    options = onnxruntime.RunOptions()

    def stop() -> None:
        options.terminate = True

    with progress.interruptible(stop):
        try:
            (result,) = session.run(None, {session.get_inputs()[0].name: tensor[np.newaxis]}, options)
        except Exception as error:
            # The runtime has no exception of its own for a run that was told to end.
            if progress.cancelled:
                raise Cancelled from error
            raise
    planes: Pixels = result[0]
    validate_output(planes, network.name, brightest)
    return planes
