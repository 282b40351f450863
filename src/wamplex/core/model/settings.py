"""Settings of the program as a whole, kept in a small file in the user's configuration folder."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path
from typing import Literal

from platformdirs import user_config_path, user_data_path
from pydantic import ConfigDict, Field

from wamplex.core.base.atomic_files import set_aside, write_atomically
from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import SettingsError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI
from wamplex.core.geometry.size_text import Unit
from wamplex.core.model.legacy_fields import rename_fields

SRGB_SCREEN = "srgb"


class Settings(FrozenModel):
    """Open the preferences.

    Attributes
    ----------
    threads : processor threads that networks may use, 0 for one per core
    provider : ONNX Runtime provider that networks run on
    first_trials : keys of the upscalers that new pictures begin with, empty for the usual ones
    screen_profile : file of the screen's ICC profile; empty for that of the desktop, "srgb" for sRGB
    use_suggestions : whether what the condition sheet ticks is done without a press, for new pictures
    dimmed : whether the window is dimmed for dark rooms
    size_percent : how large words and controls are
    unit : that print sizes are shown in at first
    first_paper : name of the paper that new pictures are put on, empty for none
    first_density_ppi : of the prints of new pictures
    cache_gb : how much memory decoded pictures may take, 0 for a quarter of this computer's, at most 4
    remember_choices : whether what is stamped is remembered, and orders the trials that are offered
    custom_papers : name, shorter and longer side in millimetres of the user's own paper sizes
    """

    model_config = ConfigDict(extra="ignore")

    threads: int = Field(default=0, ge=0, le=256)
    provider: str = "CPUExecutionProvider"
    first_trials: tuple[str, ...] = ()
    screen_profile: str = ""
    use_suggestions: bool = False
    dimmed: bool = False
    size_percent: Literal[100, 115, 130, 150] = 100
    unit: Unit = "cm"
    first_paper: str = ""
    first_density_ppi: float = Field(default=DEFAULT_DENSITY_PPI, ge=10, le=4800)
    cache_gb: float = Field(default=0.0, ge=0, le=64)
    remember_choices: bool = True
    custom_papers: tuple[tuple[str, float, float], ...] = ()


_unsaved: dict[Path, Settings] = {}  # by the file that could not be written


def settings_path() -> Path:
    """Path of the preferences file.

    Returns
    -------
    Path; the file may not exist.
    """
    return user_config_path("wamplex") / "settings.json"


def user_networks_dir() -> Path:
    """Folder of the user's own networks.

    Returns
    -------
    Path; the folder may not exist.
    """
    return user_data_path("wamplex") / "upscalers"


def guests_dir() -> Path:
    """Folder of stored guests.

    Returns
    -------
    Path; the folder may not exist.
    """
    return user_data_path("wamplex") / "guests"


def load_settings() -> Settings:
    """Load the preferences; defaults where the file is missing or damaged.

    Returns
    -------
    Preferences; those of this session where they could not be saved.
    """
    path = settings_path()
    if path in _unsaved:
        return _unsaved[path]
    try:
        return Settings.model_validate_json(json.dumps(rename_fields(parse_json(path.read_bytes()))))
    except OSError:
        return Settings()
    except ValueError:
        # Set aside, lest it be overwritten: somebody may have written it by hand.
        with suppress(OSError):
            set_aside(path)
        return Settings()


def save_settings(settings: Settings) -> None:
    """Write the settings, whole or not at all.

    Parameters
    ----------
    settings : the user's preferences

    Raises
    ------
    SettingsError : when they cannot be written; they count in this process all the same
    """
    path = settings_path()
    _unsaved[path] = settings
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, settings.model_dump_json(indent=2).encode())
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        raise SettingsError(f"Preferences cannot be saved: {reason}. They count until Wamplex ends.") from error
    del _unsaved[path]
