"""The process that runs one network of the user's.

Run as a module with FILE PARENT BYTES THREADS MEMORY_FD, it reads a line of JSON for each picture and answers
with one. The pixels lie in memory that both processes share: first the input, then the output.
"""

from __future__ import annotations

import json
import sys
from typing import Any

from wamplex.core.upscale.user_networks.inspection import (
    RefusedError,
    open_session,
    runtime_message,
    to_network_input,
)
from wamplex.core.upscale.user_networks.process_limits import limit_process
from wamplex.core.upscale.user_networks.shared_buffer import SharedBuffer


def main() -> None:
    """Serve until the input ends."""
    path = sys.argv[1]
    parent, memory, threads, shared = (int(word) for word in sys.argv[2:6])
    limit_process(parent, memory)
    session: Any = None
    buffer = SharedBuffer(shared)
    for line in sys.stdin:
        try:
            session = session or open_session(path, threads)
            answer = _served(session, json.loads(line), buffer)
        except (RefusedError, MemoryError) as reason:
            answer = {"refused": str(reason) or "it needs too much memory"}
        except Exception as error:
            answer = {"refused": runtime_message(error)}
        print(json.dumps(answer), flush=True)


def _served(session: Any, asked: dict[str, Any], buffer: SharedBuffer) -> dict[str, Any]:
    shape = tuple(asked["shape"])
    picture = buffer.take(shape)
    result = to_network_input(session, picture, asked["layout"], asked["top"], asked["type"])
    # As it lies in memory: to put its axes into another order takes longer than to copy it.
    lying = result.transpose(2, 0, 1) if asked["layout"] == "NCHW" else result
    buffer.put(lying)
    return {"shape": lying.shape}


if __name__ == "__main__":
    main()
