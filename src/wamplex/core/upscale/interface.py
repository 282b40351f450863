"""What every upscaler offers."""

from __future__ import annotations

from typing import Literal, Protocol

from wamplex.core.upscale.stage import Stage

Kind = Literal["interpolation", "learned"]


class Upscaler(Protocol):
    """One way to enlarge."""

    @property
    def key(self) -> str:
        """Short name used in recipes and on the command line."""

    @property
    def name(self) -> str:
        """Name shown to the user."""

    @property
    def kind(self) -> Kind:
        """How it works."""

    @property
    def purpose(self) -> str:
        """One sentence about what it is for."""

    def chain(self, source: Stage, width: int, height: int) -> Stage:
        """The stages that turn ``source`` into ``width`` x ``height`` pixels."""

    def steps(self, factor: float) -> str:
        """In words, what is done for an enlargement by ``factor``."""
