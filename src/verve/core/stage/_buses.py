"""What can be wrong where several lines meet: each fits alone, together they do not."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from verve.core.findings import Finding, Later, Proposal, Remedy
from verve.core.gain import Window
from verve.core.network import BusLevel, LineState
from verve.core.session import Change
from verve.core.stage._judge import GainJudge, change_words
from verve.core.words import Fact, level_text


def bus_facts(bus: BusLevel) -> tuple[Fact, ...]:
    """A bus in numbers: all its lines together, what its meter shows, what is recorded."""
    count = len(bus.lines)
    where = f"{bus.device_name}, {bus.side}"
    found = [
        Fact(
            label=f"{where}, together",
            text=level_text(bus.together_dbu, "dBu"),
            origin="computed",
            how=f"hardest peaks of {count} {'line' if count == 1 else 'lines'} at its output, added as "
            f"powers; if all met in one moment {level_text(bus.worst_dbu, 'dBu')}"
            + (
                ""
                if bus.ceiling_dbu is None
                else f"; it clips at {level_text(bus.ceiling_dbu, 'dBu')}"
            ),
        )
    ]
    if bus.meter_db is not None:
        found.append(
            Fact(
                label="On its own meter",
                text=level_text(bus.meter_db, "dB"),
                origin="computed",
                how="the same less the level at which its meter shows 0",
            )
        )
    if bus.recorder_dbfs is not None:
        found.append(
            Fact(
                label="Together at the recorder",
                text=level_text(bus.recorder_dbfs, "dBFS"),
                origin="computed",
                how="the line’s peak there, plus what the other lines of the bus add",
            )
        )
    return tuple(found)


def _excess_db(bus: BusLevel, target: Window) -> float:
    """How much too loud a bus is: at its own ceiling, or above the window of its lines."""
    over = -math.inf if bus.ceiling_dbu is None else bus.together_dbu - bus.ceiling_dbu
    if bus.recorder_dbfs is not None:
        over = max(over, bus.recorder_dbfs - target.highest_dbfs)
    return over


def bus_findings(
    states: Sequence[LineState],
    windows: Mapping[str, Window],
    buses: Sequence[BusLevel],
    judge: GainJudge,
) -> list[Finding]:
    """Buses of two or more lines that are too loud together while every line fits alone."""
    by_id = {state.line.id: state for state in states}
    found: list[Finding] = []
    told: set[str] = set()
    for bus in sorted(buses, key=lambda b: -b.together_dbu):
        if len(bus.lines) < 2 or bus.device in told or any(i not in by_id for i in bus.lines):
            continue
        followed = [by_id[i] for i in bus.lines]
        excess = _excess_db(bus, windows[bus.lines[0]])
        if excess <= 0.05:
            continue
        clips = (bus.ceiling_dbu is not None and bus.together_dbu > bus.ceiling_dbu) or (
            bus.recorder_dbfs or -1.0
        ) > 0.0
        # What a line does alone is said of it; worse is only said of them together.
        if any(_clips_alone(state) for state in followed) or (
            not clips and any(_is_loud_alone(s, windows[s.line.id]) for s in followed)
        ):
            continue
        # Both sides of a mixer hang on the same trims: the louder side says what both need.
        told.add(bus.device)
        proposal = Later(lambda followed=followed: _proposal(followed, judge))  # type: ignore[misc]
        found.append(
            Finding(
                rule="bus_too_loud",
                severity="stop" if clips else "mend",
                line=bus.lines[0],
                also_lines=bus.lines[1:],
                title=f"{len(bus.lines)} lines are too loud together on {bus.device_name}",
                brief=f"{excess:.1f} dB too loud together",
                cost="None of them clips alone; when all play at their hardest, the sum "
                + ("clips." if clips else "comes too close to clipping."),
                later=proposal,
                size_db=excess,
                facts=bus_facts(bus),
            )
        )
    return found


def _proposal(states: Sequence[LineState], judge: GainJudge) -> Proposal:
    """What the solver would set on all lines of a bus."""
    changes: dict[tuple[str, str, str], Change] = {}
    words = []
    for state in states:
        own = judge.changes(state.line.id)
        said = change_words(state, own)
        if said:
            words.append(f"{state.line.name}: {said}")
        changes |= {(c.owner, c.channel, c.name): c for c in own}
    if not changes:
        return Proposal(advice="You keep a trim of it: let go, or set all gains around it.")
    remedy = Remedy(label="Turn the trims down", changes=tuple(changes.values()))
    return Proposal(advice=f"Turn the trims down: {'; '.join(words)}.", remedy=remedy)


def _clips_alone(state: LineState) -> bool:
    if state.levels is None:
        return False
    return any(h is not None and h < 0.0 for h in state.levels.headroom_db)


def _is_loud_alone(state: LineState, target: Window) -> bool:
    return state.peak_dbfs is None or state.peak_dbfs > target.highest_dbfs + 0.05
