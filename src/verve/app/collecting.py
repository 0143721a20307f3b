"""When Python looks for garbage: not while a session is read, and never again through what that left.

A collection goes through everything there is: with hundreds of takes open that is a tenth of a second, in the
middle of a drag. What is loaded or opened is put aside from it; what is let go of is freed all the same.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def paused() -> Iterator[None]:
    """Reading makes many things and no garbage."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def put_aside() -> None:
    """Look once at everything, also at what was put aside before and may be garbage by now; then at none of it."""
    gc.unfreeze()
    gc.collect()
    gc.freeze()
