"""What the bundle's program begins with: the command ``wamplex``, or with ``-m`` one of its own modules.

The program starts some of its parts in processes of their own, with Python's ``-m``; in the bundle there is
no Python to be asked, so that the program itself must do it.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import runpy
import sys
from pathlib import Path


def load_missing(folder: Path) -> None:
    """Load the libraries of desktops that this system lacks, such as OpenGL's; all others stay its own."""
    waiting = sorted(folder.glob("lib*.so*")) if folder.is_dir() else []
    before = None
    while waiting and len(waiting) != before:  # one may need another that comes later
        before = len(waiting)
        waiting = [path for path in waiting if not _loaded(path.name) and not _loaded(str(path))]


def _loaded(name: str) -> bool:
    try:
        ctypes.CDLL(name, mode=ctypes.RTLD_GLOBAL)
    except OSError:
        return False
    return True


def main() -> None:
    """Run what was asked for."""
    multiprocessing.freeze_support()
    load_missing(Path(__file__).parent / "fallback")
    if len(sys.argv) > 2 and sys.argv[1] == "-m" and sys.argv[2].split(".")[0] == "wamplex":
        module = sys.argv[2]
        sys.argv = [module, *sys.argv[3:]]
        runpy.run_module(module, run_name="__main__", alter_sys=True)
        return
    from wamplex.cli import main as command

    command()


if __name__ == "__main__":
    main()
