"""Which native factor reaches an enlargement, and the words for what is left."""

from __future__ import annotations

from collections.abc import Sequence


def native_factor(factor: float, natives: Sequence[int]) -> int:
    """The native factor for an enlargement: the smallest that reaches, else the largest.

    Parameters
    ----------
    factor : enlargement
    natives : native factors, ascending
    """
    return next((native for native in natives if native >= factor - 1e-9), natives[-1])


def resampled_text(text: str, reached: float, factor: float) -> str:
    """What is done, with the resampling that follows where the reached factor is not the one asked for.

    Parameters
    ----------
    text : what is done first, in words
    reached : enlargement after that
    factor : enlargement that is asked for
    """
    if abs(reached - factor) < 1e-9:
        return text
    return f"{text}, then {'shrunk' if reached > factor else 'resampled'} to {factor:.4g}×"
