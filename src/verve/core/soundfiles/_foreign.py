"""Sound files that the sound library cannot read: M4A and its kin, written anew by ffmpeg where that is installed."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from verve.core.errors import CancelledError, FileError
from verve.core.files import free_text, path_text

SUFFIXES = frozenset(
    {".m4a", ".mp4", ".m4b", ".aac", ".wma", ".mka", ".webm", ".ac3", ".ape", ".wv", ".mov"}
)
_PROGRAM = "ffmpeg"
_ASKED_EVERY_S = 0.1
_ROOMY = Path("/var/tmp")
"""On disk, where the usual place for temporary files may be memory."""


def is_foreign(path: Path) -> bool:
    """Whether it is a file of these, by its name or by how it begins."""
    if path.suffix.lower() in SUFFIXES:
        return True
    try:
        with path.open("rb") as file:
            return file.read(12)[4:8] == b"ftyp"
    except OSError:
        return False


@contextmanager
def as_wav(path: Path, goes_on: Callable[[], bool] = lambda: True) -> Iterator[Path]:
    """The same sound as a WAV file of 32-bit floats, for as long as it is needed; the file itself is only read.

    `goes_on` is asked meanwhile. What the coder puts before the sound stays in it, as every player hears it.

    raises: FileError where ffmpeg is not installed, or finds no sound; CancelledError if it shall not go on
    """
    program = shutil.which(_PROGRAM)
    kind = path.suffix.lstrip(".").upper() or "coded"
    if program is None:
        said = f"is a file of the {kind} kind, which takes ffmpeg to read; that is not installed"
        raise FileError(path, said, "Install ffmpeg, or save it as WAV or FLAC.")
    place = str(_ROOMY) if os.access(_ROOMY, os.W_OK) else None
    with tempfile.TemporaryDirectory(prefix="verve-", dir=place) as folder:
        wav = Path(folder) / "sound.wav"
        command = [
            program, "-nostdin", "-v", "error", "-i", f"file:{path.absolute()}", "-map", "0:a:0", "-vn",
            "-c:a", "pcm_f32le", "-rf64", "auto", "-y", f"file:{wav}",
        ]  # fmt: skip
        try:
            with subprocess.Popen(
                command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
            ) as running:
                said = _until_done(running, goes_on)
        except OSError as error:
            raise FileError(
                path, f"cannot be read: ffmpeg does not start ({error})", "Save it as WAV."
            ) from error
        if running.returncode or not wav.exists():
            free = free_text(wav)
            why = f"ffmpeg found no sound in it ({said or 'it gives no reason'}; {free})"
            raise FileError(
                path, f"cannot be read as sound: {why}", "Choose a file that is complete."
            )
        yield wav


def _until_done(running: subprocess.Popen[bytes], goes_on: Callable[[], bool]) -> str:
    """The last line of what it complains of."""
    while True:
        try:
            _, complaint = running.communicate(timeout=_ASKED_EVERY_S)
        except subprocess.TimeoutExpired:
            if goes_on():
                continue
            running.kill()
            running.communicate()
            raise CancelledError from None
        lines = complaint.decode("utf-8", errors="replace").strip().splitlines()
        return path_text(Path(lines[-1].strip())) if lines else ""
