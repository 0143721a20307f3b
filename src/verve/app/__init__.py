"""The window: PyQt6 Widgets over `assess`, and edits back into the session."""

import gc

# Loading makes many objects and no garbage: collecting meanwhile costs a tenth of the start.
gc.disable()
from verve.app._run import run  # noqa: E402

gc.enable()

__all__ = ["run"]
