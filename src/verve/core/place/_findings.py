"""What is wrong with where things stand: bleed, pairs that cancel, too much room.

Judged is what somebody has placed. Where things usually stand is good enough to draw, and to move, but nothing to be
blamed for.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from verve.core.acoustics import SumOfPaths, delay_ms, loop_gain_db, margin_db
from verve.core.air import Hearing, PlacedMicrophone, PlacedSource, hearing_of, positions_of
from verve.core.errors import EditError
from verve.core.findings import Finding, Later, Proposal, Remedy
from verve.core.network import LineState
from verve.core.place import _words as words
from verve.core.place._cautions import cautions
from verve.core.place._moves import Key, put
from verve.core.place._table import path_facts
from verve.core.session import (
    GIVES_BACK,
    HEADPHONES,
    Aim,
    Change,
    Line,
    Session,
    place_microphone,
    split_port,
)
from verve.core.words import fill

BLEED_LIMIT_DB = 6.0
"""With its direct sound less below the wanted source than this, another one is as good as recorded with it; typical.

What the room carries is another matter: no microphone in it is without, and it makes no sum hollow.
"""
HOWLS_DB, RINGS_DB = 6.0, 12.0
"""With less margin than this by mean levels a microphone will probably howl, or may ring; typical."""
_APART_M = 0.05
_NEAREST_M = 0.1
_CLOSER = (1.0, 0.8, 0.63, 0.5, 0.4, 0.32, 0.25)
_TURNS_DEG = (0.0, 15.0, -15.0, 30.0, -30.0, 45.0, -45.0)
_FARTHER = (1.25, 1.5, 1.75, 2.0, 2.5, 3.0, 4.0)
_TURN_EFFORT = 60.0
"""So many degrees are as much trouble as coming twice as near."""


def findings(session: Session, states: Sequence[LineState], hearing: Hearing) -> list[Finding]:
    """Of everything that has been placed."""
    firsts = dict(_lines(states))
    lines = {mic: state.line for mic, state in firsts.items()}
    bleeds: dict[frozenset[str], Finding] = {}
    found: list[Finding] = []
    for number, mic in enumerate(hearing.positions.microphones):
        line = lines.get(mic.id)
        if line is None:
            continue
        found += cautions(session, hearing, number, firsts[mic.id])
        if (howls := _may_howl(hearing, number, line)) is not None:
            found.append(howls)
        if (far := _far(hearing, number, line)) is not None:
            found.append(far)
        if (bleed := _bleed(session, hearing, number, line, lines)) is not None:
            # Of a pair the side that is worse off is told: what helps it moves both.
            key = frozenset({bleed.line or "", *bleed.also_lines})
            if key not in bleeds or bleed.size_db > bleeds[key].size_db:
                bleeds[key] = bleed
    return [*bleeds.values(), *found, *_pairs(hearing, lines)]


def _lines(states: Sequence[LineState]) -> Iterator[tuple[str, LineState]]:
    """The first signal of each microphone."""
    known: set[str] = set()
    for state in states:
        for step in state.route.steps[:1]:
            key = f"{step.owner}:{step.in_port}"
            if step.capsule is not None and key not in known:
                known.add(key)
                yield key, state


def _wanted(hearing: Hearing, number: int) -> PlacedSource:
    return hearing.positions.sources[hearing.wanted[number][0]]


def _loudest_other(hearing: Hearing, number: int) -> tuple[int, float] | None:
    """The source that bleeds most of those that have been placed, and how far it is below the wanted one."""
    below = [
        (hearing.direct_below_db(number, other), other)
        for other, source in enumerate(hearing.positions.sources)
        if source.is_given
        and source.thing is None
        and other not in hearing.wanted[number]
        # Nobody can stand apart from oneself.
        and (source.performer is None or source.performer != _wanted(hearing, number).performer)
    ]
    if not below:
        return None
    db, other = min(below)
    return (other, db) if math.isfinite(db) else None


def _bleed(
    session: Session, hearing: Hearing, number: int, line: Line, lines: dict[str, Line]
) -> Finding | None:
    mic, wanted = hearing.positions.microphones[number], _wanted(hearing, number)
    loudest = _loudest_other(hearing, number) if wanted.is_given else None
    if loudest is None or loudest[1] >= BLEED_LIMIT_DB:
        return None
    other, below_db = loudest
    source = hearing.positions.sources[other]
    said = words.ABOVE_WANTED if below_db < 0.0 else words.BELOW_WANTED
    partner = _partner(hearing, mic, line, lines)
    return Finding(
        rule="bleed" if partner is None else "pair_bleed",
        severity="mend",
        line=line.id,
        also_lines=() if partner is None else (lines[partner.id].id,),
        words=words.BLEED_INTO,
        places={
            "source": source.name,
            "microphone": mic.name,
            "wanted": wanted.name,
            "below": fill(said, db=abs(below_db), wanted=wanted.name),
        },
        size_db=BLEED_LIMIT_DB - below_db,
        facts=path_facts(hearing, number, other, float(session.setup.audio.sample_rate_hz)),
        later=Later(lambda: _nearer(session, hearing, number, other, partner)),
    )


def _partner(
    hearing: Hearing, mic: PlacedMicrophone, line: Line, lines: dict[str, Line]
) -> PlacedMicrophone | None:
    """The other microphone of a stereo pair on the same source."""
    if line.pair is None:
        return None
    return next(
        (
            one
            for one in hearing.positions.microphones
            if one.id != mic.id
            and one.wants[0] == mic.wants[0]
            and one.id in lines
            and lines[one.id].pair == line.pair
        ),
        None,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Try:
    effort: float
    distance_m: float
    turn_deg: float
    session: Session
    below_db: float


def _tries(session: Session, number: int, partner: PlacedMicrophone | None) -> Iterator[_Try]:
    """Nearer and turned, what is least trouble first; both microphones of a pair are moved alike, not turned."""
    hearing = hearing_of(positions_of(session.setup))
    mic, wanted = hearing.positions.microphones[number], _wanted(hearing, number)
    assert wanted.figures is not None
    least_m = max(_NEAREST_M, wanted.figures.extent_m / 2.0)
    turns = _TURNS_DEG if partner is None and mic.capsule.pattern is not None else (0.0,)
    efforts = sorted(
        (-math.log2(closer) + abs(turn) / _TURN_EFFORT, closer, turn)
        for closer in _CLOSER
        for turn in turns
        if mic.distance_m * closer >= least_m or closer == 1.0
    )
    for effort, closer, turn in efforts[1:]:
        # To a whole centimetre: that is how people put things.
        distance = mic.distance_m if closer == 1.0 else round(mic.distance_m * closer, 2)
        now = -mic.angle_deg if mic.aim.turns_left else mic.angle_deg
        angle = now + turn
        if abs(angle) > 180.0 or distance < least_m:
            continue
        try:
            changed = _put(session, mic, mic.aim, distance, angle if turn else None)
            if partner is not None:
                changed = _put(changed, partner, partner.aim, distance, None)
        except EditError:
            continue
        found = hearing_of(positions_of(changed.setup))
        worst = _loudest_other(found, number)
        below = math.inf if worst is None else worst[1]
        if partner is not None:
            theirs = found.positions.microphones.index(
                next(m for m in found.positions.microphones if m.id == partner.id)
            )
            beside = _loudest_other(found, theirs)
            below = min(below, math.inf if beside is None else beside[1])
        yield _Try(
            effort=effort, distance_m=distance, turn_deg=angle, session=changed, below_db=below
        )


def _put(
    session: Session, mic: PlacedMicrophone, aim: Aim, distance_m: float, angle: float | None
) -> Session:
    if angle is not None:
        aim = aim.model_copy(update={"turns_left": angle < 0.0})
    return place_microphone(
        session, mic.id, aim, distance_m=distance_m,
        angle_deg=None if angle is None else abs(angle),
    )  # fmt: skip


def _nearer(
    session: Session,
    hearing: Hearing,
    number: int,
    other: int,
    partner: PlacedMicrophone | None,
) -> Proposal:
    mic, wanted = hearing.positions.microphones[number], _wanted(hearing, number)
    source = hearing.positions.sources[other]
    by_hand = fill(words.APART, source=source.name, wanted=wanted.name)
    now = _loudest_other(hearing, number)
    assert now is not None
    best: _Try | None = None
    for one in _tries(session, number, partner):
        if one.below_db >= BLEED_LIMIT_DB:
            best = one
            break
        if one.below_db > now[1] + 1.0 and (best is None or one.below_db > best.below_db + 0.5):
            best = one
    if best is None or best.below_db < BLEED_LIMIT_DB:
        apart = _apart(session, hearing, number, other)
        if apart is not None:
            return apart
    if best is None:
        return Proposal(advice=by_hand)
    turns = abs(best.turn_deg) != mic.angle_deg
    side = words.TO_LEFT if best.turn_deg < 0.0 else words.TO_RIGHT
    turned = fill(words.AND_TURNED, turn_deg=abs(best.turn_deg), side=side) if turns else ""
    is_moved = best.distance_m != mic.distance_m
    advice = fill(
        words.CLOSER if is_moved else words.TURN,
        microphone=mic.name, wanted=wanted.name, distance_cm=best.distance_m * 100.0,
        turned=turned, turn_deg=abs(best.turn_deg), side=side, gain_db=best.below_db - now[1],
    )  # fmt: skip
    label = words.MOVE_MICROPHONE if is_moved else words.TURN_MICROPHONE
    remedy = Remedy(
        label=words.MOVE_BOTH if partner is not None else label,
        changes=_changes(mic, partner, best, turns=turns),
        placement=best.session.setup.placement,
    )
    return Proposal(advice=advice, remedy=remedy, by_hand=by_hand)


def _apart(session: Session, hearing: Hearing, number: int, other: int) -> Proposal | None:
    """The other player farther away, straight from this microphone; None where no place in the room does it."""
    mic, source = hearing.positions.microphones[number], hearing.positions.sources[other]
    key = Key("source", source.id)
    right, away, _ = mic.at.to(source.at)
    before = _worst(hearing)
    for factor in _FARTHER:
        at = (round(mic.at.x_m + right * factor, 1), round(mic.at.y_m + away * factor, 1))
        try:
            changed = put(session, key, *at)
        except EditError:
            continue
        found = hearing_of(positions_of(changed.setup))
        after = _worst(found)
        # Who goes away from one microphone must not come too near to another.
        if after[mic.id] >= BLEED_LIMIT_DB and all(
            after[one] >= min(before[one], BLEED_LIMIT_DB) for one in after
        ):
            moved = found.positions.sources[other].at
            metres = math.dist((moved.x_m, moved.y_m), (source.at.x_m, source.at.y_m))
            wanted = _wanted(hearing, number)
            return Proposal(
                advice=fill(
                    words.FARTHER,
                    source=source.name,
                    wanted=wanted.name,
                    metres=metres,
                    gain_db=after[mic.id] - before[mic.id],
                ),
                remedy=Remedy(
                    label=fill(words.MOVE_SOURCE, source=source.name),
                    placement=changed.setup.placement,
                ),
                by_hand=fill(words.APART, source=source.name, wanted=wanted.name),
            )
    return None


def _worst(hearing: Hearing) -> dict[str, float]:
    """Of each microphone how far the loudest other source is below the wanted one."""
    found = {}
    for number, mic in enumerate(hearing.positions.microphones):
        loudest = _loudest_other(hearing, number)
        found[mic.id] = math.inf if loudest is None else loudest[1]
    return found


def _changes(
    mic: PlacedMicrophone, partner: PlacedMicrophone | None, best: _Try, *, turns: bool
) -> tuple[Change, ...]:
    found = []
    for one in (mic, partner):
        if one is None:
            continue
        owner, port = split_port(one.id)
        found.append(Change(owner=owner, channel=port, name="distance_m", value=best.distance_m))
        if turns and one is mic:
            found.append(
                Change(owner=owner, channel=port, name="angle_deg", value=abs(best.turn_deg))
            )
    return tuple(found)


def _pairs(hearing: Hearing, lines: dict[str, Line]) -> Iterator[Finding]:
    """Pairs on one source whose microphones are not equally far from it."""
    done: set[str] = set()
    for mic in hearing.positions.microphones:
        line = lines.get(mic.id)
        partner = None if line is None else _partner(hearing, mic, line, lines)
        if line is None or partner is None or mic.id in done or partner.id in done:
            continue
        done |= {mic.id, partner.id}
        apart = abs(mic.distance_m - partner.distance_m)
        if apart < _APART_M or not (mic.is_given or partner.is_given):
            continue
        nearer, further = sorted((mic, partner), key=lambda one: one.distance_m)
        late_ms = delay_ms(apart)
        null_hz = SumOfPaths(delay_ms=late_ms, level_difference_db=0.0).first_null_hz
        assert null_hz is not None
        owner, port = split_port(further.id)
        wanted = hearing.positions.source(mic.wants[0])
        assert wanted is not None
        yield Finding(
            rule="pair_arrival",
            severity="mend",
            line=lines[further.id].id,
            also_lines=(lines[nearer.id].id,),
            words=words.PAIR_ARRIVAL,
            places={
                "first": lines[mic.id].name,
                "second": lines[partner.id].name,
                "further": further.name,
                "wanted": wanted.name,
                "apart_cm": apart * 100.0,
                "delay_ms": late_ms,
                "null_hz": null_hz,
                "distance_cm": nearer.distance_m * 100.0,
            },
            edits=(Change(owner=owner, channel=port, name="distance_m", value=nearer.distance_m),),
            size_db=20.0 * math.log10(further.distance_m / nearer.distance_m),
        )


def _may_howl(hearing: Hearing, number: int, line: Line) -> Finding | None:
    """A loudspeaker that gives back what this microphone hears, too loud beside what it is there for.

    What it gives at a metre is taken as what it gives when the wanted source plays: then its margin to feedback is
    how far below that it comes back, less 3 dB for each doubling of open microphones.
    """
    open_microphones = len(hearing.positions.microphones)
    worst: tuple[float, PlacedSource] | None = None
    for other, source in enumerate(hearing.positions.sources):
        if source.thing is None or source.thing.kind not in GIVES_BACK - HEADPHONES:
            continue
        margin = margin_db(
            loop_gain_db(-float(hearing.bleed_db[number, other]), 0.0, open_microphones)
        )
        if margin is not None and math.isfinite(margin) and (worst is None or margin < worst[0]):
            worst = (margin, source)
    if worst is None or worst[0] >= RINGS_DB:
        return None
    margin, source = worst
    mic = hearing.positions.microphones[number]
    return Finding(
        rule="may_howl",
        severity="mend",
        line=line.id,
        words=words.MAY_HOWL,
        places={
            "loudspeaker": source.name,
            "microphone": mic.name,
            "wanted": _wanted(hearing, number).name,
            "margin_db": margin,
            "less_db": RINGS_DB - margin,
            "chance": words.WILL_HOWL if margin < HOWLS_DB else words.MIGHT_RING,
        },
        size_db=RINGS_DB - margin,
    )


def _far(hearing: Hearing, number: int, line: Line) -> Finding | None:
    """A microphone that hears more of the room than of what it is there for, in a room that is known."""
    mic, own = hearing.positions.microphones[number], hearing.wanted[number][0]
    wanted, room = hearing.positions.sources[own], hearing.positions.room
    path = hearing.path(number, own)
    if not wanted.is_given or not room.is_decay_known or not room.is_size_known:
        return None
    if path.direct_db is None or path.room_db is None or path.direct_db >= path.room_db:
        return None
    over_db = path.room_db - path.direct_db
    return Finding(
        rule="far_in_room",
        severity="know",
        line=line.id,
        words=words.FAR_IN_ROOM,
        places={
            "microphone": mic.name,
            "wanted": wanted.name,
            "distance_cm": mic.distance_m * 100.0,
            "over_db": over_db,
            "half_cm": mic.distance_m * 100.0 * 10.0 ** (-over_db / 20.0),
        },
        size_db=over_db,
    )
