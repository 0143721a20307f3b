"""Ways to record a part as rows and sentences of a page."""

from __future__ import annotations

from verve.core.kits import Way
from verve.core.sheets._kits import span_of_price
from verve.core.words import fill, number

_NO_ROOM = "none heard"
_ROOM_ABOVE, _ROOM_BELOW = "{by_db:.0 dB} over gear", "{by_db:.0 dB} under gear"
_NOTHING = "nothing"
_FOR, _AGAINST = "For it: {pros}.", "Against it: {cons}."
_NEEDS = "To buy, prices typical: {things}."
_FLAWS = "Left to mend: {flaws}."

WAY_COLUMNS = (
    "Way",
    "S/N, dB",
    "headroom",
    "room noise",
    "late",
    "inputs",
    "to buy",
    "minutes, typical",
)


def way_rows(ways: tuple[Way, ...], currency: str) -> tuple[tuple[str, ...], ...]:
    """One row a way: name, signal to noise, headroom, the room, delay, inputs, money, minutes."""
    return tuple(
        (
            way.name,
            number(way.snr_db, 0),
            number(way.headroom_db, 0),
            _room(way),
            "" if way.late_ms is None else fill("{late_ms:.1} ms", late_ms=way.late_ms),
            str(way.inputs),
            _price(way, currency),
            number(way.minutes, 0),
        )
        for way in ways
    )


def _room(way: Way) -> str:
    if way.room_db is None:
        return _NO_ROOM
    said = _ROOM_ABOVE if way.room_db >= 0.0 else _ROOM_BELOW
    return fill(said, by_db=abs(way.room_db))


def _price(way: Way, currency: str) -> str:
    if not way.kit.bought:
        return _NOTHING
    return span_of_price(way.kit.low, way.kit.high, currency)


def way_says(way: Way) -> str:
    """What speaks for a way and against it, what it would need, and what would be left to mend."""
    things = ", ".join(
        f"{one.count} × {one.thing.name}" if one.count > 1 else one.thing.name
        for one in way.kit.bought
    )
    said = [fill(_FOR, pros=way.pros), fill(_AGAINST, cons=way.cons)]
    if things:
        said.append(fill(_NEEDS, things=things))
    if way.flaws:
        said.append(fill(_FLAWS, flaws=way.flaws))
    return " ".join(said)
