"""The errors a user can cause, each saying what, where and what to do."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from pydantic import ValidationError

_LONGEST_NAME = 80
_LONGEST_PART = 360


class VerveError(Exception):
    """Anything a user can cause and a user can mend; its text is shown as it is."""


class InputError(VerveError, ValueError):
    """A value that cannot be: `place: rule; got value`.

    `place` names file, line or field, `rule` says what would be right.
    """

    def __init__(self, place: str, rule: str, got: object = None) -> None:
        self.place = place = _readable(place)
        self.rule = rule = _readable(rule)
        self.got = got
        self.what = rule if got is None else f"{rule}; got {_short(got)}"
        """What would be right, and what was there, without the place."""
        super().__init__(f"{place}: {self.what}")


class FileError(VerveError):
    """A file that cannot be read or written: which, why, and the remedy."""

    def __init__(self, path: object, why: str, remedy: str) -> None:
        self.path = _path_text(path)
        self.why = why
        self.remedy = remedy
        super().__init__(f"{self.path}: {why}. {remedy}")


class EditError(VerveError):
    """An edit that the session does not allow; nothing has changed."""


class CancelledError(VerveError):
    """Somebody no longer wants what was being worked out."""


def _path_text(path: object) -> str:
    """A path as it can be shown: what is no text in it replaced, a long name cut in the middle."""
    text = (
        os.fsencode(path).decode("utf-8", errors="replace") if isinstance(path, Path) else str(path)
    )
    folder, slash, name = " ".join(text.split("\n")).rpartition("/")
    if len(name) > _LONGEST_NAME:
        name = f"{name[: _LONGEST_NAME // 2]}…{name[-_LONGEST_NAME // 2 :]}"
    return folder + slash + name


def _readable(text: str) -> str:
    """A part of a sentence that somebody can still read: what is longer loses its middle."""
    if len(text) <= _LONGEST_PART:
        return text
    half = _LONGEST_PART // 2
    return f"{text[:half]}…{text[-half:]}"


def _short(value: object) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


_RULES = {
    "missing": "is required",
    "extra_forbidden": "is not a known key",
    "unexpected_keyword_argument": "is not a known key",
    "dataclass_type": "must be an object",
    "finite_number": "must be a finite number",
    "float_type": "must be a number",
    "int_type": "must be a whole number",
    "int_from_float": "must be a whole number",
    "int_parsing": "must be a whole number",
    "string_type": "must be a text",
    "bool_type": "must be true or false",
    "tuple_type": "must be a list",
    "list_type": "must be a list",
    "dict_type": "must be an object",
    "model_type": "must be an object",
    "model_attributes_type": "must be an object",
    "union_tag_not_found": "must name its kind",
}


def _rule_of(kind: str, context: dict[str, Any], message: str) -> str:
    if kind == "greater_than":
        return f"must be greater than {context['gt']:g}"
    if kind == "greater_than_equal":
        return f"must be at least {context['ge']:g}"
    if kind == "less_than":
        return f"must be less than {context['lt']:g}"
    if kind == "less_than_equal":
        return f"must be at most {context['le']:g}"
    if kind in {"literal_error", "enum"}:
        return f"must be {context['expected']}"
    if kind == "union_tag_invalid":
        return f"must be one of {context['expected_tags']}"
    if kind == "too_short":
        return f"must have at least {context['min_length']} entries"
    return _RULES.get(kind, message[:1].lower() + message[1:])


def from_validation_error(error: ValidationError, place: str) -> InputError:
    """The first thing wrong in a model, as one InputError whose place starts with `place`."""
    first = error.errors(include_url=False)[0]
    cause = first.get("ctx", {}).get("error")
    parts = ""
    for part in first["loc"]:
        parts += (
            f"[{part}]" if isinstance(part, int) else f".{part}" if parts or place else f"{part}"
        )
    if isinstance(cause, InputError):
        joined = f"{place}{parts}.{cause.place}" if place or parts else cause.place
        return InputError(joined, cause.rule, cause.got)
    got = first["input"] if first["type"] != "missing" else None
    if isinstance(got, dict | list | tuple):
        got = None
    rule = _rule_of(first["type"], first.get("ctx", {}), first["msg"])
    return InputError(f"{place}{parts}", rule, got)
