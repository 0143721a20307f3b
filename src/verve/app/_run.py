"""Starting the application and its one window."""

from __future__ import annotations

import signal
import sys
from importlib.resources import files
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QApplication

from verve.app import theme
from verve.app.settings import Settings
from verve.app.window import MainWindow


def make_application() -> QApplication:
    """The application, dressed; the one that is running if there is one."""
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
    picture.loadFromData((files("verve") / "data" / "icons" / "verve.svg").read_bytes())
    application.setWindowIcon(QIcon(picture))


def _follow_desktop(application: QApplication, window: MainWindow) -> None:
    hints = application.styleHints()
    if hints is None:
        return

    def changed() -> None:
        theme.apply(application, night=theme.is_night())
        window.go(window.step)

    hints.colorSchemeChanged.connect(changed)


def run(*, file: Path | None, is_demo: bool) -> int:
    """Show the window with a file, the demo or what a crash left, until it is closed."""
    application = make_application()
    settings = Settings()
    window = MainWindow(settings)
    if is_demo:
        window.show_demo()
    elif file is not None:
        window.open_file(file.absolute())
    else:
        window.restore_left_behind()
    geometry = settings.geometry()
    if geometry is not None:
        window.restoreGeometry(geometry)
    _follow_desktop(application, window)
    window.show()
    QTimer.singleShot(0, lambda: _set_icon(application))
    # Ctrl+C in the terminal ends it: Python looks for signals only while it runs.
    signal.signal(signal.SIGINT, lambda *_: application.quit())
    pulse = QTimer()
    pulse.start(250)
    pulse.timeout.connect(lambda: None)
    return application.exec()
