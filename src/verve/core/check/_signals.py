"""The signals of a session as a guided check, and "Who is it?", know them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from verve.core.assess import Assessment, LineAssessment
from verve.core.check._guide import Signal
from verve.core.check._who import Expected

_UNKNOWN_PEAK_DBFS = -12.0


def groups_of(items: Sequence[LineAssessment]) -> tuple[int, ...]:
    """Which signals sound together: those of one source, of one player, and the sides of one pair."""
    keys: list[set[str]] = []
    numbers: list[int] = []
    for item in items:
        mine = {f"line {item.line.id}"}
        if item.line.pair:
            mine.add(f"pair {item.line.pair}")
        if item.route.has_source:
            source = item.route.source
            mine.add(f"source {source.id}")
        found = next((n for n, known in enumerate(keys) if known & mine), None)
        if found is None:
            keys.append(mine)
            found = len(keys) - 1
        else:
            keys[found] |= mine
        numbers.append(found)
    return tuple(numbers)


def signals_of(assessment: Assessment, lines: Sequence[str]) -> tuple[Signal, ...]:
    """The signals of a check, in the order of these lines."""
    items = [item for line in lines if (item := assessment.line(line)) is not None]
    return tuple(
        Signal(
            line=item.line.id,
            group=group,
            predicted_peak_dbfs=_peak(item),
            spread_db=item.playing.hardest_db - item.playing.typical_db
            if item.route.has_source
            else 0.0,
        )
        for item, group in zip(items, groups_of(items), strict=True)
    )


def _peak(item: LineAssessment) -> float:
    found = item.predicted_peak_dbfs("hardest")
    return _UNKNOWN_PEAK_DBFS if found is None else found


def expected_of(assessment: Assessment, channels: Mapping[str, int]) -> tuple[Expected, ...]:
    """Where each signal should arrive, in the order of the session."""
    pairs: dict[str, list[str]] = {}
    for item in assessment.lines:
        if item.line.pair and item.line.id in channels:
            pairs.setdefault(item.line.pair, []).append(item.line.id)
    partners = {a: b for row in pairs.values() if len(row) == 2 for a, b in (row, row[::-1])}
    return tuple(
        Expected(
            line=item.line.id, channel=channels[item.line.id], partner=partners.get(item.line.id)
        )
        for item in assessment.lines
        if item.line.id in channels
    )
