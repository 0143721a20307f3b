"""The memory of one owner: tables of what was made from frozen values. Nothing of it changes an answer."""

from __future__ import annotations

from typing import Any

from verve.core.engine._remembered import Remembered


class Engine:
    """Tables by name, each with its own size. A new engine gives the same answers as a used one, later.

    Whoever assesses again and again owns one; without, each assessment begins with nothing.
    """

    def __init__(self) -> None:
        self._tables: dict[str, Remembered[Any]] = {}

    def table(self, name: str, largest: int) -> Remembered[Any]:
        """The table of a name, made when it is first asked for; `largest` is how much it may hold."""
        found = self._tables.get(name)
        if found is None:
            found = self._tables[name] = Remembered(largest)
        return found

    def clear(self) -> None:
        """Forget everything."""
        self._tables.clear()
