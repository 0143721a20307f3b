"""What all tests share: a home of their own, the demo session, and small builders."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import settings

from verve.core.assess import Assessment, assess
from verve.core.demo import demo_session
from verve.core.findings import Finding
from verve.core.gear import InputFigures, InterfaceFigures
from verve.core.session import (
    Change,
    Placement,
    Play,
    Session,
    TakeTrack,
    set_control,
    set_placement,
    with_setup,
)
from verve.devices import RecordRequest, record

# Before Qt is loaded: tests draw off screen unless they start a real window themselves.
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# A shared machine can be slow at any moment: no example is timed.
settings.register_profile("verve", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("verve")


@pytest.fixture(autouse=True)
def own_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A home without anything in it, so that no test meets another's files or the user's."""
    home = tmp_path / "home"
    home.mkdir()
    monkeypatch.setenv("HOME", str(home))
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_MUSIC_DIR"):
        monkeypatch.delenv(name, raising=False)
    return home


@pytest.fixture
def demo() -> Session:
    """The demo session as it ships."""
    return demo_session()


@pytest.fixture
def mended(demo: Session) -> Session:
    """The demo session after every next thing has been done."""
    return follow(demo)


@pytest.fixture
def alone(mended: Session) -> Session:
    """The mended demo session with nothing placed: every microphone hears its own source alone."""
    return unplaced(mended)


def unplaced(session: Session) -> Session:
    """A session in which nobody has put anything anywhere."""
    return set_placement(session, Placement())


def follow(session: Session, most: int = 60) -> Session:
    """Press the button of the next thing until it no longer applies an edit."""
    for _ in range(most):
        thing = assess(session).next
        if thing.action != "apply":
            return session
        assert thing.remedy is not None
        session = thing.remedy.apply(session)
    raise AssertionError(f"the next thing never ends: {assess(session).next.sentence}")


@pytest.fixture
def put() -> Callable[..., Session]:
    """Put one control of a session to a value."""

    def change(session: Session, owner: str, channel: str, name: str, value: object) -> Session:
        return set_control(
            session,
            Change(owner=owner, channel=channel, name=name, value=value),  # type: ignore[arg-type]
        )

    return change


def figures_changed(session: Session, device_id: str, **changes: object) -> Session:
    """The session with other data-sheet figures of one device."""
    devices = tuple(
        d.model_copy(update={"figures": d.figures.model_copy(update=changes)})
        if d.id == device_id
        else d
        for d in session.setup.devices
    )
    return with_setup(session, devices=devices)


def inputs_changed(
    session: Session, change: Callable[[InputFigures], InputFigures], device_id: str | None = None
) -> Session:
    """The session with the inputs of its interfaces, or of one, made anew."""
    devices = []
    for device in session.setup.devices:
        figures = device.figures
        if isinstance(figures, InterfaceFigures) and device_id in (None, device.id):
            inputs = tuple(change(socket) for socket in figures.inputs)
            figures = figures.model_copy(update={"inputs": inputs})
        devices.append(device.model_copy(update={"figures": figures}))
    return with_setup(session, devices=tuple(devices))


def modes_changed(socket: InputFigures, **changes: object) -> InputFigures:
    """An input with other figures in every mode."""
    modes = {mode: found.model_copy(update=changes) for mode, found in socket.modes.items()}
    return socket.model_copy(update={"modes": modes})


def recorded(session: Session, line_id: str, folder: Path) -> TakeTrack:
    """One line's hardest playing, recorded by the simulated interface."""
    request = RecordRequest(
        id=1,
        session=session,
        lines=(line_id,),
        play="hardest",
        seconds=5.0,
        folder=folder,
        take_id="take_1",
        take_name="Take 1",
        recorded_at="2026-05-04T20:15:00+02:00",
        is_paced=False,
    )
    (track,) = record(request).tracks
    return track


def findings_of(assessment: Assessment, rule: str) -> list[Finding]:
    """All findings of one rule."""
    return [finding for finding in assessment.findings if finding.rule == rule]


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """Tell the events of the window's thread that took long, worst first."""
    reports = [r for kind in ("passed", "failed") for r in terminalreporter.getreports(kind)]
    found = sorted(
        {words for r in reports for key, words in r.user_properties if key == "slow event"}
    )
    if found:
        terminalreporter.section("events that took over 50 ms of the window's own time")
        for words in found[:12]:
            terminalreporter.write_line(words)


def within_prediction(
    track: TakeTrack, session: Session, play: Play, *, abs_db: float = 1.0
) -> None:
    """The measured peak of a track lies where it is predicted, or so many decibels beside it."""
    item = assess(session).line(track.line)
    assert item is not None
    found = item.predicted_range(play)
    assert found is not None
    measured = track.peak_dbfs.measured
    assert measured is not None
    assert found.low_dbfs - abs_db <= measured <= found.high_dbfs + abs_db, track
