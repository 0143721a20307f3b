"""Remembering what was made from frozen values, by which values they were."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Remembered(Generic[Value]):
    """Values by the very objects they were made from.

    An edit shares all unchanged parts with the session before, so the same objects come again and
    again while a gain is dragged, and comparing places is quicker than comparing contents. The
    objects are kept with the value: while it is remembered, no other one can take their place.
    """

    def __init__(self, largest: int) -> None:
        self._largest = largest
        self._kept: dict[tuple[object, ...], tuple[tuple[object, ...], Value]] = {}
        self._equal: dict[Hashable, Value] = {}
        # The window and what works beside it may remember at the same time.
        self._lock = threading.Lock()

    def find(self, parts: tuple[object, ...]) -> Value | None:
        """The value made from these parts, if it is remembered; texts and None count by content."""
        found = self._kept.get(_key(parts))
        return None if found is None else found[1]

    def keep(self, parts: tuple[object, ...], value: Value) -> Value:
        """Remember a value, and give it back."""
        with self._lock:
            if len(self._kept) >= self._largest:
                # The oldest goes: whoever still needs it makes it anew, one at a time.
                del self._kept[next(iter(self._kept))]
            self._kept[_key(parts)] = (parts, value)
        return value

    def find_equal(self, key: Hashable) -> Value | None:
        """The value of a key that is equal, not the very same."""
        return self._equal.get(key)

    def keep_equal(self, key: Hashable, value: Value) -> Value:
        """Remember a value by a key that is compared, and give it back."""
        with self._lock:
            if len(self._equal) >= self._largest:
                del self._equal[next(iter(self._equal))]
            self._equal[key] = value
        return value

    def get(self, parts: tuple[object, ...], make: Callable[[], Value]) -> Value:
        """The remembered value, else one made now."""
        found = self.find(parts)
        return self.keep(parts, make()) if found is None else found

    def clear(self) -> None:
        """Forget everything."""
        self._kept.clear()
        self._equal.clear()


def _key(parts: tuple[object, ...]) -> tuple[object, ...]:
    # A list is half as long in the making as a generator, and an assessment asks thousands of times.
    return tuple([p if p is None or p.__class__ is str else id(p) for p in parts])
