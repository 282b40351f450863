"""``wamplex hand-over``: another program's file, enlarged in the window and handed back."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Literal, get_args

import typer

from wamplex.commands import USAGE
from wamplex.commands.console import print_error
from wamplex.core.base.errors import WamplexError
from wamplex.core.colour.icc import ProfileChoice
from wamplex.core.intake.probe import probe
from wamplex.core.workflow.hand_over import HandOver, agreed_delivery


def hand_over(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="File from the other program.")],
    to: Annotated[Path | None, typer.Option(help="Where to write the result; by default it replaces FILE.")] = None,
    depth: Annotated[int | None, typer.Option(help="Bits per channel, 8 or 16; by default as in FILE.")] = None,
    profile: Annotated[str, typer.Option(help="source, srgb, adobe-rgb or display-p3.")] = "source",
) -> None:
    """Open a file in the window for another program. Exit status: 0 handed back, 1 declined."""
    from wamplex.app.startup.start import start_hand_over

    try:
        if depth not in (None, 8, 16):
            raise WamplexError(f"A depth of {depth} bits cannot be written. Choose 8 or 16.")
        if profile not in get_args(ProfileChoice):
            raise WamplexError(f"--profile cannot be “{profile}”.")
        bits: Literal[8, 16] | None = {8: 8, 16: 16}.get(depth or 0)  # type: ignore[assignment]
        target = None if to is None else to.absolute()
        request = HandOver(file.absolute(), target, bits, profile)  # type: ignore[arg-type]
        agreed_delivery(request, probe(request.file))
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    raise typer.Exit(start_hand_over(request))
