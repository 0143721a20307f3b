"""Sound that is rendered into a file beside the window and then played: a new file each time."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTemporaryDir

from verve.app.tasks import Tasks

if TYPE_CHECKING:
    from verve.app.player import Player


class Rendered:
    """Writes and plays; the files go with it."""

    def __init__(self, lane: str, tasks: Tasks, find_player: Callable[[], Player]) -> None:
        self._lane, self._tasks, self._find_player = lane, tasks, find_player
        self._folder: QTemporaryDir | None = None
        self._number = 0

    def stopped(self) -> bool:
        """Silence, if something was heard: a second press ends what the first began."""
        player = self._find_player()
        if not player.is_playing:
            return False
        player.stop()
        return True

    def play(
        self,
        write: Callable[[Path, Callable[[], bool]], object],
        rate_hz: int,
        failed: Callable[[str], None],
        begun: Callable[[Path, object], None] = lambda _, __: None,
    ) -> None:
        """Let `write` make a file beside the window as long as it may go on, and play it at a rate.

        `failed` is told why not, `begun` which file it is and what `write` said.
        """
        # A file of its own each time: the one before may still be heard.
        self._number += 1
        if self._folder is None:
            self._folder = QTemporaryDir()
        path = Path(self._folder.path()) / f"rendered-{self._number}.wav"

        def done(said: object) -> None:
            from verve.core.soundfiles import PlayRequest

            begun(path, said)
            self._find_player().play(PlayRequest(path=path), rate_hz)

        self._tasks.run(
            self._lane,
            lambda _, is_stopped: write(path, lambda: not is_stopped()),
            done,
            failed=failed,
        )
