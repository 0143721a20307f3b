"""Why a line is off, as text and as data."""

from __future__ import annotations

from typing import Any

from verve.core.causes import Causes
from verve.core.session import Line
from verve.core.words import number

_MOST_TOLD = 6


def causes_text(line: Line, found: Causes) -> str:
    """What is off, and the likeliest causes with the quickest test for each."""
    if not found.causes:
        return f"{line.name}: nothing stands off its usual position."
    lines = [f"{said}." for said in found.deviations] or [f"{line.name}: nothing is far off."]
    for rank, cause in enumerate(found.causes[:_MOST_TOLD], 1):
        explains = f"{number(cause.explains_db, 1)} dB"
        lines.append(f"{rank}  {cause.sentence}; explains {explains}")
        lines.append(f"   {cause.test}")
    return "\n".join(lines)


def causes_data(line: Line, found: Causes) -> dict[str, Any]:
    """The same as data, every cause."""
    return {
        "line": line.id,
        "deviations": list(found.deviations),
        "causes": [
            {
                "owner": cause.owner,
                "channel": cause.channel,
                "control": cause.control,
                "link": cause.link,
                "value": cause.value,
                "usual": cause.usual,
                "explains_db": cause.explains_db,
                "sentence": cause.sentence,
                "test": cause.test,
            }
            for cause in found.causes
        ],
    }
