"""Verve on the desktop of a person: entry, icon, file type, description, manual page, completion.

Everything goes below the person's own data folder, where desktops and shells look, and comes away again.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path
from typing import Final

from platformdirs import user_data_path

from verve.core.files import path_text, unwritable, write_atomically

_DATA: Final = Path(__file__).parent / "data"
PLACES: Final[Mapping[str, str]] = {
    "desktop/verve.desktop": "applications/verve.desktop",
    "icons/verve.svg": "icons/hicolor/scalable/apps/verve.svg",
    "desktop/verve-session.xml": "mime/packages/verve-session.xml",
    "desktop/verve.metainfo.xml": "metainfo/local.verve.Verve.metainfo.xml",
    "desktop/verve.1": "man/man1/verve.1",
    "desktop/verve.bash": "bash-completion/completions/verve",
    "desktop/_verve": "zsh/site-functions/_verve",
}
"""Each file that ships, and where it goes below a data folder (XDG base directories)."""
_CACHES: Final = (
    ("update-desktop-database", "-q", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "-q", "-t", "-f", "icons/hicolor"),
)


def data_home() -> Path:
    """Where a person's own data lie. A path that is not whole does not count (XDG base directories)."""
    said = user_data_path()
    return said if said.is_absolute() else Path.home() / ".local" / "share"


def command() -> Path:
    """The command that starts Verve: this one, or the one beside this Python."""
    own = Path(sys.argv[0])
    if own.name == "verve" and own.is_file():
        return own.absolute()
    beside = Path(sys.executable).parent / "verve"
    found = shutil.which("verve")
    return beside if beside.is_file() or found is None else Path(found).absolute()


def quoted(path: Path) -> str:
    """A path as the Exec key of a desktop entry has it (Desktop Entry Specification, "The Exec key")."""
    text = os.fsdecode(path).replace("\\", "\\\\")
    for letter in '"`$':
        text = text.replace(letter, f"\\{letter}")
    # The value is a string of its own: there each backslash is doubled once more. % begins a field code.
    text = text.replace("\\", "\\\\").replace("%", "%%")
    return f'"{text}"'


def install() -> list[str]:
    """Put everything in its place and tell the desktop; gives back what was done, in sentences.

    raises: FileError if a file cannot be written
    """
    home = data_home()
    for source, place in PLACES.items():
        text = (_DATA / source).read_text(encoding="utf-8")
        if place.endswith(".desktop"):
            text = text.replace("Exec=verve ", f"Exec={quoted(command())} ")
        target = home / place
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise unwritable(target, error) from error
        write_atomically(target, text)
    _refresh(home)
    return [
        f"Verve is in the menu of the desktop; its files are below {path_text(home)}.",
        "Take it out again with verve --uninstall-desktop.",
    ]


def uninstall() -> list[str]:
    """Take everything away again that install has put somewhere.

    raises: FileError if a file cannot be removed
    """
    home, found = data_home(), 0
    for place in PLACES.values():
        target = home / place
        try:
            target.unlink()
            found += 1
        except FileNotFoundError:
            continue
        except OSError as error:
            raise unwritable(target, error) from error
    _refresh(home)
    if not found:
        return ["Verve was not in the menu of the desktop."]
    return ["Verve is out of the menu; sessions, takes and settings are where they were."]


def _refresh(home: Path) -> None:
    """Let the desktop look again. Who lacks these tools has a desktop that looks by itself."""
    for tool, *arguments, folder in _CACHES:
        if (home / folder).is_dir() and shutil.which(tool) is not None:
            with contextlib.suppress(OSError, subprocess.TimeoutExpired):
                subprocess.run(
                    [tool, *arguments, str(home / folder)],
                    stdout=subprocess.DEVNULL,
                    stderr=subprocess.DEVNULL,
                    timeout=30,
                    check=False,
                )
