"""Starting the application and its one window."""

from __future__ import annotations

import gc
import sys
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QApplication

from verve.app import theme
from verve.app.settings import Settings
from verve.app.warming import warm_up
from verve.app.window import MainWindow
from verve.core.demo import demo_session

_INTERRUPTED = 2
"""How a program that was interrupted ends: stopped, and nothing lost."""


_WARM_UP_AFTER_MS = 500
_SWITCH_AFTER_S = 0.0005
"""How long work beside the window may go on before the window gets its turn: Python's own 5 ms, at each call
that Qt makes, are seen."""


def make_application() -> QApplication:
    """The application, dressed; the one that is running if there is one."""
    sys.setswitchinterval(_SWITCH_AFTER_S)
    application = QApplication.instance()
    if not isinstance(application, QApplication):
        application = QApplication(sys.argv[:1])
    application.setApplicationName("verve")
    application.setApplicationDisplayName("Verve")
    application.setDesktopFileName("verve")
    theme.load_fonts()
    theme.apply(application, night=theme.is_night())
    return application


def _set_icon(application: QApplication) -> None:
    # After the first paint: reading a drawing takes longer than showing the window.
    picture = QPixmap()
    picture.loadFromData((theme.DATA / "icons" / "verve.svg").read_bytes())
    application.setWindowIcon(QIcon(picture))


def _follow_desktop(application: QApplication, window: MainWindow) -> None:
    hints = application.styleHints()
    if hints is None:
        return

    def changed() -> None:
        theme.apply(application, night=theme.is_night())
        window.go(window.step)

    hints.colorSchemeChanged.connect(changed)


def _interrupt(application: QApplication, window: MainWindow) -> None:
    """End at once, as Ctrl+C in a terminal means it; what is unsaved is kept for the next start."""
    window.commit_typing()
    if window.rehearsal.state == "recording":
        # What was recorded until now is a take; then it ends.
        window.rehearsal.finish(lambda: _interrupt(application, window))
        return
    window.rehearsal.cancel()
    if not window.document.is_saved:
        window.files.keep()
        window.tasks.wait()
    application.exit(_INTERRUPTED)


def _after_first_paint(application: QApplication, window: MainWindow, pulse: QTimer) -> None:
    import signal

    from verve.app import last_resort

    last_resort.install(window)
    # What is loaded now stays: collections need not look at it again.
    gc.freeze()
    gc.enable()
    _set_icon(application)
    # Ctrl+C in the terminal ends it: Python looks for signals only while it runs.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: _interrupt(application, window))
    QTimer.singleShot(_WARM_UP_AFTER_MS, lambda: warm_up(window))
    pulse.start(250)
    pulse.timeout.connect(lambda: None)


def run(*, file: Path | None, is_demo: bool) -> int:
    """Show the window with a file, the demo or what a crash left, until it is closed."""
    gc.disable()
    application = make_application()
    settings = Settings()
    window = MainWindow(settings, session=demo_session() if is_demo else None, paints_first=is_demo)
    if file is not None:
        path = file.absolute()
        if not window.files.restore_left_behind(only=path):
            window.files.open_now(path)
    elif not is_demo:
        window.files.restore_left_behind()
    geometry = settings.geometry()
    if geometry is not None:
        window.restoreGeometry(geometry)
    _follow_desktop(application, window)
    window.show()
    pulse = QTimer()
    QTimer.singleShot(0, lambda: _after_first_paint(application, window, pulse))
    code = application.exec()
    # However it ended: no thread may still be at work when what it works with is taken apart.
    window.tasks.cancel_all(but=(window.files.lane,))
    return code
