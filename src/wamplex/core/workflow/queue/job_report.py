"""A report of what was made, as CSV or JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from wamplex.core.base.errors import RecipeError

COLUMNS = (
    "source",
    "path",
    "error",
    "upscaler",
    "recipe_digest",
    "width",
    "height",
    "depth",
    "density_ppi",
    "profile",
    "bytes",
    "seconds",
    "values",
    "reasons",
    "warnings",
)
_SUFFIXES = (".csv", ".json")


def check_report_name(path: Path) -> None:
    """See that a report can be written under this name.

    Raises
    ------
    RecipeError : when it says neither CSV nor JSON
    """
    if path.suffix.lower() not in _SUFFIXES:
        raise RecipeError(f"--report {path.name}: end the name in .csv or .json.")


def write_job_report(rows: Sequence[dict[str, Any]], path: Path) -> bytes:
    """The report for a file of this name: CSV (RFC 4180, UTF-8) with one line a picture, or JSON with all.

    What has parts of its own stands in CSV as JSON, or as sentences one after the other.
    """
    if path.suffix.lower() == ".json":
        return (json.dumps(list(rows), indent=2) + "\n").encode()
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, extrasaction="ignore", restval="")
    writer.writeheader()
    writer.writerows({name: _flat(value) for name, value in row.items()} for row in rows)
    return out.getvalue().encode()


def _flat(value: Any) -> Any:
    if isinstance(value, dict):
        return json.dumps(value)
    if isinstance(value, list | tuple):
        return "; ".join(str(one) for one in value)
    return value
