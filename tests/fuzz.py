"""Broken files with a shape: what a hand, another program or a bad disk makes of a file that was good."""

from __future__ import annotations

import copy
import json
import random
from collections.abc import Callable, Iterator
from typing import Any

NUMBERS = (
    0, -1, 1, 2**31, 2**63, 10**40, -7000.0, 7000.0, 1e-300, 1e-200, 1e300, -1e300, 0.5, 1e9, 33.3,
)  # fmt: skip
TEXTS = (
    "", " ", "x" * 5000, "a\nb", "\0", "\ud800", "../../etc", "C:\\x", "²", "‮abc", "{voice}", "in.1",
    "voice", "left", "none", "null",
)  # fmt: skip

Path = tuple[str | int, ...]


def leaves(data: Any, path: Path = ()) -> Iterator[tuple[Path, Any]]:
    """Every place of a file with what stands there, from outside in."""
    yield path, data
    items = (
        data.items()
        if isinstance(data, dict)
        else enumerate(data)
        if isinstance(data, list)
        else ()
    )
    for key, value in items:
        yield from leaves(value, (*path, key))


def _at(data: Any, path: Path) -> Any:
    for key in path:
        data = data[key]
    return data


def _set(data: Any, path: Path, value: Any) -> Any:
    if not path:
        return value
    _at(data, path[:-1])[path[-1]] = value
    return data


def _other(_: random.Random, value: Any) -> Any:
    """A value of another kind."""
    return {"a": value} if isinstance(value, list) else [value]


_CHANGES: tuple[Callable[[random.Random, Any], Any], ...] = (
    lambda rng, _: rng.choice(NUMBERS),
    lambda rng, _: rng.choice(TEXTS),
    lambda rng, _: rng.choice([None, True, False, [], {}]),
    _other,
)


def broken(text: str, rng: random.Random) -> str:
    """The text of a JSON file with one to four things changed in it, each where it stands."""
    if rng.random() < 0.08:
        at = rng.randrange(len(text))
        return rng.choice([text[:at], text[:at] + "\0" + text[at:], text + text, "[" * 3000])
    data = json.loads(text)
    for _ in range(rng.randint(1, 4)):
        places = list(leaves(data))
        path, value = rng.choice(places)
        if not path:
            continue
        kind = rng.random()
        if isinstance(value, int | float) and kind < 0.6:
            data = _set(data, path, rng.choice(NUMBERS))
        elif kind < 0.2 and isinstance(_at(data, path[:-1]), dict):
            del _at(data, path[:-1])[path[-1]]
        elif kind < 0.4 and isinstance(value, list) and value:
            one = copy.deepcopy(rng.choice(value))
            value.insert(rng.randrange(len(value) + 1), one)
            if rng.random() < 0.3:
                value.reverse()
        elif kind < 0.55 and isinstance(value, list) and value:
            del value[rng.randrange(len(value))]
        elif kind < 0.75:
            # What stands elsewhere in the file, under the same name if there is such a place.
            alike = [v for p, v in places if p and p[-1] == path[-1] and v != value]
            data = _set(data, path, copy.deepcopy(rng.choice(alike or [value])))
        else:
            data = _set(data, path, rng.choice(_CHANGES)(rng, value))
    return json.dumps(data)
