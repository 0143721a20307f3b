"""What lines that meet in a mixer are together: level on its buses, on its meter, at the recorder."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeAlias

from verve.core.chain._staging import pan_gain_db
from verve.core.chain._state import LineState
from verve.core.session import FADER_MIN_DB, NOTHING_SET, Device, Hop, MixerFigures
from verve.core.units import db_to_ratio, power_to_db, ratio_to_db

SIDES = ("left", "right")


_Passing: TypeAlias = tuple[LineState, Hop]
"""A line with the place where it passes a mixer."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BusLevel:
    """One main output of a mixer with all its lines playing their hardest.

    `together_dbu` adds independent lines as powers, `worst_dbu` as if all peaks met in one moment;
    `meter_db` is what the mixer's own meter shows, `recorder_dbfs` what arrives, None where nothing does.
    """

    device: str
    device_name: str
    side: str
    lines: tuple[str, ...]
    together_dbu: float
    worst_dbu: float
    ceiling_dbu: float
    meter_db: float
    recorder_dbfs: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Feed:
    state: LineState
    hop: Hop
    behind_trim_dbu: float

    def at_dbu(self, side: str, main_db: float) -> float | None:
        """Its hardest peak at one main output; None where it does not go."""
        fader_db, pan = self.hop.controls["fader_db"].value, self.hop.controls["pan"].value
        assert isinstance(fader_db, float)
        assert isinstance(pan, float)
        across_db = pan_gain_db(pan, side)
        if fader_db <= FADER_MIN_DB or across_db <= FADER_MIN_DB:
            return None
        return self.behind_trim_dbu + fader_db + across_db + main_db


def _feeds(states: Sequence[LineState]) -> dict[str, dict[str, _Feed]]:
    """By mixer and channel: two lines that follow one channel to both sides are there once."""
    found: dict[str, dict[str, _Feed]] = {}
    for state in states:
        if state.staged is None or state.levels is None:
            continue
        for hop in state.route.hops:
            if (hop.out_port or "").startswith("group."):
                continue
            at = state.staged.index(hop.device.id, "channel")
            peak = None if at is None else state.levels.open_peak_dbu[at]
            if peak is not None:
                feed = _Feed(state=state, hop=hop, behind_trim_dbu=peak)
                found.setdefault(hop.device.id, {}).setdefault(hop.in_port, feed)
    return found


def bus_levels(states: Sequence[LineState]) -> tuple[BusLevel, ...]:
    """Every main output that any line goes to.

    source: derivation, independent signals add as powers, coinciding peaks as amplitudes
    """
    found: list[BusLevel] = []
    passing: dict[str, list[_Passing]] = {}
    for state in states:
        for hop in state.route.hops:
            if isinstance(hop.device.figures, MixerFigures):
                passing.setdefault(hop.device.id, []).append((state, hop))
    for feeds in _feeds(states).values():
        device = next(iter(feeds.values())).hop.device
        for side in SIDES:
            level = _bus(device, side, list(feeds.values()), passing[device.id])
            if level is not None:
                found.append(level)
    return tuple(found)


def _bus(
    device: Device, side: str, feeds: Sequence[_Feed], passing: Sequence[_Passing]
) -> BusLevel | None:
    figures = device.figures
    assert isinstance(figures, MixerFigures)
    main_db = device.settings.get("main", NOTHING_SET).fader_db or 0.0
    peaks = [(feed, peak) for feed in feeds if (peak := feed.at_dbu(side, main_db)) is not None]
    if not peaks:
        return None
    together = power_to_db(math.fsum(db_to_ratio(peak) ** 2 for _, peak in peaks))
    worst = ratio_to_db(math.fsum(db_to_ratio(peak) for _, peak in peaks))
    assert together is not None
    assert worst is not None
    return BusLevel(
        device=device.id,
        device_name=device.name,
        side=side,
        lines=tuple(_heard_at(side, peaks, passing)),
        together_dbu=together,
        worst_dbu=worst,
        ceiling_dbu=figures.max_output_dbu,
        meter_db=together - figures.meter_zero_dbu,
        recorder_dbfs=_recorded(side, together, passing),
    )


def _heard_at(
    side: str, peaks: Sequence[tuple[_Feed, float]], passing: Sequence[_Passing]
) -> list[str]:
    """Lines of the channels that go there, those first that are followed to this side."""
    ports = {feed.hop.in_port for feed, _ in peaks}
    followed: list[str] = []
    others: list[str] = []
    for state, hop in passing:
        if hop.in_port in ports:
            target = followed if hop.out_port == f"main.{side}" else others
            target.append(state.line.id)
    return followed + others


def _recorded(side: str, together_dbu: float, passing: Sequence[_Passing]) -> float | None:
    """The sum at the recorder: behind the bus all its lines go one way, so one line tells it."""
    for state, hop in passing:
        if hop.out_port != f"main.{side}":
            continue
        at = state.index_of(hop.device.id, "bus")
        if at is None or state.levels is None or state.peak_dbfs is None:
            continue
        own = state.levels.open_peak_dbu[at]
        if own is not None:
            return state.peak_dbfs + together_dbu - own
    return None
