"""What is dropped on the window: a session to open, sound files to bring in, or the reason why neither."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QUrl

from verve.core.files import path_text
from verve.core.session import SUFFIX
from verve.core.words import short_name

_SUFFIXES = (
    ".wav", ".wave", ".w64", ".rf64", ".bwf", ".flac", ".aif", ".aiff", ".aifc", ".ogg", ".oga", ".opus", ".mp3",
    ".caf", ".au", ".snd", ".m4a", ".mp4", ".m4b", ".aac", ".wma", ".mka", ".webm", ".ac3", ".ape", ".wv",
)  # fmt: skip
SOUND_FILTER = f"Sound files ({' '.join('*' + suffix for suffix in _SUFFIXES)});;All files (*)"
_BEGINNINGS = (b"RIFF", b"RF64", b"fLaC", b"OggS", b"FORM", b"ID3", b"riff", b"caff", b".snd")
_HEAD_BYTES = 400


@dataclass(frozen=True, slots=True, kw_only=True)
class Dropped:
    """A session, or sound files, or a sentence."""

    session: Path | None = None
    sounds: tuple[Path, ...] = ()
    said: str = ""


def dropped(urls: Sequence[QUrl]) -> Dropped:
    """What to do with what was dropped."""
    if not all(url.isLocalFile() for url in urls):
        return Dropped(
            said="Web addresses cannot be opened: save the file first, then drop it here."
        )
    paths = [Path(url.toLocalFile()) for url in urls]
    sounds = [path for path in paths if _is_sound(path)]
    if len(sounds) == len(paths):
        return Dropped(sounds=tuple(paths))
    if sounds:
        other = next(path for path in paths if path not in sounds)
        return Dropped(
            said=f"{_name(other)} is no sound file: drop sound files by themselves, and sessions one at a time."
        )
    if len(paths) > 1:
        return Dropped(said="One session at a time: drop a single file.")
    return _session(paths[0])


def _session(path: Path) -> Dropped:
    name = _name(path)
    if path.is_dir():
        return Dropped(said=f"{name} is a folder: drop the files in it.")
    head = _head(path).decode("utf-8", errors="replace")
    if '"verve-kit"' in head:
        return Dropped(said=f"{name} is a kit: import it at Brief, Kit.")
    if '"verve-gear"' in head:
        return Dropped(said=f"{name} is gear of your own: import it at Signal, My gear.")
    if '"verve-session"' not in head and not path.name.endswith(SUFFIX):
        return Dropped(
            said=f"{name} is no session and no sound: drop a file that ends in {SUFFIX}, or a sound file."
        )
    return Dropped(session=path)


def _is_sound(path: Path) -> bool:
    if path.is_dir():
        return False
    head = _head(path)
    if b'"verve-' in head:
        return False
    is_known = head.startswith(_BEGINNINGS) or head[4:8] == b"ftyp"
    # A name alone is enough: whoever reads it says what is wrong with it.
    return is_known or path.suffix.lower() in _SUFFIXES


def _name(path: Path) -> str:
    return short_name(path_text(path).rpartition("/")[2])


def _head(path: Path) -> bytes:
    if not path.is_file():
        # A pipe would keep whoever reads it waiting.
        return b""
    try:
        with path.open("rb") as file:
            return file.read(_HEAD_BYTES)
    except OSError:
        # Whoever opens it says why it cannot be read.
        return b""
