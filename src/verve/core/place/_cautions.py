"""What is wrong with how a microphone stands before its own source: side and breath; and headphones that leak."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Final

from verve.core.air import Hearing, PlacedMicrophone, PlacedSource, share_of
from verve.core.findings import Finding, Later, Proposal, Remedy
from verve.core.kind import NOTHING_SET
from verve.core.network import LineState
from verve.core.place import _words as words
from verve.core.session import (
    HEADPHONES,
    Change,
    Session,
    Thing,
    ThingKind,
    change_thing,
    place_microphone,
    split_port,
)
from verve.core.words import fill

WRONG_SIDE_DB: Final = -9.0
"""So far below its axis a microphone hears its source on a side that is not meant for it; typical."""
BREATH_M, BREATH_DEG = 0.2, 25.0
"""So near and so straight before a mouth breath meets the microphone; typical."""
LEAK_LIMIT_DB: Final = 40.0
"""What is less below the wanted source than this is heard in its pauses once the take is raised; typical."""
_SOFTER_DB = 10.0
_TIGHTER: Final[dict[ThingKind, ThingKind]] = {
    "open_headphones": "closed_headphones",
    "closed_headphones": "in_ears",
}


def cautions(
    session: Session, hearing: Hearing, number: int, state: LineState
) -> Iterator[Finding]:
    """Of one microphone, whose own source has been placed."""
    mic = hearing.positions.microphones[number]
    wanted = hearing.positions.sources[hearing.wanted[number][0]]
    if not wanted.is_given:
        return
    for found in (
        _wrong_side(mic, wanted, state),
        _plosives(session, hearing, number, state),
        _leak(session, hearing, number, state),
    ):
        if found is not None:
            yield found


def _wrong_side(mic: PlacedMicrophone, wanted: PlacedSource, state: LineState) -> Finding | None:
    """One that hears its source where its pattern is nearly deaf."""
    share = share_of(mic)
    heard = abs(share + (1.0 - share) * math.cos(math.radians(mic.angle_deg)))
    below_db = 20.0 * math.log10(max(heard, 1e-3))
    if below_db > WRONG_SIDE_DB:
        return None
    owner, port = split_port(mic.id)
    return Finding(
        rule="wrong_side",
        severity="mend",
        line=state.line.id,
        words=words.WRONG_SIDE,
        places={
            "microphone": mic.name,
            "wanted": wanted.name,
            "angle_deg": mic.angle_deg,
            "below_db": -below_db,
            "side": words.LIVE[mic.capsule.addressed_from],
        },
        edits=(Change(owner=owner, channel=port, name="angle_deg", value=0.0),),
        size_db=-below_db,
    )


def _plosives(session: Session, hearing: Hearing, number: int, state: LineState) -> Finding | None:
    """A mouth that breathes straight into a microphone without anything between."""
    mic = hearing.positions.microphones[number]
    wanted = hearing.positions.sources[hearing.wanted[number][0]]
    is_voice = wanted.figures is not None and wanted.figures.player == "voice"
    aside = float(hearing.off_axis_deg[number, hearing.wanted[number][0]])
    if not is_voice or mic.aim.has_shield or _has_foam(session, mic):
        return None
    if mic.distance_m >= BREATH_M or aside >= BREATH_DEG:
        return None
    shielded = mic.aim.model_copy(update={"has_shield": True})

    def shield() -> Proposal:
        after = place_microphone(session, mic.id, shielded)
        advice = fill(words.PLOSIVES_ADVICE, microphone=mic.name)
        remedy = Remedy(label=words.SHIELD_IS_UP, placement=after.setup.placement)
        return Proposal(advice=advice, remedy=remedy, by_hand=advice)

    return Finding(
        rule="plosives",
        severity="know",
        line=state.line.id,
        words=words.PLOSIVES,
        places={
            "microphone": mic.name,
            "wanted": wanted.name,
            "distance_cm": mic.distance_m * 100.0,
        },
        size_db=20.0 * math.log10(BREATH_M / mic.distance_m),
        later=Later(shield),
    )


def _has_foam(session: Session, mic: PlacedMicrophone) -> bool:
    owner, port = split_port(mic.id)
    device = next(one for one in session.setup.devices if one.id == owner)
    return bool(device.settings.get(port, NOTHING_SET).foam)


def _leak(session: Session, hearing: Hearing, number: int, state: LineState) -> Finding | None:
    """Headphones that are heard above the noise, in pauses or under soft passages."""
    worst = _loudest_leak(hearing, number)
    if worst is None or worst[0] >= LEAK_LIMIT_DB:
        return None
    below_db, source = worst
    above_db = above_noise_db(state, below_db)
    thing = source.thing
    assert thing is not None
    if above_db is None or above_db <= 0.0:
        return None
    mic = hearing.positions.microphones[number]
    wanted = hearing.positions.sources[hearing.wanted[number][0]]
    return Finding(
        rule="leak",
        severity="mend",
        line=state.line.id,
        words=words.LEAK,
        places={
            "headphones": source.name,
            "microphone": mic.name,
            "wanted": wanted.name,
            "below_db": below_db,
            "above_db": above_db,
        },
        size_db=min(LEAK_LIMIT_DB - below_db, above_db),
        later=Later(lambda: _tighter(session, thing)),
    )


def above_noise_db(state: LineState, below_wanted_db: float) -> float | None:
    """How far above a line's A-weighted noise something is that is so far below its source; None without a level.

    Both as means: the source's typical playing less its crest factor.
    """
    levels = state.levels
    if levels is None or levels.snr_db is None:
        return None
    mean_above = levels.snr_db - state.below_hardest_db("typical") - state.crest_db
    return mean_above - below_wanted_db


def _loudest_leak(hearing: Hearing, number: int) -> tuple[float, PlacedSource] | None:
    found = [
        (float(hearing.bleed_db[number, other]), source)
        for other, source in enumerate(hearing.positions.sources)
        if source.thing is not None and source.thing.kind in HEADPHONES and source.thing.is_on
    ]
    return min(found, key=lambda one: one[0], default=None)


def _tighter(session: Session, thing: Thing) -> Proposal:
    """Those that hold more back; where there are none, softer."""
    kind = _TIGHTER.get(thing.kind)
    if kind is None:
        update: dict[str, object] = {"level_dba": max(0.0, thing.level_dba - _SOFTER_DB)}
        advice = fill(words.LEAK_SOFTER, headphones=thing.name, less_db=_SOFTER_DB)
        label = words.TURN_DOWN
    else:
        update = {"kind": kind, "name": words.THING_NAMES[kind]}
        advice = fill(
            words.LEAK_TIGHTER, headphones=thing.name, others=words.THING_NAMES[kind].lower()
        )
        label = fill(words.TAKE_OTHERS, others=words.THING_NAMES[kind].lower())
    changed = change_thing(session, thing.model_copy(update=update))
    return Proposal(
        advice=advice, remedy=Remedy(label=label, placement=changed.setup.placement), by_hand=advice
    )
