"""What a way in needs beside its boxes: cables, stands, adapters; and what each thing costs."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

from verve.core.catalogue import catalogue
from verve.core.connections import Rated, Run, channels_for, fits
from verve.core.kind import Plug
from verve.core.needs import FEEDS_OF_SPLITTER, WITHOUT_STAND
from verve.core.session import KitItem, Session

_STAND, _SHIELD, _THREAD = "stand_boom", "shield_fabric", "thread_3_8_5_8"
_PHONES, _FEED, _HOST, _JACK = "closed_32", "headphone_splitter", "plug_c_a", "jack_large_small"
_CABLES: Mapping[tuple[Plug, Plug], str] = {
    ("xlr", "xlr"): "balanced_5",
    ("jack_6", "jack_6"): "instrument_3",
    ("xlr", "jack_6"): "xlr_to_jack_3",
    ("jack_6", "xlr"): "xlr_to_jack_3",
    ("jack_3", "jack_6"): "mini_to_jacks_3",
    ("phono", "jack_6"): "phono_to_jack_3",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """A kind of thing that can be had: its usual class of price, from lowest to highest, and how many are there.

    unit: the currency of the session; `origin` is "typed" where somebody typed a price, else "typical"
    """

    key: str
    name: str
    low: float
    high: float
    owned: int
    origin: str = "typical"

    @property
    def price(self) -> float:
        """What is reckoned with: the middle of its class, as prices go, by their ratio."""
        return math.sqrt(self.low * self.high)


def _typed(session: Session, match: str, value: object) -> float | None:
    """The price that somebody typed for the same thing; half of one for a pair."""
    for wish in session.shopping.wishes:
        item = wish.item
        is_typed = wish.price is not None and wish.within is None
        if item is not None and is_typed and getattr(item, match) == value:
            return (wish.price or 0.0) / (2.0 if wish.per_pair else 1.0)
    return None


def thing(session: Session, key: str, owned: int) -> Thing:
    """Something of the catalogue that is no device."""
    entries = catalogue()
    group = (entries.cables, entries.headphones, entries.loudspeakers, entries.accessories)
    entry = next(table[key] for table in group if key in table)
    price = entry.price or (0.0, 0.0)
    if key in entries.cables:
        typed = _typed(session, "cable", entries.cables[key].figures)
    else:
        typed = _typed(session, "accessory", key)
    low, high = price if typed is None else (typed, typed)
    origin = "typical" if typed is None else "typed"
    return Thing(key=key, name=entry.name, low=low, high=high, owned=owned, origin=origin)


def device_thing(session: Session, item: KitItem) -> Thing:
    """A device: one of the kit, of which more could be had, or one of the catalogue."""
    device = item.device
    assert device is not None
    entry = catalogue().devices.get(device.entry or "")
    typed = _typed(session, "device", device)
    price = (0.0, 0.0) if entry is None or entry.price is None else entry.price
    low, high = price if typed is None else (typed, typed)
    return Thing(
        key=item.id,
        name=item.name,
        low=low,
        high=high,
        owned=item.there,
        origin="typical" if typed is None else "typed",
    )


def runs_of(rated: Rated) -> Iterator[Run]:
    """The cables of a way, by their plugs."""
    connection = rated.connection
    out = connection.signal.figures.output_plug() if not connection.signal.is_air else None
    for place, box in enumerate(connection.boxes):
        is_microphone = connection.signal.is_air and place > 0
        port = channels_for(box.figures, is_microphone=is_microphone)[0]
        enter = box.figures.plug_at(port)
        if out is not None and enter is not None:
            yield _run(out, enter)
        out = box.figures.output_plug()
    last = connection.recorder.figures.plug_at(connection.inputs.port, connection.mode)
    if out is not None and last is not None:
        yield _run(out, last)


def _run(start: Plug, end: Plug) -> Run:
    return Run(id="", name="", start=start, end=end, least_m=0.5)


def cable_key(run: Run) -> str:
    """The usual cable for two plugs; those that the trade has none for get an adapter's."""
    return _CABLES.get((run.start, run.end)) or _CABLES.get((run.end, run.start)) or "xlr_to_jack_3"


def owned_cables(kit: Sequence[KitItem], run: Run) -> int:
    """How many cables of the kit have these plugs."""
    return sum(i.there for i in kit if i.cable is not None and fits(i.cable, run))


def needs_stand(rated: Rated) -> bool:
    """Whether a way stands on a stand."""
    connection = rated.connection
    pieces = (*connection.boxes, connection.recorder)
    return connection.signal.is_air and not any(b.figures.entry in WITHOUT_STAND for b in pieces)


def _owned(kit: Sequence[KitItem], *begin: str) -> int:
    return sum(i.there for i in kit if i.accessory is not None and i.accessory.startswith(begin))


def stand(session: Session) -> Thing:
    """Microphone stands."""
    return thing(session, _STAND, _owned(session.kit, "stand", "arm"))


def thread(session: Session) -> Thing:
    """The adapter between the threads of stand and microphone: one does for all."""
    return thing(session, _THREAD, _owned(session.kit, "thread"))


ALSO: Mapping[str, Mapping[str, int]] = {
    "monitors": {"monitor_small": 2, "line_balanced_3": 2},
    "software": {"recording_software": 1},
}
"""What nobody needs for recording and many want with it, by what it is called: things and how many."""


def beside(
    session: Session, rated: Sequence[Rated], people: int, also: Collection[str] = ()
) -> dict[str, int]:
    """What a whole pass needs that does not depend on the way of each signal, by key: how many in all."""
    voices = sum(
        r.connection.signal.is_air and r.connection.signal.figures.player == "voice" for r in rated
    )
    # Headphones that are there have what they need; new ones end in a small jack.
    new_phones = max(0, people - owned_beside(session, _PHONES))
    found = {_SHIELD: voices, _PHONES: people, _JACK: new_phones}
    recorder = rated[0].connection.recorder.figures
    sockets = session.computer.sockets
    if sockets and recorder.computer_plug() not in {None, *sockets}:
        found[_HOST] = 1
    feeds = people - max(1, recorder.headphone_sockets())
    found[_FEED] = max(0, -(-feeds // (FEEDS_OF_SPLITTER - 1)))
    for name in also:
        found |= ALSO[name]
    return {key: count for key, count in found.items() if count}


def owned_beside(session: Session, key: str) -> int:
    """How many of those are there."""
    begins = {
        _SHIELD: ("shield", "foam"),
        _PHONES: ("closed", "in_ear", "open"),
        _HOST: ("plug_c_a",),
        _FEED: ("headphone_splitter",),
        _JACK: ("jack_large_small",),
        "monitor_small": ("monitor",),
        "recording_software": ("recording_software",),
    }
    if key in begins:
        return _owned(session.kit, *begins[key])
    cable = catalogue().cables[key].figures
    return sum(item.there for item in session.kit if item.cable == cable)
