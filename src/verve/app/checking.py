"""The guided check, and "Who is it?", beside the window: one at a time, from players or from a sound device."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.tasks import Report, Stopped, Tasks, Work

if TYPE_CHECKING:
    from verve.devices import CheckRequest, Command, Commands, WhoRequest

Doing = Literal["nothing", "check", "who"]
_LANE, _DEVICES = "check", "sound devices"


class Checking(QObject):
    """Runs a check, tells what it reports, and passes on what is done by hand."""

    state_changed = pyqtSignal()
    reported = pyqtSignal(object)
    """A `CheckState`."""
    asked = pyqtSignal(object)
    """A `Who`."""
    proved = pyqtSignal(object)
    """All proofs, when “Who is it?” has come to its end."""
    devices_found = pyqtSignal(object)
    """The devices that record, or the sentence that says why there are none."""
    told = pyqtSignal(str)

    def __init__(self, tasks: Tasks, *, is_paced: bool = True) -> None:
        super().__init__()
        self._tasks, self.is_paced = tasks, is_paced
        self._doing: Doing = "nothing"
        self._commands: Commands | None = None

    @property
    def doing(self) -> Doing:
        """What is going on."""
        return self._doing

    def look_for_devices(self) -> None:
        """Which sound devices record."""

        def work(_: object, __: object) -> object:
            from verve.devices import recording_devices

            return (recording_devices(),)

        self._tasks.run(_DEVICES, work, lambda found: self.devices_found.emit(found[0]))

    def begin(self, request: CheckRequest) -> None:
        """Begin a check."""
        from verve.devices import Commands, check

        commands = Commands()

        def work(report: Report, is_stopped: Stopped) -> object:
            check(request, report, is_stopped, commands)
            return None

        self._start("check", commands, work, self.reported.emit)

    def begin_who(self, request: WhoRequest) -> None:
        """Begin to ask who is who."""
        from verve.devices import Commands, who_is_it

        commands = Commands()

        def work(report: Report, is_stopped: Stopped) -> object:
            return who_is_it(request, report, is_stopped, commands)

        self._start("who", commands, work, self.asked.emit)

    def _start(self, doing: Doing, commands: Commands, work: Work, reported: Report) -> None:
        self.stop()
        self._doing, self._commands = doing, commands
        self.state_changed.emit()

        def done(found: object) -> None:
            self._end()
            if doing == "who":
                self.proved.emit(found)

        def failed(sentence: str) -> None:
            self._end()
            self.told.emit(sentence)

        self._tasks.run(_LANE, work, done, failed=failed, reported=reported)

    def post(self, command: Command) -> None:
        """Something is done by hand."""
        if self._commands is not None:
            self._commands.post(command)

    def stop(self) -> None:
        """End what is going on; what was found stays."""
        self._tasks.cancel(_LANE)
        self._end()

    def _end(self) -> None:
        if self._doing != "nothing":
            self._doing, self._commands = "nothing", None
            self.state_changed.emit()
