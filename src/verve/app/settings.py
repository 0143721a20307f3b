"""What is kept per user: files opened lately, the size of the window."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings, QStandardPaths

from verve.core.files import stamp_of

_MOST_RECENT = 8


def _place(location: QStandardPaths.StandardLocation) -> Path:
    return Path(QStandardPaths.writableLocation(location)) / "verve"


def _path(name: str) -> Path:
    # Imported here: before the first paint nobody asks for them.
    from urllib.parse import unquote_to_bytes

    return Path(os.fsdecode(unquote_to_bytes(name)))


class Settings:
    """The user's own settings, in one file of the user's configuration folder."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or _place(QStandardPaths.StandardLocation.GenericConfigLocation)
        self.state_folder = (
            folder / "state"
            if folder
            else _place(QStandardPaths.StandardLocation.GenericStateLocation)
        )
        data = _place(QStandardPaths.StandardLocation.GenericDataLocation)
        self.gear_file = (folder / "gear.json") if folder else data / "gear.json"
        self.practice_file = (folder / "practice.json") if folder else data / "practice.json"
        self._kept = QSettings(str(self.folder / "verve.ini"), QSettings.Format.IniFormat)

    def recent(self) -> list[Path]:
        """Files opened lately, the newest first; those that are gone are left out."""
        value = self._kept.value("recent", [])
        names = value if isinstance(value, list) else [value] if isinstance(value, str) else []
        paths = [_path(name) for name in names if isinstance(name, str)]
        return [path for path in paths if stamp_of(path) is not None]

    def remember(self, path: Path) -> None:
        """Put a file in front."""
        from urllib.parse import quote_from_bytes

        paths = [path, *(p for p in self.recent() if p != path)][:_MOST_RECENT]
        # As bytes: a name need not be text.
        self._kept.setValue("recent", [quote_from_bytes(os.fsencode(p)) for p in paths])

    def geometry(self) -> QByteArray | None:
        """Where the window was."""
        value = self._kept.value("geometry")
        return value if isinstance(value, QByteArray) else None

    def keep_geometry(self, geometry: QByteArray) -> None:
        """Remember where the window is."""
        self._kept.setValue("geometry", geometry)

    def panes(self) -> QByteArray | None:
        """How wide the panes of the window were."""
        value = self._kept.value("panes")
        return value if isinstance(value, QByteArray) else None

    def keep_panes(self, state: QByteArray) -> None:
        """Remember how wide the panes are."""
        self._kept.setValue("panes", state)

    @property
    def reason_stays(self) -> bool:
        """Whether the reason stays open by choice."""
        return str(self._kept.value("reason stays", "false")) == "true"

    @reason_stays.setter
    def reason_stays(self, stays: bool) -> None:
        self._kept.setValue("reason stays", "true" if stays else "false")

    def take_folder(self, session_path: Path | None, title: str) -> Path:
        """Where a session's takes go: beside its file, else among the user's music."""
        if session_path is not None:
            stem = session_path.name.removesuffix(".verve.json")
            return session_path.with_name(f"{stem} takes")
        # Imported here: naming a sound file needs the sound library.
        from verve.core.soundfiles import file_stem

        music = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.MusicLocation)
        return Path(music) / "Verve" / f"{file_stem(title)} takes"
