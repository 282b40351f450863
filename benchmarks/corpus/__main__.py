"""Runs the corpus: ``python -m benchmarks.corpus``; writes what came of each file, and prints the table."""

from __future__ import annotations

import json
import subprocess
import sys
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import platformdirs

from benchmarks.corpus.packages import pictures

_LONGEST_S = 120
_OUTCOMES = ("read", "refused", "wrong", "traceback", "crash", "hang")


def main() -> None:
    """Every file in a process of its own, two at a time."""
    only = sys.argv[1:]
    results: dict[str, list[dict[str, Any]]] = {}
    with ThreadPoolExecutor(2) as pool:
        for package, files in pictures():
            if not only or package.name in only:
                results[f"{package.name} {package.version}"] = list(pool.map(_outcome, files))
    kept = Path(platformdirs.user_cache_dir("wamplex-corpus")) / "outcomes.json"
    kept.write_text(json.dumps(results, indent=1), "utf-8")
    _print_table(results)


def _outcome(path: Path) -> dict[str, Any]:
    words = [sys.executable, "-m", "benchmarks.corpus.compare", str(path)]
    try:
        run = subprocess.run(words, capture_output=True, text=True, check=False, timeout=_LONGEST_S)
    except subprocess.TimeoutExpired:
        return {"file": path.name, "outcome": "hang", "seconds": _LONGEST_S, "megabytes": 0}
    try:
        found: dict[str, Any] = json.loads(run.stdout.strip().splitlines()[-1])
    except (ValueError, IndexError):
        words_left = run.stderr[-300:]
        found = {"file": path.name, "outcome": "crash", "words": words_left, "seconds": 0, "megabytes": 0}
    return found


def _print_table(results: dict[str, list[dict[str, Any]]]) -> None:
    print("| package | tried | " + " | ".join(_OUTCOMES) + " | longest | most memory |")
    print("|---|---|" + "---|" * (len(_OUTCOMES) + 2))
    for name, found in results.items():
        counts = Counter(one["outcome"] for one in found)
        longest = max((one["seconds"] for one in found), default=0)
        most = max((one["megabytes"] for one in found), default=0)
        cells = " | ".join(str(counts[outcome]) for outcome in _OUTCOMES)
        print(f"| {name} | {len(found)} | {cells} | {longest:.1f} s | {most} MB |")


if __name__ == "__main__":
    main()
