"""``wamplex execution``: where networks run, and with how many threads."""

from __future__ import annotations

import json
from typing import Annotated

import typer

from wamplex.commands import USAGE
from wamplex.commands.console import print_error
from wamplex.core.base.errors import WamplexError
from wamplex.core.model.settings import load_settings, save_settings
from wamplex.core.upscale.networks.execution import (
    current_execution,
    make_execution,
    provider_label,
    usable_providers,
    use_execution,
)


def execution(
    provider: Annotated[str | None, typer.Option(help="Where networks run, such as CPU.")] = None,
    threads: Annotated[int | None, typer.Option(help="Processor threads, 0 for one per core.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Show or choose the device that runs networks. Only devices whose results match the CPU's are offered."""
    try:
        if provider is not None or threads is not None:
            use_execution(make_execution(provider=provider, threads=threads))
            now = current_execution()
            changed = {"threads": now.threads, "provider": now.provider}
            save_settings(load_settings().replace(**changed))
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    current = current_execution()
    available = [provider_label(p) for p in usable_providers()]
    if as_json:
        values = {"provider": provider_label(current.provider), "threads": current.threads}
        print(json.dumps({**values, "available": available}, indent=2))
        return
    print(f"Networks run on: {current.text}. Checked and available here: {', '.join(available)}.")
