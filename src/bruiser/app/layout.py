"""How a person left the window of a campaign, kept for that person on this machine."""

from __future__ import annotations

from dataclasses import dataclass

from platformdirs import user_state_path
from PyQt6.QtCore import QByteArray, QSettings

from bruiser.app.stations import PAGE_NAMES


@dataclass(frozen=True, kw_only=True)
class WindowLayout:
    """Where a window stood and what it showed.

    Parameters
    ----------
    geometry : QByteArray
        As Qt gives it; empty where nothing was kept.
    station, sheet : str
        The page shown, and the sheet of Results; empty for the usual one.
    """

    geometry: QByteArray
    station: str = ""
    sheet: str = ""


def _settings() -> QSettings:
    return QSettings(str(user_state_path("bruiser") / "layouts.ini"), QSettings.Format.IniFormat)


def read_layout(campaign_id: str) -> WindowLayout:
    """What was kept of a campaign; what cannot be read is as usual."""
    kept = _settings()
    kept.beginGroup(campaign_id)
    geometry = kept.value("geometry")
    station = str(kept.value("station") or "")
    return WindowLayout(
        geometry=geometry if isinstance(geometry, QByteArray) else QByteArray(),
        station=station if station in PAGE_NAMES else "",
        sheet=str(kept.value("sheet") or ""),
    )


def keep_layout(campaign_id: str, layout: WindowLayout) -> None:
    """Keep how a campaign was left; a folder that cannot be written is no reason to stop."""
    kept = _settings()
    kept.beginGroup(campaign_id)
    kept.setValue("geometry", layout.geometry)
    kept.setValue("station", layout.station)
    kept.setValue("sheet", layout.sheet)
    kept.sync()
