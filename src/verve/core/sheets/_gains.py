"""All gains with their reasons, and a run sheet, as text and as data for who scripts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from verve.core.certificates import Certificate
from verve.core.gain import all_changes
from verve.core.power import RunStep
from verve.core.words import level_text


def gains_text(found: Sequence[Certificate]) -> str:
    """Each line with what is set, what it gives, and why nothing better exists."""
    if not found:
        return "No signal can be set: none is complete, or all are locked."
    parts = []
    for one in found:
        deeds = ", ".join(one.best.words) or "stays as it is"
        head = f"{one.name}: {deeds}; peak {level_text(one.best.peak_dbfs, 'dBFS')}"
        parts.append("\n".join([head, *(f"   {said}" for said in one.reasons())]))
    return "\n\n".join(parts)


def gains_data(found: Sequence[Certificate]) -> dict[str, Any]:
    """The same as data: every line, and all edits together."""
    return {
        "lines": [
            {
                "line": one.line,
                "peak_dbfs": one.best.peak_dbfs,
                "noise_dbfs_a": one.best.noise_dbfs_a,
                "reaches_target": one.best.reaches_target,
                "reasons": list(one.reasons()),
                "improvements": list(one.improvement_words()),
            }
            for one in found
        ],
        "edits": [
            {"owner": c.owner, "channel": c.channel, "control": c.name, "value": c.value}
            for c in all_changes([one.best for one in found])
        ],
    }


def sheet_text(steps: Sequence[RunStep]) -> str:
    """One numbered step a line."""
    rows = [f"{number:>3}  {step.words}" for number, step in enumerate(steps, 1)]
    return "\n".join(rows) or "Nothing is patched yet: the sheet is made from the patch."


def sheet_data(steps: Sequence[RunStep]) -> dict[str, Any]:
    """The same as data, with what each step is about and why."""
    return {
        "steps": [
            {
                "kind": step.kind,
                "subject": step.subject,
                "sentence": step.words,
                "reason": step.reason,
            }
            for step in steps
        ]
    }
