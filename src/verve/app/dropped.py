"""What is dropped on the window: a session to open, or the reason why it is not opened."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QUrl

from verve.core.files import path_text
from verve.core.session import SUFFIX
from verve.core.words import short_name

_SOUND = frozenset({".wav", ".flac", ".aif", ".aiff", ".ogg", ".mp3", ".m4a", ".raw", ".caf"})
_HEAD_BYTES = 400


def session_of(urls: Sequence[QUrl]) -> Path | str:
    """The file to open, or a sentence."""
    if not all(url.isLocalFile() for url in urls):
        return "Web addresses cannot be opened: save the file first, then drop it here."
    paths = [Path(url.toLocalFile()) for url in urls]
    if len(paths) > 1:
        return "One session at a time: drop a single file."
    (path,) = paths
    name = short_name(path_text(path).rpartition("/")[2])
    if path.is_dir():
        return f"{name} is a folder: drop the session file in it."
    if path.suffix.lower() in _SOUND:
        return (
            "Sound files are not opened here yet: record in Check, or measure this one with "
            "“verve measure”."
        )
    head = _head(path)
    if '"verve-kit"' in head:
        return f"{name} is a kit: import it at Brief, Kit."
    if '"verve-gear"' in head:
        return f"{name} is gear of your own: import it at Signal, My gear."
    if '"verve-session"' not in head and not path.name.endswith(SUFFIX):
        return f"{name} is no session: drop a file that ends in {SUFFIX}."
    return path


def _head(path: Path) -> str:
    try:
        with path.open("rb") as file:
            return file.read(_HEAD_BYTES).decode("utf-8", errors="replace")
    except OSError:
        # Whoever opens it says why it cannot be read.
        return ""
