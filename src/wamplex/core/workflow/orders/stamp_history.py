"""What was stamped before, by kind of picture; stored on this computer only."""

from __future__ import annotations

import hashlib
from collections import Counter
from contextlib import suppress
from functools import lru_cache
from pathlib import Path

from platformdirs import user_data_path
from pydantic import ConfigDict, Field, ValidationError

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.suggestion.rules import CLEARLY_COMPRESSED, CLEARLY_NOISY
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.atomic_files import discard, set_aside, write_atomically
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.model.source import Source

# Fewer say nothing.
LEAST_CHOICES = 3
_MOST_KEPT = 2000
_MEDIA = {"drawing": "drawings", "lettering": "pages of lettering", "pixel art": "pieces of pixel art"}


class PastChoice(FrozenModel):
    """The choice for one picture.

    Attributes
    ----------
    picture : which one, as a digest that tells nothing of its name or place
    kind : of picture, such as "soft portraits"
    blind : whether names were hidden
    """

    picture: str
    kind: str
    upscaler: str
    blind: bool = False


class StampHistory(FrozenModel):
    """All of them, the latest last."""

    model_config = ConfigDict(extra="ignore")

    choices: tuple[PastChoice, ...] = Field(default=(), max_length=_MOST_KEPT)

    def counts(self, kind: str) -> Counter[str]:
        """How often each upscaler was chosen for a kind of picture."""
        return Counter(choice.upscaler for choice in self.choices if choice.kind == kind)

    def text(self, kind: str, upscaler: str, name: str) -> str:
        """Such as “of 12 soft portraits you chose Mender 9 times”."""
        counts = self.counts(kind)
        times = "once" if counts[upscaler] == 1 else f"{counts[upscaler]} times"
        return f"of {counts.total()} {kind} you chose {name} {times}"

    @property
    def kinds(self) -> tuple[str, ...]:
        """Kinds of picture, those with most choices first."""
        counts = Counter(choice.kind for choice in self.choices)
        return tuple(kind for kind, _ in counts.most_common())


def picture_class(condition: Condition, suggested: Suggestions) -> str:
    """Class of a picture: its main damage and content type."""
    values, content_type = suggested.values, condition.content_type.kind
    if condition.sensor is not None and condition.sensor.mosaic:
        state = "raw"
    elif values.noise > CLEARLY_NOISY:
        state = "noisy"
    elif values.compression > CLEARLY_COMPRESSED:
        state = "compressed"
    elif values.blur or values.motion_blur_px:
        state = "soft" if values.blur >= 0 else "sharpened"
    else:
        state = "clean"
    shown = "portraits" if condition.faces else "photographs"
    return f"{state} {_MEDIA.get(content_type, shown)}"


def stamp_history_path() -> Path:
    """Path of the past choices."""
    return user_data_path("wamplex") / "choices.json"


def load_stamp_history() -> StampHistory:
    """Load the past choices; empty where the file is missing or damaged."""
    path = stamp_history_path()
    try:
        return _read(path, path.stat().st_mtime_ns)
    except OSError:
        return StampHistory()
    except ValidationError:
        with suppress(OSError):
            set_aside(path)
        return StampHistory()


@lru_cache(maxsize=2)
def _read(path: Path, changed: int) -> StampHistory:
    return StampHistory.model_validate_json(path.read_bytes())


def remember_choice(source: Source, kind: str, upscaler: str | None, *, blind: bool = False) -> None:
    """Keep what was chosen for a picture, in place of what was chosen for it before; None for nothing.

    A choice stays a blind one when the same is stamped again with its name in view.
    """
    choices = load_stamp_history().choices
    picture = hashlib.sha256(f"{source.path} {source.file_bytes} {source.mtime_ns}".encode()).hexdigest()[:24]
    before = next((c for c in choices if c.picture == picture), None)
    others = tuple(c for c in choices if c.picture != picture)
    if upscaler is not None:
        blind = blind or (before is not None and before.blind and before.upscaler == upscaler)
        chosen = PastChoice(picture=picture, kind=kind, upscaler=upscaler, blind=blind)
        others = (*others[-_MOST_KEPT + 1 :], chosen)
    if others != choices:
        _write(StampHistory(choices=others))


def forget_stamp_history() -> None:
    """Remember nothing."""
    discard(stamp_history_path())


def _write(choices: StampHistory) -> None:
    """That a choice cannot be remembered is no reason to stop."""
    path = stamp_history_path()
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, choices.model_dump_json().encode(), durable=False)
