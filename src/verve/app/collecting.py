"""When Python looks for garbage: not while a session is read, and never again through what that left.

A collection goes through everything there is: with hundreds of takes open that is a tenth of a second, in the
middle of a drag. What is loaded or opened is put aside from it; what is let go of is freed all the same, since
what a session has does not go in circles (a test counts).
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def put_aside() -> Iterator[None]:
    """Reading makes many things and no garbage: none is looked for meanwhile, nor in what was read."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if was_on:
            gc.enable()
