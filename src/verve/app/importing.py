"""Sound files that come into the session: read beside the window with progress, looked for when they are lost."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from verve.app.document import Document
from verve.app.tasks import Report, Stopped, Tasks
from verve.core.errors import CancelledError, VerveError
from verve.core.files import path_text
from verve.core.session import Session, Sound, move_sound

if TYPE_CHECKING:
    from verve.core.assess import LineAssessment
    from verve.core.check import NoisePicture
    from verve.core.measure import Recording
    from verve.core.recordings import Analysed

_READING, _LOOKING = "reading sound files", "looking for sound files"
_MOST_KEPT_BYTES = 150_000_000
"""Of the courses of recordings that are remembered; what falls out is read again when it is looked at."""
_NONE: Mapping[str, str] = {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How far it is: the file that is read, its share, and which of how many it is."""

    name: str
    share: float
    number: int
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Wanted:
    """Files to be read: new ones, or one of the session that is looked at again."""

    paths: tuple[Path, ...]
    signals: Mapping[str, str]
    sound: Sound | None = None


class Importing(QObject):
    """Reads sound files one after the other and keeps what was found of the last ones."""

    progressed = pyqtSignal()
    changed = pyqtSignal()
    """What is known of some file is another."""
    imported = pyqtSignal(object)
    """What came in: a `BroughtIn`."""
    told = pyqtSignal(str)
    """Something a person should know: the sentence."""

    def __init__(self, document: Document, tasks: Tasks) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self._waiting: list[_Wanted] = []
        self._known: OrderedDict[str, Recording] = OrderedDict()
        self.faults: dict[str, str] = {}
        """By the content of a sound, why it cannot be read now."""
        self.reading: Reading | None = None
        self._current: _Wanted | None = None

    @property
    def is_busy(self) -> bool:
        """Whether files are being read."""
        return self._tasks.is_busy(_READING)

    def recording(self, sound: Sound) -> Recording | None:
        """What is known of a file, where it is remembered."""
        found = self._known.get(sound.content)
        if found is not None:
            self._known.move_to_end(sound.content)
        return found

    def is_wanted(self, sound: Sound) -> bool:
        """Whether a file of the session is being read, or waits for it."""
        wanted = [self._current] if self._current is not None else []
        return any(
            one.sound is not None and one.sound.id == sound.id for one in wanted + self._waiting
        )

    # ── coming in ─────────────────────────────────────────────────────────────────────────────
    def add(self, paths: Sequence[Path], signals: Mapping[str, str] = _NONE) -> None:
        """Read files and bring them in; of those in `signals`, by path, the signal is known."""
        self._waiting.append(_Wanted(paths=tuple(paths), signals=signals))
        self._begin()

    def want_noise(
        self, item: LineAssessment, rate_hz: int, done: Callable[[NoisePicture | None], None]
    ) -> None:
        """Work out what is computed of the noise of a signal, as pauses are shown."""

        def work(_: object, __: object) -> object:
            from verve.core.check import noise_picture

            return noise_picture(item, rate_hz)

        self._tasks.run("computed noise", work, done)

    def want(self, sound: Sound) -> None:
        """Read a file of the session again, if nothing is known of it."""
        if sound.content in self._known or self.is_wanted(sound) or sound.content in self.faults:
            return
        self._waiting.append(_Wanted(paths=(Path(sound.file),), signals=_NONE, sound=sound))
        self._begin()

    def again(self, sound: Sound) -> None:
        """Try once more what could not be read."""
        self.faults.pop(sound.content, None)
        self.want(sound)

    def cancel(self) -> None:
        """Read no further; what was brought in until now stays."""
        self._waiting.clear()
        current, self._current, self.reading = self._current, None, None
        self._tasks.cancel(_READING)
        if current is not None and current.sound is not None:
            self.faults[current.sound.content] = "Reading it was cancelled."
        self.changed.emit()
        self.progressed.emit()

    def forget(self) -> None:
        """Another session is open: what waits was for the one before."""
        self.cancel()
        self.faults.clear()

    def _begin(self) -> None:
        if self.is_busy or not self._waiting:
            return
        wanted = self._current = self._waiting.pop(0)
        number = self._document.number

        def work(report: Report, is_stopped: Stopped) -> object:
            # Imported here: nothing of it is needed before the first file.
            from verve.core.recordings import analyse

            found: list[Analysed] = []
            faults: list[str] = []
            for index, path in enumerate(wanted.paths, 1):
                name = path_text(path).rpartition("/")[2]

                def tell(share: float, name: str = name, index: int = index) -> None:
                    count = len(wanted.paths)
                    report(Reading(name=name, share=share, number=index, count=count))

                tell(0.0)
                try:
                    found.append(analyse(path, tell, is_stopped))
                except CancelledError:
                    raise
                except VerveError as error:
                    faults.append(str(error))
            return found, faults

        def done(answer: tuple[list[Analysed], list[str]]) -> None:
            self._current = self.reading = None
            if self._document.number == number:
                self._take(wanted, *answer)
            self.progressed.emit()
            self._begin()

        def failed(sentence: str) -> None:
            self._current = self.reading = None
            self.told.emit(sentence)
            self.progressed.emit()
            self._begin()

        self._tasks.run(_READING, work, done, failed=failed, reported=self._on_report)

    def _on_report(self, reading: Reading) -> None:
        self.reading = reading
        self.progressed.emit()

    def _take(self, wanted: _Wanted, found: Sequence[Analysed], faults: Sequence[str]) -> None:
        for one in found:
            self._known[one.content] = one.recording
            self._known.move_to_end(one.content)
            while (
                len(self._known) > 1 and sum(map(_bytes, self._known.values())) > _MOST_KEPT_BYTES
            ):
                self._known.popitem(last=False)
        if wanted.sound is not None:
            self._looked_again(wanted.sound, found, faults)
            return
        if found:
            self._bring_in(wanted, found)
        if faults:
            more = f" {len(faults) - 1} more files could not be imported." if faults[1:] else ""
            self.told.emit(faults[0] + more)

    def _looked_again(self, sound: Sound, found: Sequence[Analysed], faults: Sequence[str]) -> None:
        if faults:
            self.faults[sound.content] = faults[0]
        elif found and found[0].content != sound.content:
            self.faults[sound.content] = (
                f"{path_text(Path(sound.file))} is no longer the file it was: something has changed it. Its figures "
                "here are those of before; import it again for new ones."
            )
        self.changed.emit()

    def _bring_in(self, wanted: _Wanted, found: Sequence[Analysed]) -> None:
        from verve.core.recordings import brought_in

        document = self._document
        added_at = datetime.now().astimezone().isoformat(timespec="seconds")
        came = brought_in(
            document.session, document.assessment, found, added_at=added_at, signals=wanted.signals
        )
        if came.sounds:
            what = came.sounds[0].name if len(came.sounds) == 1 else f"{len(came.sounds)} files"
            session = came.session
            if not document.edit(f"import of {what}", lambda _: session):
                return
        if came.known:
            others = f" and {len(came.known) - 1} more" if came.known[1:] else ""
            self.told.emit(f"Already in the session: {came.known[0].name}{others}.")
        self.imported.emit(came)
        self.changed.emit()

    # ── lost and found ────────────────────────────────────────────────────────────────────────
    def look_for_lost(self) -> None:
        """Look for sound files that are not where they were, by what they hold."""
        document = self._document
        session, path, number = document.session, document.path, document.number
        self.forget()
        if not session.sounds and not session.takes:
            return

        def work(_: object, is_stopped: Callable[[], bool]) -> object:
            from verve.core.recordings import missing_files, takes_found_again

            missing = missing_files(session)
            if not missing:
                return [], {}, ()
            folders = _folders(session, path)
            takes = takes_found_again(session, folders, lambda: not is_stopped())
            return _found(session, path, is_stopped), takes, missing

        def done(
            answer: tuple[Sequence[tuple[Sound, Path]], Mapping[str, str], Sequence[str]],
        ) -> None:
            found, takes, missing = answer
            if document.number != number:
                return
            if found:
                self._move(found)
            if takes:
                self._move_takes(takes)
            left = [
                one
                for one in missing
                if one not in takes and all(one != sound.file for sound, _ in found)
            ]
            if left:
                self._tell_missing(left)

        self._tasks.run(_LOOKING, work, done, failed=self.told.emit)

    def _move_takes(self, places: Mapping[str, str]) -> None:
        """Files of takes that were found again where somebody has moved them."""
        from verve.core.recordings import with_files

        count = len(places)
        what = "a take’s file" if count == 1 else f"{count} files of takes"
        if self._document.edit(f"place of {what}", lambda now: with_files(now, places)):
            where = path_text(Path(next(iter(places.values()))).parent)
            verb = "has" if count == 1 else "have"
            self.told.emit(f"{what} {verb} been moved, and found again in {where}.")

    def _tell_missing(self, files: Sequence[str]) -> None:
        first = path_text(Path(files[0]))
        more = f" and {len(files) - 1} more" if files[1:] else ""
        self.told.emit(
            f"Missing: {first}{more}. Takes keep their figures and settings; put the files beside the session, "
            "and they are found again by what they hold."
        )

    def _move(self, found: Sequence[tuple[Sound, Path]]) -> None:
        def change(session: Session) -> Session:
            for sound, place in found:
                if any(one.id == sound.id for one in session.sounds):
                    session = move_sound(session, sound.id, str(place))
            return session

        what = found[0][0].name if len(found) == 1 else f"{len(found)} sound files"
        if self._document.edit(f"place of {what}", change):
            self.told.emit(
                f"{what} had been moved, and was found again in {path_text(found[0][1].parent)}."
            )
            self.changed.emit()

    def place_is(self, sound: Sound, path: Path) -> None:
        """Somebody says where a lost file is: taken if it is that file."""

        def work(_: object, is_stopped: Callable[[], bool]) -> object:
            from verve.core.soundfiles import content_of

            return content_of(path, lambda: not is_stopped())

        def done(content: str) -> None:
            if content == sound.content:
                self.faults.pop(sound.content, None)
                self._move([(sound, path)])
            else:
                self.told.emit(
                    f"{path_text(path)} is another file than {sound.name} was: what it holds is not the same. "
                    "Import it as a file of its own."
                )

        self._tasks.run(_LOOKING, work, done, failed=self.told.emit)


