"""Reads a PNG back while it is still being written, on the core that compression leaves free.

Unpacking takes a third of the time of packing, and cannot be divided. It relies on an encoder that never goes
back to change bytes it has written, as a PNG's do not.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import pyvips

from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.verification.verify import SampleSum, checked_rows, decoded_rows

_CHUNK_BYTES = 1 << 20
_WAIT_S = 0.005


@contextmanager
def read_back_while_writing(path: Path, about: FileDescription, progress: Progress) -> Iterator[Future[list[int]]]:
    """Within this block the file is written; the checksums of what was read are there soon after its end.

    Yields
    ------
    Checksums of the samples as `SampleSum` makes them, or the error that the decoder met.
    """
    written = threading.Event()
    outlet, inlet = os.pipe()
    with ThreadPoolExecutor(2) as threads:
        fed = threads.submit(_feed, path, inlet, written)
        try:
            yield threads.submit(_decode, outlet, about, progress)
        finally:
            written.set()
            fed.result()


def _feed(path: Path, inlet: int, written: threading.Event) -> None:
    """Read the file while it grows, until it is complete."""
    with os.fdopen(inlet, "wb", buffering=0) as pipe:
        while not path.exists():
            if written.wait(_WAIT_S) and not path.exists():
                return  # the encoder failed before it wrote anything
        with path.open("rb") as file:
            while True:
                is_complete = written.is_set()
                if body := file.read(_CHUNK_BYTES):
                    view = memoryview(body)
                    while view:
                        view = view[pipe.write(view) :]
                elif is_complete:
                    return
                else:
                    time.sleep(_WAIT_S)


def _decode(outlet: int, about: FileDescription, progress: Progress) -> list[int]:
    try:
        source = pyvips.Source.new_from_descriptor(outlet)
        image = pyvips.Image.pngload_source(source, access="sequential", fail_on="warning")
        sums = SampleSum(checked_rows("png", about))
        for samples in decoded_rows(image, progress):
            sums.add(samples)
        return sums.sums()
    finally:
        # Whoever feeds waits until all is taken, also where the decoder gave up.
        while os.read(outlet, _CHUNK_BYTES):
            pass
        os.close(outlet)
