"""Which microphone for this source: every one assessed here, at its usual distance; no verdict by taste."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from verve.core.catalogue import catalogue
from verve.core.connections import Rated, connections_of, rate, signals_of, stock_of
from verve.core.needs import _words as words
from verve.core.session import KitItem, Part, Session

_RECORDER = "interface_eight"
"""What a session without an interface is compared with."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MicrophoneRow:
    """What one microphone gives for a part: how far above the noise, how much room, what it needs."""

    name: str
    is_owned: bool
    snr_db: float
    headroom_db: float
    distance_m: float
    needs: str
    flaws: str
    suggestion: str


def _recorder(session: Session) -> KitItem:
    for item in session.kit:
        if item.device is not None and item.device.records and item.there:
            return item
    entry = catalogue().devices[_RECORDER]
    return KitItem(id="compared_with", name=entry.name, device=entry.figures)


def _microphones(session: Session) -> list[KitItem]:
    own = [
        item
        for item in session.kit
        if item.device is not None and item.device.use == "microphone" and item.there
    ]
    known = {item.device.entry for item in own if item.device is not None}
    typical = [
        KitItem(id=f"typical_{key}", name=entry.name, device=entry.figures)
        for key, entry in catalogue().devices.items()
        if entry.figures.use == "microphone" and key not in known
    ]
    return own + typical


def _needs(rated: Rated) -> str:
    wants = []
    if rated.connection.power == "needs":
        wants.append(words.PHANTOM_POWER)
    if any(box.figures.use == "inline_preamp" for box in rated.connection.boxes):
        wants.append(words.INLINE_PREAMP)
    return " and ".join(wants) or "nothing"


def microphone_rows(
    session: Session, part: Part, is_cancelled: Callable[[], bool] | None = None
) -> tuple[MicrophoneRow, ...]:
    """Every owned and typical microphone for a part that sounds in the air, the furthest above the noise first.

    raises: CancelledError if it is no longer wanted
    """
    if part.sound is None:
        return ()
    wanted = part.model_copy(update={"capture": "microphone", "principle": None})
    (signal,) = signals_of([wanted])
    items = _microphones(session)
    inlines = [
        item
        for item in session.kit
        if item.device is not None and item.device.use in {"inline_preamp", "preamp"} and item.there
    ]
    recorder = _recorder(session)
    stock = stock_of([*items, *inlines, recorder])
    ways = [suggestion for suggestion in connections_of(signal, stock) if suggestion.boxes]
    best: dict[str, Rated] = {}
    for rated in rate(session.setup, ways, is_cancelled=is_cancelled):
        if rated is not None:
            key = rated.connection.boxes[0].id
            known = best.get(key)
            if known is None or (rated.flaws, -rated.quality_db) < (known.flaws, -known.quality_db):
                best[key] = rated
    owned = {item.id for item in session.kit}
    rows = [
        MicrophoneRow(
            name=rated.connection.boxes[0].name,
            is_owned=key in owned,
            snr_db=rated.snr_db,
            headroom_db=rated.headroom_db if rated.before_db is None else rated.before_db,
            distance_m=signal.distance_m,
            needs=_needs(rated),
            flaws=rated.why,
            suggestion=rated.connection.words,
        )
        for key, rated in best.items()
    ]
    return tuple(sorted(rows, key=lambda row: (-row.snr_db, row.name)))
