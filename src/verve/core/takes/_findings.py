"""What the takes say: a knob that has moved since, a take that clipped, one that differs from its prediction."""

from __future__ import annotations

from verve.core.engine import Engine, Remembered
from verve.core.findings import Finding, Remedy
from verve.core.network import line_states
from verve.core.session import Session, Setup, Take, TakeTrack
from verve.core.takes._differences import differences
from verve.core.words import Fact, level_text

SURPRISE_DB = 3.0
"""Measured and predicted peak further apart than this: something is not as the session says."""


_HEARD_DB = 0.5
"""A change of level smaller than this is no reason to check it again."""


_Peaks = dict[str, tuple[str, float]]
"""By line, its name and its hardest peak."""


def _peaks(setup: Setup, engine: Engine) -> _Peaks:
    table: Remembered[_Peaks] = engine.table("peaks of takes", 16)
    return table.get(
        (setup,),
        lambda: {
            state.line.id: (state.line.name, state.peak_dbfs)
            for state in line_states(setup, engine)
            if state.peak_dbfs is not None
        },
    )


def _changes_db(session: Session, last: Take, engine: Engine) -> dict[str, tuple[str, float]]:
    """By line, its name and what the settings since a take do to its level."""
    before, now = _peaks(last.setup, engine), _peaks(session.setup, engine)
    return {key: (now[key][0], now[key][1] - before[key][1]) for key in now.keys() & before.keys()}


def _louder(session: Session, last: Take, engine: Engine) -> str:
    """What the changed settings did to the levels, as a sentence; empty where they did nothing to them."""
    changes = _changes_db(session, last, engine).values()
    told = sorted((c for c in changes if abs(c[1]) >= _HEARD_DB), key=lambda c: -abs(c[1]))
    if not told:
        return ""
    said = ", ".join(
        f"{name} {abs(by):.1f} dB {'louder' if by > 0.0 else 'quieter'}" for name, by in told[:3]
    )
    return f" That makes {said}."


def _moved(session: Session, last: Take, engine: Engine) -> Finding | None:
    moved = differences(last.setup, session.setup)
    if not moved:
        return None
    backs = tuple(item.back for item in moved if item.back is not None)
    shown = "; ".join(item.words for item in moved[:3])
    more = f"; and {len(moved) - 3} more" if len(moved) > 3 else ""
    one = len(moved) == 1
    return Finding(
        rule="moved_since_take",
        severity="know",
        line=None,
        title=f"{'One setting has' if one else f'{len(moved)} settings have'} moved since {last.name}",
        brief="moved since the last take",
        cost=f"The next take will not match: {shown}{more}.{_louder(session, last, engine)}",
        to_do="Put it back, or check the level and record again with the new settings.",
        offered=Remedy(label="Put it back", changes=backs) if len(backs) == len(moved) else None,
    )


def _clipped(track: TakeTrack, take: Take) -> Finding:
    return Finding(
        rule="take_clipped",
        severity="mend",
        line=track.line,
        title=f"{take.name}: {track.name} clipped",
        brief="clipped in the last take",
        cost=f"{track.clipped_frames} frames are at the end of the scale; the distortion stays.",
        to_do="Lower the gain and record it again.",
    )


def _surprise(track: TakeTrack, take: Take) -> Finding | None:
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if measured is None or predicted is None or abs(measured - predicted) <= SURPRISE_DB:
        return None
    return Finding(
        rule="take_surprises",
        severity="know",
        line=track.line,
        title=f"{take.name}: {track.name} was {abs(measured - predicted):.0f} dB "
        f"{'louder' if measured > predicted else 'quieter'} than computed",
        brief="not as computed",
        cost="Something is not as the session says: a knob, the distance, or the playing.",
        to_do="Compare the settings with the gear, then measure again.",
        facts=(
            Fact(label="Measured", text=level_text(measured, "dBFS"), origin="measured"),
            Fact(label="Predicted", text=level_text(predicted, "dBFS"), origin="computed"),
        ),
    )


def track_advice(track: TakeTrack, worst: Finding | None) -> str:
    """What to change after a rehearsal of a line, whose most urgent finding is `worst`."""
    measured, predicted = track.peak_dbfs.measured, track.peak_dbfs.predicted
    if worst is not None and worst.severity != "know":
        return worst.advice
    if track.clipped_frames:
        return "It clipped: lower the gain and record it again."
    if measured is not None and predicted is not None and abs(measured - predicted) > SURPRISE_DB:
        way = "louder" if measured > predicted else "quieter"
        return f"{abs(measured - predicted):.0f} dB {way} than computed: compare settings and gear."
    return worst.advice if worst is not None else "Nothing: it is as computed."


def findings(session: Session, engine: Engine) -> list[Finding]:
    """What the last take says about now. A take that was redone with other settings is history."""
    if not session.takes:
        return []
    last = session.takes[-1]
    moved = _moved(session, last, engine)
    lines = {line.id for line in session.setup.lines}
    clipped = [t for t in last.tracks if t.line in lines and t.clipped_frames]
    if clipped and moved is not None:
        # What has been turned down since is mended; a new name or a moved pan is not.
        quieter = _changes_db(session, last, engine)
        clipped = [t for t in clipped if quieter.get(t.line, ("", 0.0))[1] > -_HEARD_DB]
    found = [_clipped(track, last) for track in clipped]
    if moved is not None:
        return [*found, moved]
    surprises = [
        _surprise(t, last) for t in last.tracks if t.line in lines and not t.clipped_frames
    ]
    return [*found, *(s for s in surprises if s is not None)]