def _bytes(recording: Recording) -> int:
    """About how much of memory a recording takes."""
    course = recording.course
    arrays = (course.a_weighted, course.peaks, course.momentary_lufs, course.short_term_lufs)
    return sum(array.nbytes for array in arrays)


def _found(
    session: Session, path: Path | None, is_stopped: Callable[[], bool]
) -> list[tuple[Sound, Path]]:
    """Lost files of a session, and where they are now."""
    from verve.core.soundfiles import found_again

    lost = [sound for sound in session.sounds if not is_there(sound)]
    folders = _folders(session, path)
    found = []
    for sound in lost:
        place = found_again(sound.content, sound.size_bytes, folders, lambda: not is_stopped())
        if place is not None:
            found.append((sound, place))
    return found


def _folders(session: Session, path: Path | None) -> list[Path]:
    """Where lost files are looked for: beside the session, and where others of it lie."""
    here = [Path(sound.file).parent for sound in session.sounds]
    here += [Path(track.file).parent for take in session.takes for track in take.tracks[:1]]
    folders = [*([path.parent] if path is not None else []), *(f for f in here if f.is_dir())]
    return list(dict.fromkeys(folders))


def is_there(sound: Sound) -> bool:
    """Whether its file lies where it did, as long as it was."""
    try:
        return Path(sound.file).stat().st_size == sound.size_bytes
    except (OSError, ValueError):
        return False
