"""Verified cases for a terminal and as JSON data, in the form docs/validation.md describes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    # Nothing of the cases is needed to write down what came of them.
    from verve.core.verify import Result


def _value(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return f"{value:.7g}"
    return "null" if value is None else str(value)


def verification_text(results: Sequence[Result]) -> str:
    """One line an expectation, and how many passed."""
    rows = [
        f"{r.case} | {r.quantity} | expected {_value(r.expected)} | computed {_value(r.computed)} | "
        f"difference {_value(r.difference)} | tolerance {_value(r.tolerance)} | "
        f"{'ok' if r.ok else 'off'}"
        for r in results
    ]
    passed = sum(r.ok for r in results)
    return "\n".join([*rows, f"{passed} passed, {len(results) - passed} failed"])


def verification_data(results: Sequence[Result]) -> dict[str, Any]:
    """The same as data."""
    passed = sum(r.ok for r in results)
    return {
        "passed": passed,
        "failed": len(results) - passed,
        "results": [
            {
                "case": r.case,
                "quantity": r.quantity,
                "expected": r.expected,
                "computed": r.computed,
                "tolerance": r.tolerance,
                "ok": r.ok,
            }
            for r in results
        ],
    }
