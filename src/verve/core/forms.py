"""Files in a form of Verve's own: JSON with format and version, of which everything is checked."""

from __future__ import annotations

import json
from collections.abc import Collection
from typing import Any, NoReturn

from verve.core.bounds import check_bounds
from verve.core.errors import InputError


def body_of(
    text: str, place: str, *, form: str, newest: int, what: str, later: Collection[str] = ()
) -> dict[str, Any]:
    """The body of a file, without format and version; `what` is what such a file is called.

    The figures under the keys `later` are looked at by who reads them.

    raises: InputError naming place and remedy for a text that is none, of another form, of a newer version,
    with a key twice, letters that are none, or a figure that cannot be
    """
    try:
        data = json.loads(text, object_pairs_hook=_once, parse_constant=_no_constant)
    except InputError as error:
        raise InputError(f"{place}: {error.place}", error.rule, error.got) from None
    except (ValueError, RecursionError) as error:
        why = "it goes too deep" if isinstance(error, RecursionError) else str(error)
        raise InputError(
            place, f"is not {what}, its JSON breaks off ({why}); open its .bak copy"
        ) from None
    if not isinstance(data, dict) or data.get("format") != form:
        raise InputError(f"{place}: format", f'must be "{form}"; choose {what}')
    version = data.get("version")
    if type(version) is not int or version < 1:
        raise InputError(f"{place}: version", "must be a whole number from 1", version)
    if version > newest:
        rule = f"is newer than this Verve reads (up to {newest}); open it with a newer Verve"
        raise InputError(f"{place}: version", rule, version)
    body = {key: value for key, value in data.items() if key not in {"format", "version"}}
    now = {key: value for key, value in body.items() if key not in later}
    check_bounds(now, f"{place}: {form.removeprefix('verve-')}")
    # Half letters can only come from escapes: a file is UTF-8.
    if "\\u" in text:
        try:
            json.dumps(body, ensure_ascii=False).encode()
        except UnicodeEncodeError:
            raise InputError(place, "has letters that are none; type those names anew") from None
    return body


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        twice = next(key for at, (key, _) in enumerate(pairs) if key in dict(pairs[:at]))
        raise InputError(twice, "must stand only once in an object")
    return found


def _no_constant(text: str) -> NoReturn:
    raise InputError("a value", "must be a finite number", text)
