"""One source in the room: what there is to know before anything is placed by hand."""

from __future__ import annotations

from verve.core.air import Hearing
from verve.core.place import _words as words
from verve.core.place._marks import marks_of
from verve.core.place._starting import starting_facts
from verve.core.place._table import path_facts, reflection_facts
from verve.core.session import Session
from verve.core.words import Fact, fill

Group = tuple[str, tuple[Fact, ...]]


def is_alone(hearing: Hearing) -> bool:
    """Whether one player and nothing else that sounds is in the room."""
    return len(hearing.positions.sources) == 1 and bool(hearing.positions.microphones)


def alone_title(hearing: Hearing, microphone: int) -> str:
    """What the page is about."""
    mic = hearing.positions.microphones[microphone]
    return fill(words.ALONE_TITLE, microphone=mic.name, source=hearing.positions.sources[0].name)


def alone_groups(session: Session, hearing: Hearing, microphone: int) -> tuple[Group, ...]:
    """Starting point, what the room adds, first reflections, what to measure with a tape."""
    setup = session.setup
    mic = hearing.positions.microphones[microphone]
    rate_hz = float(setup.audio.sample_rate_hz)
    facts = path_facts(hearing, microphone, 0, rate_hz)
    direct = tuple(one for one in facts if one.label in words.HOW_IT_SOUNDS)
    marks = tuple(
        Fact(
            label=fill(words.FROM_TO, first=one.from_, second=one.to),
            text=fill(words.TAPE, metric=one.centimetres, feet=one.feet),
            origin="computed",
        )
        for one in marks_of(hearing.positions)
        if mic.name in {one.from_, one.to}
    )
    return (
        (words.ALONE_START, starting_facts(session, mic.id)),
        (words.ALONE_SOUND, direct),
        (
            words.ALONE_REFLECTIONS,
            tuple(reflection_facts(hearing, microphone, 0, setup.room.furnishing)),
        ),
        (words.ALONE_TAPE, marks),
    )
