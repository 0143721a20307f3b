"""The bleed table: every microphone, every source, and what each cell says."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from verve.core.acoustics import Point, SumOfPaths, distance_factor
from verve.core.air import (
    SWALLOWED,
    Hearing,
    Path,
    PlacedMicrophone,
    PlacedSource,
    Positions,
    reflections,
)
from verve.core.line import PRESSURE_SHARE
from verve.core.place import _words as words
from verve.core.place._moves import Key
from verve.core.session import GIVES_BACK, HEADPHONES, Furnishing, Session, split_port
from verve.core.words import Fact, capital, db_text, fill, number

Grade = Literal["louder", "strong", "audible", "faint", "clean"]
_GRADES: tuple[tuple[float, Grade], ...] = (
    (0.0, "louder"), (6.0, "strong"), (12.0, "audible"), (20.0, "faint"),
)  # fmt: skip
"""Typical: up to how many decibels below the wanted source another one counts as that."""
_MOST_REFLECTIONS = 3
BAD: frozenset[Grade] = frozenset({"louder", "strong"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """One source in one microphone, as the table shows it."""

    text: str
    short: str
    """The same where there is no head above it."""
    said: str
    grade: Grade | None
    is_wanted: bool


def grade_of(below_db: float) -> Grade:
    """How present a source is that is so far below the wanted one."""
    return next((grade for limit, grade in _GRADES if below_db < limit), "clean")


def cell_of(hearing: Hearing, microphone: int, source: int) -> Cell:
    """What stands in one cell."""
    one = hearing.positions.sources[source]
    mic = hearing.positions.microphones[microphone]
    if source in hearing.wanted[microphone]:
        balance = None
        if source != hearing.wanted[microphone][0]:
            balance = hearing.balance_db(microphone, source)
        text = words.WANTED if balance is None else db_text(balance, 0)
        said = fill(words.PATH_TITLE, source=one.name, microphone=mic.name)
        return Cell(text=text, short=text, said=f"{said}: {text}", grade=None, is_wanted=True)
    below = float(hearing.bleed_db[microphone, source])
    if not math.isfinite(below):
        said = f"{one.name}: {words.OFF}"
        return Cell(text=words.OFF, short=words.OFF, said=said, grade=None, is_wanted=False)
    grade = grade_of(below)
    text = fill(words.LOUDER, db=-below) if below <= -0.5 else fill(words.BELOW, db=below)
    short = text if below <= -0.5 else fill(words.BELOW_IT, db=below)
    if grade == "strong":
        text = f"{text}, {words.GRADE_NAMES[grade]}"
    title = fill(words.PATH_TITLE, source=one.name, microphone=mic.name)
    said = fill(words.SAID[grade], db=abs(below))
    return Cell(text=text, short=short, said=f"{title}: {said}", grade=grade, is_wanted=False)


def own_microphone(hearing: Hearing, source: int) -> int | None:
    """The first microphone that is there for a source; None without one."""
    return next((m for m, wanted in enumerate(hearing.wanted) if source in wanted), None)


def mixed(hearing: Hearing, microphone: int, source: int) -> SumOfPaths | None:
    """A source in its own microphone and in this one, mixed; None for its own one, or without one."""
    own = own_microphone(hearing, source)
    if own is None or own == microphone:
        return None
    return hearing.sum_with(microphone, own, source)


def path_title(hearing: Hearing, microphone: int, source: int) -> str:
    """Which cell it is."""
    path = hearing.path(microphone, source)
    return fill(words.PATH_TITLE, source=path.source.name, microphone=path.microphone.name)


def path_facts(
    hearing: Hearing,
    microphone: int,
    source: int,
    rate_hz: float,
    furnishing: Furnishing | None = None,
) -> tuple[Fact, ...]:
    """Where a cell comes from, number by number; the reflections of a wanted source with it."""
    path = hearing.path(microphone, source)
    found = [
        _fact(
            words.DISTANCE,
            f"{number(path.distance_m, 2)} m",
            fill(
                words.DISTANCE_HOW,
                delay_ms=path.delay_ms,
                frames=path.frames(rate_hz),
                rate_hz=rate_hz,
            ),
        ),
        _fact(
            words.OFF_AXIS,
            f"{number(path.angle_deg, 0)}°",
            fill(words.OFF_AXIS_HOW, pattern=_pattern_words(path)),
        ),
        _fact(words.BESIDE, f"{number(path.off_axis_deg, 0)}°", words.BESIDE_HOW),
    ]
    if path.direct_db is not None:
        found.append(_fact(words.DIRECT, f"{number(path.direct_db, 1)} dB SPL", words.DIRECT_HOW))
    if path.room_db is not None:
        how = fill(words.FROM_ROOM_HOW, absorbing_m2=hearing.positions.room.absorbing_m2)
        found.append(_fact(words.FROM_ROOM, f"{number(path.room_db, 1)} dB SPL", how))
    if path.direct_db is not None and path.room_db is not None:
        over = db_text(path.direct_db - path.room_db, 1)
        found.append(_fact(words.HOW_DIRECT, over, words.HOW_DIRECT_HOW))
    found += _beside_wanted(hearing, path, microphone, source)
    found += _sum_facts(hearing, microphone, source)
    if path.is_wanted:
        found += reflection_facts(hearing, microphone, source, furnishing)
    return tuple(found)


def reflection_facts(
    hearing: Hearing, microphone: int, source: int, furnishing: Furnishing | None
) -> list[Fact]:
    """The strongest first reflections of a source in a microphone, each with what it does to the sound."""
    names = {one.id: one.name.lower() for one in hearing.positions.surfaces}
    found = []
    for one in reflections(hearing, microphone, source, furnishing)[:_MOST_REFLECTIONS]:
        ripple_db, null_hz = one.sum.ripple_db, one.sum.first_null_hz
        if ripple_db is None or null_hz is None:
            continue
        text = fill(
            words.REFLECTION_TEXT, down_db=-one.level_db, late_ms=one.sum.delay_ms,
            ripple_db=ripple_db, null_hz=null_hz,
        )  # fmt: skip
        surface = words.SURFACES.get(one.surface) or names[one.surface]
        how = fill(words.REFLECTION_HOW, extra_cm=one.extra_m * 100.0, taken=SWALLOWED[furnishing])
        found.append(_fact(fill(words.REFLECTION, surface=surface), text, how))
    return found


def _beside_wanted(hearing: Hearing, path: Path, microphone: int, source: int) -> list[Fact]:
    first = hearing.wanted[microphone][0]
    own = hearing.path(microphone, first)
    balance = hearing.balance_db(microphone, source) if path.is_wanted and source != first else None
    if balance is not None:
        label = fill(words.BALANCE, wanted=own.source.name)
        return [_fact(label, db_text(balance, 1), words.BALANCE_HOW)]
    if path.below_wanted_db is None or own.total_db is None or path.total_db is None:
        return []
    how = fill(
        words.BLEED_HOW, wanted=own.source.name, other=path.source.name, own_db=own.total_db,
        other_db=path.total_db,
    )  # fmt: skip
    grade = words.GRADES[grade_of(path.below_wanted_db)]
    return [_fact(words.BLEED, f"{db_text(path.below_wanted_db, 1)}: {grade}", how)]


def _sum_facts(hearing: Hearing, microphone: int, source: int) -> list[Fact]:
    found = mixed(hearing, microphone, source)
    own = own_microphone(hearing, source)
    if found is None or own is None:
        return []
    text = words.SUM_NONE
    if found.first_null_hz is not None and found.ripple_db is not None:
        text = fill(words.SUM_TEXT, ripple_db=found.ripple_db, null_hz=found.first_null_hz)
    how = fill(words.SUM_HOW, delay_ms=found.delay_ms, difference_db=abs(found.level_difference_db))
    here, there = hearing.positions.microphones[microphone], hearing.positions.microphones[own]
    near, far = hearing.distance_m[own, source], hearing.distance_m[microphone, source]
    between = math.dist(
        (here.at.x_m, here.at.y_m, here.at.z_m), (there.at.x_m, there.at.y_m, there.at.z_m)
    )
    ratios = fill(
        words.THREE_TO_ONE_TEXT, between=between / float(near), far=float(far) / float(near)
    )
    return [
        _fact(words.SUM, text, how),
        _fact(words.THREE_TO_ONE, ratios, words.THREE_TO_ONE_HOW),
    ]


def _pattern_words(path: Path) -> str:
    pattern = path.microphone.capsule.pattern
    return words.NO_PATTERN if pattern is None else words.PATTERN[pattern]


def _fact(label: str, text: str, how: str) -> Fact:
    return Fact(label=label, text=capital(text), origin="computed", how=how)


def room_text(hearing: Hearing) -> str:
    """The room in a sentence or two: its size, how long it rings, how far its sound reaches."""
    room = hearing.positions.room
    decay = fill(
        words.DECAY_KNOWN if room.is_decay_known else words.DECAY_GUESSED,
        rt60_s=room.rt60_s,
        least_s=room.least_rt60_s,
        most_s=room.most_rt60_s,
    )
    said = fill(
        words.ROOM, length_m=room.length_m, width_m=room.width_m, height_m=room.height_m,
        volume_m3=room.volume_m3, decay=decay,
    )  # fmt: skip
    share = fill(
        words.ROOM_SHARE,
        critical_m=room.critical_distance_m,
        cardioid_m=room.critical_distance_m * distance_factor(PRESSURE_SHARE["cardioid"]),
        schroeder_hz=room.schroeder_hz,
    )
    return ("" if room.is_size_known else words.SIZE_GUESSED) + f"{said} {share}"


def faults_of(hearing: Hearing) -> tuple[str, ...]:
    """What cannot be, or should not: each in a sentence."""
    positions, room = hearing.positions, hearing.positions.room
    found = [words.WRONG[name] for name in room.wrong]
    everything: tuple[PlacedSource | PlacedMicrophone, ...]
    everything = (*positions.sources, *positions.microphones)
    for one in everything:
        if not room.holds(one.at):
            found.append(fill(words.OUTSIDE, name=one.name))
    for number_, first in enumerate(positions.sources):
        for second in positions.sources[number_ + 1 :]:
            is_one = first.performer is not None and first.performer == second.performer
            # What is worn is where its wearer is.
            is_worn = any(
                s.thing is not None and s.thing.kind in HEADPHONES for s in (first, second)
            )
            if not is_one and not is_worn and math.dist(_xy(first.at), _xy(second.at)) < 0.1:
                found.append(fill(words.TOGETHER, first=first.name, second=second.name))
    for mic in positions.microphones:
        source = positions.source(mic.wants[0])
        assert source is not None
        assert source.figures is not None
        if mic.distance_m < source.figures.extent_m * 0.5:
            found.append(
                fill(
                    words.INSIDE,
                    microphone=mic.name,
                    source=source.name,
                    size_cm=source.figures.extent_m * 100.0,
                )
            )  # fmt: skip
    return tuple(found)


def hollow_bodies(session: Session) -> tuple[str, ...]:
    """Instruments that hear a loudspeaker in the room through their own bodies: each in a sentence."""
    playing = [
        one.name
        for one in session.setup.placement.things
        if one.kind in GIVES_BACK - HEADPHONES and one.is_on
    ]
    if not playing:
        return ()
    return tuple(
        fill(words.HOLLOW, loudspeaker=playing[0], instrument=one.name)
        for one in session.setup.sources
        if not one.figures.is_acoustic and one.figures.hears_loudspeakers()
    )


def _xy(at: Point) -> tuple[float, float]:
    return (at.x_m, at.y_m)


def said_of(positions: Positions) -> tuple[str, ...]:
    """Where everything stands, for who does not see the plan."""
    found = []
    for source in positions.sources:
        at = source.at
        found.append(
            fill(words.SAID_OF_SOURCE, name=source.name, x_m=at.x_m, y_m=at.y_m, height_m=at.z_m)
        )
        for mic in positions.microphones:
            if mic.wants[0] == source.id and source.thing is None:
                found.append(
                    fill(
                        words.SAID_OF_MICROPHONE, name=mic.name, distance_m=mic.distance_m,
                        source=source.name, height_m=mic.at.z_m, angle_deg=mic.angle_deg,
                    )
                )  # fmt: skip
    return tuple(found)


def drawn_sum(
    hearing: Hearing, microphone: int, source: int, furnishing: Furnishing | None
) -> tuple[SumOfPaths | None, str]:
    """What two paths of a source make of it, and in words: of another source both microphones, of a wanted one
    the direct sound with its strongest reflection."""
    if source in hearing.wanted[microphone]:
        found = reflections(hearing, microphone, source, furnishing)
        facts = reflection_facts(hearing, microphone, source, furnishing)
        return (found[0].sum, _said(facts[0])) if facts else (None, "")
    both = mixed(hearing, microphone, source)
    told = _sum_facts(hearing, microphone, source)
    return both, _said(told[0]) if told else ""


def _said(fact: Fact) -> str:
    return fill(words.AS_SENTENCE, label=fact.label, text=fact.text)


def chosen_microphone(hearing: Hearing, key: Key) -> int | None:
    """Whose ears the map is of: what is chosen, or the microphone of the source that is."""
    microphones = hearing.positions.microphones
    if key.kind == "microphone":
        return next((n for n, one in enumerate(microphones) if one.id == key.id), None)
    return next(
        (n for n, one in enumerate(microphones) if key.id in one.wants), 0 if microphones else None
    )


def said_beside(hearing: Hearing, microphone: int | None) -> dict[str, str]:
    """What stands beside each source on the map of a microphone, by the sources' ids."""
    if microphone is None:
        return {}
    return {
        source.id: cell_of(hearing, microphone, number_).short
        for number_, source in enumerate(hearing.positions.sources)
    }


def colours_of(session: Session) -> dict[str, int]:
    """The colour of each source: that of its first signal."""
    links = {link.id: split_port(link.start)[0] for link in session.setup.links}
    found: dict[str, int] = {}
    for line in session.setup.lines:
        found.setdefault(links[line.first_link], line.colour)
    return found
