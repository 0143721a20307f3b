"""Sessions wired by hand out of catalogue entries, in one line for each cable."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from verve.core.catalogue import catalogue
from verve.core.kind import CableFigures, ChannelSettings
from verve.core.session import Device, Line, Link, Session, Source, add_parts

CABLE = CableFigures(length_m=3.0, capacitance_f_per_m=1e-10, plugs=("jack_6", "jack_6"))


def wired(
    sources: Mapping[str, str],
    devices: Mapping[str, str],
    cables: Sequence[str],
    *,
    settings: Mapping[str, Mapping[str, object]] | None = None,
    lines: Mapping[str, int] | None = None,
) -> Session:
    """Sources and devices by catalogue key; a cable is "keys:out > io:in.1". A line begins with the first
    cable of each source, unless `lines` says which cable it begins with. Settings are by "owner:channel"."""
    entries = catalogue()
    chosen: dict[str, dict[str, ChannelSettings]] = {}
    for place, values in (settings or {}).items():
        owner, channel = place.split(":")
        chosen.setdefault(owner, {})[channel] = ChannelSettings.model_validate(values)
    links = []
    for number, words in enumerate(cables):
        start, end = words.split(" > ")
        cable = None if end.endswith(":capsule") else CABLE
        links.append(Link(id=f"cable_{number}", start=start, end=end, cable=cable))
    if lines is None:
        lines = {
            key: next(n for n, link in enumerate(links) if link.start == f"{key}:out")
            for key in sources
        }
    return add_parts(
        Session(),
        sources=tuple(
            Source(id=key, name=key.capitalize(), figures=entries.sources[entry].figures)
            for key, entry in sources.items()
        ),
        devices=tuple(
            Device(
                id=key,
                name=key.capitalize(),
                figures=entries.devices[entry].figures,
                settings=chosen.get(key, {}),
            )
            for key, entry in devices.items()
        ),
        links=tuple(links),
        lines=tuple(
            Line(id=f"line_{key}", name=key.capitalize(), first_link=f"cable_{number}")
            for key, number in lines.items()
        ),
    )
