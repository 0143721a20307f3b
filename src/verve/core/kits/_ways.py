"""All ways to record one part, side by side: level, noise, room, delay, money and time, with what speaks for each."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from verve.core.catalogue import TAKES, catalogue, source_of, taken_as, takes_for
from verve.core.connections import Problem, Rated, problem_of, rate
from verve.core.kits import _words as words
from verve.core.kits._kits import cheapest
from verve.core.kits._solve import Kit, Pass, models_of
from verve.core.session import Brief, Part, Session
from verve.core.session import Pass as BriefPass
from verve.core.units import SPEED_OF_SOUND_M_PER_S

_SILENT_ROOM_DBA = -60.0
_MINUTES = {"microphone": 6.0, "box": 2.0, "plug": 1.0, "amplifier": 8.0}
"""How long each takes to set up with somebody who has done it before (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One way to record a part.

    unit: dB: the hardest peak above the noise, the room's noise below or above everything else that hisses
    (None where no microphone hears the room), the least room to a ceiling; `late_ms` how much later the air's
    signal arrives than the plug's, None where there are not both; `minutes` to set up, typical
    """

    name: str
    part: Part
    """The part, recorded so."""
    kit: Kit
    inputs: int
    snr_db: float
    headroom_db: float
    room_db: float | None
    late_ms: float | None
    minutes: float
    pros: str
    cons: str
    flaws: str


@dataclass(frozen=True, slots=True, kw_only=True)
class _Wanted:
    name: str
    part: Part
    boxed: bool | None = None
    """Its plug through a box or straight in; None where it has no such choice."""


def _wanted(part: Part) -> Iterator[_Wanted]:
    entries = catalogue()
    for take in takes_for(entries, source_of(part), has_pickup=part.plug is not None):
        taken = taken_as(entries, part, take).model_copy(update={"principle": None})
        if taken.capture in {"plug", "stereo"}:
            for boxed, said in ((False, words.STRAIGHT_IN), (True, words.THROUGH_A_BOX)):
                name = words.DIRECT if take == "plug" else TAKES[take]
                yield _Wanted(name=f"{name}, {said}", part=taken, boxed=boxed)
        else:
            yield _Wanted(name=TAKES[take], part=taken)


def _problem(
    session: Session, wanted: _Wanted, is_cancelled: Callable[[], bool]
) -> tuple[Session, Problem]:
    """One part by itself, with nothing patched: the ways of it that are asked for."""
    item = BriefPass(id="way", name=wanted.name[:80], parts=(wanted.part.id,))
    bare = session.setup.model_copy(update={"lines": (), "links": (), "devices": (), "sources": ()})
    alone = session.model_copy(
        update={"brief": Brief(parts=(wanted.part,), passes=(item,)), "setup": bare}
    )
    problem = problem_of(alone, item, with_more=True, is_cancelled=is_cancelled)
    if wanted.boxed is None:
        return alone, problem
    kept = {
        key: tuple(rated for rated in ways if bool(rated.connection.boxes) == wanted.boxed)
        for key, ways in problem.connections.items()
    }
    return alone, replace(problem, connections=kept)


def _room_db(session: Session, chosen: Sequence[Rated]) -> float | None:
    """How far the room's noise stands above all other noise, where microphones hear it; the worst of them.

    source: derivation, noises of different origin add as powers: the room's is what is less without it
    """
    heard = [rated for rated in chosen if rated.connection.signal.is_air]
    if not heard:
        return None
    room = session.setup.room.model_copy(update={"noise_dba": _SILENT_ROOM_DBA})
    quiet = session.setup.model_copy(update={"room": room})
    found = []
    for here, there in zip(heard, rate(quiet, [r.connection for r in heard]), strict=True):
        if there is None:
            continue
        # In units of the noise without the room.
        ratio = 10.0 ** (max(0.0, there.snr_db - here.snr_db) / 10.0) - 1.0
        found.append(10.0 * math.log10(max(ratio, 1e-6)))
    return max(found, default=None)


def _late_ms(part: Part, chosen: Sequence[Rated]) -> float | None:
    air = [r.connection.signal.distance_m for r in chosen if r.connection.signal.is_air]
    wire = [r for r in chosen if not r.connection.signal.is_air]
    if part.capture != "both" or not air or not wire:
        return None
    return 1000.0 * max(air) / SPEED_OF_SOUND_M_PER_S


def _minutes(part: Part, chosen: Sequence[Rated]) -> float:
    found = 0.0
    amplified = part.sound is not None and part.plug is not None and not source_of(part).is_acoustic
    for rated in chosen:
        connection = rated.connection
        if connection.signal.is_air:
            found += _MINUTES["amplifier" if amplified else "microphone"]
        else:
            found += _MINUTES["plug"] + _MINUTES["box"] * len(connection.boxes)
    return found


def _said(part: Part, chosen: Sequence[Rated]) -> tuple[str, str]:
    """What speaks for a way and what against it, of which no figure tells."""
    signals = [rated.connection.signal for rated in chosen]
    air = [s for s in signals if s.is_air]
    pros: list[str] = []
    cons: list[str] = []
    if air:
        amplified = not source_of(part).is_acoustic
        pros.append(words.PRO_AMPLIFIER if amplified else words.PRO_AIR)
        cons.append(words.CON_AMPLIFIER if amplified else words.CON_AIR)
    else:
        pros.append(words.PRO_WIRE)
        cons.append(words.CON_PICKUP if part.sound is not None else words.CON_WIRE)
    if len(air) > 1:
        pros.append(words.PRO_PAIR)
        cons.append(words.CON_PAIR)
    if air and len(air) < len(signals):
        pros.append(words.PRO_BOTH)
        cons.append(words.CON_BOTH)
    return "; ".join(pros), "; ".join(cons)


def ways_of(
    session: Session, part: Part, *, is_cancelled: Callable[[], bool] = lambda: False
) -> tuple[Way, ...]:
    """Every way to record a part in this room, each with the cheapest that the kit lacks for it.

    What the kit has already costs nothing. Ways that no gear gives are left out, as is all of it for what
    sounds inside the computer.

    raises: CancelledError if it is no longer wanted
    """
    found = []
    people = 1 if part.performer else 0
    for wanted in _wanted(part):
        alone, problem = _problem(session, wanted, is_cancelled)
        if not problem.signals:
            continue
        item = Pass(name=wanted.name, problem=problem, people=max(1, people))
        kit = cheapest(models_of(alone, [item], is_cancelled))
        if kit is None:
            continue
        chosen = list(kit.chosen[wanted.name].values())
        pros, cons = _said(wanted.part, chosen)
        found.append(
            Way(
                name=wanted.name,
                part=wanted.part.model_copy(update={"principle": part.principle}),
                kit=kit,
                inputs=len(chosen),
                snr_db=min(r.snr_db for r in chosen),
                headroom_db=min(
                    r.headroom_db if r.before_db is None else r.before_db for r in chosen
                ),
                room_db=_room_db(alone, chosen),
                late_ms=_late_ms(wanted.part, chosen),
                minutes=_minutes(wanted.part, chosen),
                pros=pros,
                cons=cons,
                flaws="; ".join(dict.fromkeys(r.why for r in chosen if r.why)),
            )
        )
    return tuple(found)
