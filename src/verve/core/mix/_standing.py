"""How each signal stands in the rough mix: what was said of it, and what is usual for the rest."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.mix._heard import name_of, recorded_lines
from verve.core.session import MixLine, Session, Standing, every_setup

UNDER_DB = -6.0
"""Doubles and harmonies stand so far under the lead (usual)."""
DOUBLE_PAN = 0.7
"""Doubles stand left and right, harmonies nearer to the middle (usual)."""
HARMONY_PAN = 0.4
VOICE_LOW_CUT_HZ, DOUBLE_LOW_CUT_HZ = 80.0, 120.0
"""Below this a voice has nothing but rumble; doubles may be thinner than the lead (usual)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """A signal in the mix with every figure that counts. `low_cut_hz` of 0 is none; `is_voice` draws down the
    backing."""

    line: str
    name: str
    standing: Standing
    trim_db: float
    pan: float
    low_cut_hz: float
    is_muted: bool
    is_voice: bool


def standing_of(session: Session) -> tuple[Stand, ...]:
    """Every signal that has a take, in the order in which they were first recorded."""
    said = {one.line: one for one in session.mix.lines}
    voices = _voices(session)
    found = []
    doubles = harmonies = 0
    lines = recorded_lines(session)
    has_lead = any(said.get(line) and said[line].standing == "lead" for line in lines)
    pairs = _pairs(session)
    for number, line in enumerate(lines):
        one = said.get(line) or MixLine(line=line)
        standing = one.standing
        if not has_lead and standing == "other" and (line in voices or not voices) and (
            line not in said or number == 0
        ):  # fmt: skip
            # Without a word the first voice is the lead, or the first signal where nobody sings.
            standing, has_lead = "lead", True
        pan, trim_db, low_cut_hz = pairs.get(line, 0.0), 0.0, 0.0
        if standing == "double":
            pan = DOUBLE_PAN if doubles % 2 else -DOUBLE_PAN
            doubles, trim_db, low_cut_hz = doubles + 1, UNDER_DB, DOUBLE_LOW_CUT_HZ
        elif standing == "harmony":
            pan = HARMONY_PAN if harmonies % 2 else -HARMONY_PAN
            harmonies, trim_db, low_cut_hz = harmonies + 1, UNDER_DB, DOUBLE_LOW_CUT_HZ
        elif line in voices:
            low_cut_hz = VOICE_LOW_CUT_HZ
        found.append(
            Stand(
                line=line,
                name=name_of(session, line),
                standing=standing,
                trim_db=trim_db if one.trim_db is None else one.trim_db,
                pan=pan if one.pan is None else one.pan,
                low_cut_hz=low_cut_hz if one.low_cut_hz is None else one.low_cut_hz,
                is_muted=one.is_muted,
                is_voice=line in voices,
            )
        )
    return tuple(found)


def _voices(session: Session) -> set[str]:
    """Signals of a voice in the air."""
    found = set()
    for setup in every_setup(session):
        sources = {one.id: one for one in setup.sources}
        links = {one.id: one for one in setup.links}
        for line in setup.lines:
            source = sources.get(links[line.first_link].start.partition(":")[0])
            if source is not None and source.figures.is_acoustic and is_voice(source.figures):
                found.add(line.id)
    return found


def is_voice(figures: object) -> bool:
    """Whether somebody sings or speaks there."""
    return getattr(figures, "player", "") == "voice"


def _pairs(session: Session) -> dict[str, float]:
    """Both sides of a stereo pair, hard left and right in their order."""
    found: dict[str, float] = {}
    for setup in every_setup(session):
        for line in setup.lines:
            if line.pair is not None:
                sides = [one.id for one in setup.lines if one.pair == line.pair]
                if len(sides) == 2:
                    found[line.id] = -1.0 if sides[0] == line.id else 1.0
    return found
