"""Takes heard in their place over everything else that is recorded: one, or all of a section in a row."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Final

import numpy as np
import soundfile

from verve.core.errors import CancelledError, InputError
from verve.core.files import whole_file
from verve.core.mix._render import plan_of_mix, rendered
from verve.core.mix._sheet import SheetRow
from verve.core.session import Session, choose_take
from verve.core.units import FloatArray

ROUND_S: Final = 8.0
"""So much is heard of each take of a section that are heard in a row."""
_AROUND_S, _BETWEEN_S = 1.5, 0.4
"""What is heard before and after a section, to hear it in its place; and the silence between takes in a row."""


def write_in_place(session: Session, path: Path, from_s: float, until_s: float | None) -> Path:
    """A stretch of the rough mix, with what comes right before and after it, as loud as it may be heard.

    raises: FileError if a take cannot be read or the file cannot be written; InputError for a mix of nothing
    """
    samples, rate_hz = _in_place(
        session, max(0.0, from_s - _AROUND_S), None if until_s is None else until_s + _AROUND_S
    )
    _write_under_full_scale(path, samples, rate_hz)
    return path


def write_in_a_row(
    session: Session,
    line: str,
    row: SheetRow,
    path: Path,
    goes_on: Callable[[], bool] = lambda: True,
) -> tuple[float, ...]:
    """All takes of a section one after another, eight seconds of each in its place; when each begins, in seconds.

    raises: as `write_in_place`; CancelledError
    """
    until_s = row.start_s + ROUND_S if row.end_s is None else min(row.end_s, row.start_s + ROUND_S)
    parts: list[FloatArray] = []
    begins: list[float] = []
    frames, rate_hz = 0, int(session.setup.audio.sample_rate_hz)
    for mark in row.marks:
        if not goes_on():
            raise CancelledError
        tried = choose_take(session, line, row.section, mark.take)
        samples, rate_hz = _in_place(tried, row.start_s, until_s)
        begins.append(frames / rate_hz)
        parts += [samples, np.zeros((round(_BETWEEN_S * rate_hz), 2))]
        frames += sum(len(part) for part in parts[-2:])
    if not parts:
        raise InputError("takes", "must be some in this section: record it first")
    _write_under_full_scale(path, np.concatenate(parts), rate_hz)
    return tuple(begins)


def _in_place(session: Session, from_s: float, until_s: float | None) -> tuple[FloatArray, int]:
    plan = plan_of_mix(session)
    end_s = plan.end_s if until_s is None else min(plan.end_s, until_s)
    if end_s <= from_s:
        raise InputError("mix", "must hold something there: record a take first")
    plan = replace(plan, start_s=from_s, end_s=end_s, fade_in_s=0.02, fade_out_s=0.1)
    return np.concatenate(list(rendered(plan)), axis=1).T, plan.rate_hz


def _write_under_full_scale(path: Path, samples: FloatArray, rate_hz: int) -> None:
    peak = float(np.abs(samples).max(initial=0.0))
    gain = min(1.0, 0.9 / peak) if peak > 0.0 else 1.0
    with whole_file(path) as temporary:
        soundfile.write(temporary, samples * gain, rate_hz, "FLOAT", format="WAV")
