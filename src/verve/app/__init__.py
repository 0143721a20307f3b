"""The window: PyQt6 Widgets over `assess`, and edits back into the session."""

from verve.app._run import run

__all__ = ["run"]
