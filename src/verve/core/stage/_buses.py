"""What can be wrong where several lines meet: each fits alone, together they do not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from verve.core.chain import BusLevel, LineState
from verve.core.findings import Fact, Finding, Remedy, level_text
from verve.core.session import Change
from verve.core.stage._schools import Window


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
            f"powers; if all met in one moment {level_text(bus.worst_dbu, 'dBu')}; it clips at "
            f"{level_text(bus.ceiling_dbu, 'dBu')}",
        ),
        Fact(
            label="On its own meter",
            text=level_text(bus.meter_db, "dB"),
            origin="computed",
            how="the same less the level at which its meter shows 0",
        ),
    ]
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
    over = bus.together_dbu - bus.ceiling_dbu
    if bus.recorder_dbfs is not None:
        over = max(over, bus.recorder_dbfs - target.highest_dbfs)
    return over


def _trims(bus: BusLevel, states: Mapping[str, LineState], down_db: float) -> list[Change]:
    """All trims of a bus lower by as much; none where one is kept, since the rest alone would not do it."""
    found: dict[tuple[str, str], Change] = {}
    for line_id in bus.lines:
        for hop in states[line_id].route.hops:
            trim = hop.controls.get("gain_db")
            if hop.device.id != bus.device or trim is None:
                continue
            if trim.is_kept:
                return []
            value = trim.clamped(round(float(trim.value or 0.0) - down_db, 1))
            found[trim.owner, trim.channel] = Change(
                owner=trim.owner, channel=trim.channel, name=trim.name, value=value
            )
    return list(found.values())


def bus_findings(
    states: Sequence[LineState], windows: Mapping[str, Window], buses: Sequence[BusLevel]
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
        if any(_is_loud_alone(state, windows[state.line.id]) for state in followed):
            continue
        # Both sides of a mixer hang on the same trims: the louder side says what both need.
        told.add(bus.device)
        clips = bus.together_dbu > bus.ceiling_dbu or (bus.recorder_dbfs or -1.0) > 0.0
        trims = tuple(_trims(bus, by_id, excess + 0.5))
        advice = f"Turn the trims of its channels down by {excess + 0.5:.1f} dB, all alike."
        if not trims:
            advice = "You keep a trim of it: let go, or set all gains around it."
        found.append(
            Finding(
                rule="bus_too_loud",
                severity="stop" if clips else "mend",
                step="stage",
                line=bus.lines[0],
                also_lines=bus.lines[1:],
                title=f"{len(bus.lines)} lines are too loud together on {bus.device_name}",
                brief=f"{excess:.1f} dB too loud together",
                cost="Each fits alone; when all play at their hardest, the sum "
                + ("clips." if clips else "comes too close to clipping."),
                advice=advice,
                remedy=Remedy(label="Turn the trims down", changes=trims) if trims else None,
                size_db=excess,
                facts=bus_facts(bus),
            )
        )
    return found


def _is_loud_alone(state: LineState, target: Window) -> bool:
    return state.peak_dbfs is None or state.peak_dbfs > target.highest_dbfs + 0.05
