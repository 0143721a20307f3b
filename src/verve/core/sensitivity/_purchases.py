"""What something on the list would change in this patch: by computing the changed session."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from verve.core.errors import CancelledError, EditError
from verve.core.kind import DeviceFigures
from verve.core.sensitivity import _words as words
from verve.core.sensitivity._given import Given, given
from verve.core.session import Session, replace_device, routes
from verve.core.words import fill

_EQUAL_DB = 1.0
"""Less than this nobody hears (typical)."""
_TOLD_DB = 2.0
"""Headroom and colour are told from here on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Purchase:
    """Something that may be bought: its figures, its price where one is known, and whom it is for.

    `parts` are the parts of the brief it is bought for; none for every line.
    """

    name: str
    figures: DeviceFigures
    price: float | None = None
    parts: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Worth:
    """What a thing would change on the line that gains most by it, of those it is bought for.

    unit: dB: how much further above the noise, and how much more headroom, bass and treble against the middle;
    `inputs` is how many inputs more it brings; `reaches` names lines that would reach their aim with it and do
    not now; `passes` those that would become possible at all
    """

    name: str
    best_line: str
    gain_db: float
    inputs: int
    reaches: tuple[str, ...]
    room_share: float
    price: float | None
    headroom_db: float = 0.0
    bass_db: float = 0.0
    treble_db: float = 0.0
    passes: tuple[str, ...] = ()
    has_place: bool = True

    @property
    def per_money(self) -> float | None:
        """Decibels for a hundred of the currency; None without a price."""
        return None if not self.price else 100.0 * self.gain_db / self.price

    def _changes(self) -> list[str]:
        found = []
        if self.gain_db >= _EQUAL_DB:
            found.append(fill(words.WOULD_STAND_FURTHER, line=self.best_line, by_db=self.gain_db))
        more = [
            (self.headroom_db, words.MORE_ROOM, words.LESS_ROOM, ""),
            (self.bass_db, words.MORE_OF, words.LESS_OF, words.BASS),
            (self.treble_db, words.MORE_OF, words.LESS_OF, words.TREBLE),
        ]
        said = [
            fill(up if by_db > 0.0 else down, by_db=abs(by_db), what=what)
            for by_db, up, down, what in more
            if abs(by_db) >= _TOLD_DB
        ]
        if said and self.best_line:
            changes = ", ".join(said)
            found.append(
                changes if found else fill(words.FOR_LINE, line=self.best_line, changes=changes)
            )
        return found

    def sentence(self) -> str:
        """The same in words."""
        parts = []
        if self.passes:
            parts.append(fill(words.MAKES_POSSIBLE, passes=", ".join(self.passes)))
        if self.reaches:
            parts.append(fill(words.WOULD_REACH, lines=", ".join(self.reaches)))
        parts += self._changes()
        if self.inputs > 0:
            parts.append(fill(words.MORE_INPUTS, inputs=self.inputs))
        if parts:
            said = "; ".join(parts)
            return f"{said[:1].upper()}{said[1:]}."
        if not self.has_place:
            return words.NO_PLACE
        if self.room_share > 0.5:
            return words.NOTHING_BY_ROOM
        return words.NOTHING


def _places(session: Session, wanted: Purchase) -> list[tuple[str, str, str]]:
    """Where it could stand: line, its name, and the device whose place it would take."""
    found, seen = [], set()
    for route in routes(session.setup):
        if wanted.parts and not (route.has_source and route.source.part in wanted.parts):
            continue
        for step in route.steps:
            same = step.figures.group == wanted.figures.group
            if same and (route.line.id, step.owner) not in seen:
                seen.add((route.line.id, step.owner))
                found.append((route.line.id, route.line.name, step.owner))
    return found


def worth_of(
    session: Session,
    things: Sequence[Purchase],
    is_cancelled: Callable[[], bool] | None = None,
) -> tuple[Worth, ...]:
    """What each thing would change for what it is bought for, what changes most first.

    raises: CancelledError if it is no longer wanted
    """
    now: dict[str, Given | None] = {
        line.id: given(session, line.id) for line in session.setup.lines
    }
    owned_inputs = max(
        (len(d.figures.input_ports()) for d in session.setup.devices if d.figures.records),
        default=0,
    )
    found = []
    for wanted in things:
        if is_cancelled is not None and is_cancelled():
            raise CancelledError
        found.append(_worth(session, wanted, now, owned_inputs))
    return tuple(sorted(found, key=lambda w: (-len(w.reaches), -w.gain_db, -w.inputs, w.name)))


def _more_db(after: float | None, before: float | None) -> float:
    return 0.0 if after is None or before is None else after - before


def _worth(
    session: Session, wanted: Purchase, now: dict[str, Given | None], owned_inputs: int
) -> Worth:
    figures = wanted.figures
    found: list[tuple[tuple[bool, float], str, Given, Given]] = []
    places = _places(session, wanted)
    reaches, room = [], 0.0
    for line_id, said, device_id in places:
        before = now.get(line_id)
        try:
            after = given(replace_device(session, device_id, figures, wanted.name), line_id)
        except EditError:
            continue
        if before is None or after is None or after.snr_db is None:
            continue
        if after.reaches_target and not before.reaches_target:
            reaches.append(said)
        if after.reaches_target or not before.reaches_target:
            room = max(room, after.room_share)
            gain = _more_db(after.snr_db, before.snr_db)
            found.append(
                ((after.reaches_target > before.reaches_target, gain), said, before, after)
            )
    best = max(found, key=lambda row: row[0], default=None)
    inputs = 0
    if figures.records:
        inputs = max(0, len(figures.input_ports()) - owned_inputs)
    plain = Worth(
        name=wanted.name,
        best_line="",
        gain_db=0.0,
        inputs=inputs,
        reaches=tuple(dict.fromkeys(reaches)),
        room_share=room,
        price=wanted.price,
        has_place=bool(places),
    )
    if best is None:
        return plain
    (_, gain), said, before, after = best
    return replace(
        plain,
        best_line=said,
        gain_db=max(0.0, gain),
        headroom_db=_more_db(after.headroom_db, before.headroom_db),
        bass_db=_more_db(after.bass_db, before.bass_db),
        treble_db=_more_db(after.treble_db, before.treble_db),
    )


def by_money(found: Sequence[Worth]) -> tuple[Worth, ...]:
    """The same, what changes most for its price first; what has no price last."""
    return tuple(sorted(found, key=lambda w: (w.per_money is None, -(w.per_money or 0.0), w.name)))
