"""What a person prefers, kept for that person on this machine; campaigns hold none of it."""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass, field, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path, user_documents_path
from PyQt6.QtCore import QSettings

from bruiser.core.records.families import GENERAL

THEMES = {"chalk": "Light", "pitch": "Dark", "desktop": "As the desktop"}
SIZES = {"1.0": "Normal", "1.15": "Larger", "1.3": "Large", "1.5": "Very large"}


@dataclass(frozen=True, kw_only=True)
class Preferences:
    """What is preferred.

    Parameters
    ----------
    theme : str
        A key of :data:`THEMES`.
    size : str
        A key of :data:`SIZES`, on top of the desktop's text size.
    force, length, trade : str
        Of new campaigns.
    simulated : bool
        Whether the simulated bench is offered.
    beep : bool
        A sound when a specimen gave.
    still : bool
        Reduced motion.
    folder : str
        Where new campaigns are kept.
    bench : str
        What this machine's bench is called where several share a campaign; empty for its own name.
    toured : bool
        Whether the tour was seen, or skipped.
    keys : dict of str
        Keys of actions that differ from the shipped ones.
    """

    theme: str = "chalk"
    size: str = "1.0"
    force: str = "kN"
    length: str = "mm"
    trade: str = GENERAL
    simulated: bool = True
    beep: bool = False
    still: bool = False
    folder: str = ""
    bench: str = ""
    toured: bool = False
    keys: dict[str, str] = field(default_factory=dict)

    @property
    def campaigns(self) -> Path:
        """The folder for new campaigns: the one chosen, else the documents, else home."""
        for folder in (Path(self.folder) if self.folder else None, user_documents_path()):
            with suppress(OSError, ValueError):
                if folder is not None and folder.is_dir():
                    return folder
        return Path.home()


def settings_file() -> Path:
    """Where they are kept."""
    return user_config_path("bruiser") / "preferences.ini"


def _settings() -> QSettings:
    return QSettings(str(settings_file()), QSettings.Format.IniFormat)


def read_preferences() -> Preferences:
    """What was kept; what cannot be read is as shipped."""
    kept, shipped = _settings(), Preferences()
    values: dict[str, Any] = {}
    for f in fields(Preferences):
        value = kept.value(f.name)
        if f.name == "keys" or value is None:
            continue
        yes_no = isinstance(getattr(shipped, f.name), bool)
        values[f.name] = str(value).lower() == "true" if yes_no else str(value)
    kept.beginGroup("keys")
    keys = {name: str(kept.value(name)) for name in kept.childKeys()}
    kept.endGroup()
    found = replace(shipped, **values)
    known = found.theme in THEMES and found.size in SIZES
    return replace(found, keys=keys) if known else replace(Preferences(), keys=keys)


def keep_preferences(preferences: Preferences) -> bool:
    """Keep them; whether that could be done."""
    try:
        settings_file().parent.mkdir(parents=True, exist_ok=True)
    except OSError:
        return False
    kept = _settings()
    for f in fields(Preferences):
        if f.name != "keys":
            value = getattr(preferences, f.name)
            kept.setValue(f.name, str(value).lower() if isinstance(value, bool) else value)
    kept.remove("keys")
    kept.beginGroup("keys")
    for name, keys in preferences.keys.items():
        kept.setValue(name, keys)
    kept.endGroup()
    kept.sync()
    return kept.status() is QSettings.Status.NoError and os.access(settings_file(), os.R_OK)
