"""What something on the list would change in this patch: by computing the changed session."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from verve.core.errors import CancelledError, EditError
from verve.core.kind import DeviceFigures
from verve.core.sensitivity import _words as words
from verve.core.sensitivity._given import Given, given
from verve.core.session import Session, replace_device, routes
from verve.core.words import fill

_EQUAL_DB = 1.0
"""Less than this nobody hears (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Worth:
    """What a thing would change: the line that gains most by it, and how much, in dB above the noise.

    `inputs` is how many inputs more it brings; `reaches` names lines that would reach their aim with it
    and do not now.
    """

    name: str
    best_line: str
    gain_db: float
    inputs: int
    reaches: tuple[str, ...]
    room_share: float
    price: float | None

    @property
    def per_money(self) -> float | None:
        """Decibels for a hundred of the currency; None without a price."""
        return None if not self.price else 100.0 * self.gain_db / self.price

    def sentence(self) -> str:
        """The same in words."""
        parts = []
        if self.reaches:
            parts.append(fill(words.WOULD_REACH, lines=", ".join(self.reaches)))
        if self.gain_db >= _EQUAL_DB:
            parts.append(fill(words.WOULD_STAND_FURTHER, line=self.best_line, by_db=self.gain_db))
        if self.inputs > 0:
            parts.append(fill(words.MORE_INPUTS, inputs=self.inputs))
        if parts:
            said = "; ".join(parts)
            return f"{said[:1].upper()}{said[1:]}."
        if self.room_share > 0.5:
            return words.NOTHING_BY_ROOM
        return words.NOTHING


def _places(session: Session, figures: DeviceFigures) -> list[tuple[str, str, str]]:
    """Where it could stand: line, its name, and the device whose place it would take."""
    found, seen = [], set()
    for route in routes(session.setup):
        for step in route.steps:
            same = step.figures.group == figures.group
            if same and (route.line.id, step.owner) not in seen:
                seen.add((route.line.id, step.owner))
                found.append((route.line.id, route.line.name, step.owner))
    return found


def worth_of(
    session: Session,
    things: Sequence[tuple[str, DeviceFigures, float | None]],
    is_cancelled: Callable[[], bool] | None = None,
) -> tuple[Worth, ...]:
    """What each thing (name, figures, price) would change, what changes most first.

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
    for name, figures, price in things:
        if is_cancelled is not None and is_cancelled():
            raise CancelledError
        found.append(_worth(session, name, figures, price, now, owned_inputs))
    return tuple(sorted(found, key=lambda w: (-len(w.reaches), -w.gain_db, -w.inputs, w.name)))


def _worth(
    session: Session,
    name: str,
    figures: DeviceFigures,
    price: float | None,
    now: dict[str, Given | None],
    owned_inputs: int,
) -> Worth:
    best, line_name, room, reaches = 0.0, "", 0.0, []
    for line_id, said, device_id in _places(session, figures):
        before = now.get(line_id)
        try:
            after = given(replace_device(session, device_id, figures, name), line_id)
        except EditError:
            continue
        if before is None or after is None or after.snr_db is None:
            continue
        if after.reaches_target and not before.reaches_target:
            reaches.append(said)
        gain = 0.0 if before.snr_db is None else after.snr_db - before.snr_db
        if after.reaches_target or not before.reaches_target:
            room = max(room, after.room_share)
            if gain > best:
                best, line_name = gain, said
    inputs = 0
    if figures.records:
        inputs = max(0, len(figures.input_ports()) - owned_inputs)
    return Worth(
        name=name,
        best_line=line_name,
        gain_db=best,
        inputs=inputs,
        reaches=tuple(dict.fromkeys(reaches)),
        room_share=room,
        price=price,
    )


def by_money(found: Sequence[Worth]) -> tuple[Worth, ...]:
    """The same, what changes most for its price first; what has no price last."""
    return tuple(sorted(found, key=lambda w: (w.per_money is None, -(w.per_money or 0.0), w.name)))
