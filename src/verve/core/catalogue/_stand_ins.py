"""What could stand in a place: catalogue entries and own gear of a fitting kind."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from verve.core.catalogue._entries import Catalogue, catalogue
from verve.core.kind import DeviceFigures, SourceFigures, is_device_figures
from verve.core.session import KitItem


@dataclass(frozen=True, slots=True, kw_only=True)
class StandIn:
    """A piece that could be put in: its name and figures, and whether it is the user's own.

    `out_port` is the output a line would take, where it has several.
    """

    name: str
    figures: DeviceFigures | SourceFigures
    is_own: bool
    out_port: str | None = None

    @property
    def label(self) -> str:
        """What it is called in a list."""
        return self.name if self.out_port is None else f"{self.name}, {self.out_port} output"


def stand_ins(
    entries: Catalogue,
    own: Iterable[tuple[str, DeviceFigures | SourceFigures]],
    now: DeviceFigures | SourceFigures,
) -> tuple[StandIn, ...]:
    """Everything that fits where `now` stands, the user's own first, then by name."""
    found = [
        StandIn(name=name, figures=figures, is_own=True)
        for name, figures in own
        if _fits(figures, now)
    ]
    listed = entries.devices if is_device_figures(now) else entries.sources
    typical = [
        StandIn(name=entry.name, figures=entry.figures, is_own=False)
        for entry in listed.values()
        if _fits(entry.figures, now)
    ]
    return tuple(found) + tuple(sorted(typical, key=lambda item: item.name.casefold()))


def between(entries: Catalogue, own: Iterable[tuple[str, DeviceFigures]]) -> tuple[StandIn, ...]:
    """Everything that can stand in the middle of a line, the user's own first, then by name.

    What has several outputs is there once for each.
    """
    listed = sorted(entries.devices.values(), key=lambda entry: entry.name.casefold())
    rows = [(name, figures, True) for name, figures in own]
    rows += [(entry.name, entry.figures, False) for entry in listed]
    found = []
    for name, figures, is_own in rows:
        if not figures.is_between:
            continue
        outputs = figures.output_ports()
        for port in outputs if len(outputs) > 1 else (None,):
            found.append(StandIn(name=name, figures=figures, is_own=is_own, out_port=port))
    return tuple(found)


def _fits(figures: DeviceFigures | SourceFigures, now: DeviceFigures | SourceFigures) -> bool:
    if is_device_figures(figures) and is_device_figures(now):
        return figures.group == now.group
    if isinstance(figures, SourceFigures) and isinstance(now, SourceFigures):
        return figures.is_acoustic == now.is_acoustic
    return False


def kit_choices(own: Iterable[tuple[str, DeviceFigures]]) -> tuple[KitItem, ...]:
    """Everything a kit can have, one of each: the user's own first, then devices, cables, the rest."""
    entries = catalogue()
    found = [KitItem(id="x", name=name, device=figures) for name, figures in own]
    found += [
        KitItem(id="x", name=entry.name, device=entry.figures)
        for entry in sorted(entries.devices.values(), key=lambda e: e.name.casefold())
    ]
    found += [
        KitItem(id="x", name=entry.name, cable=entry.figures) for entry in entries.cables.values()
    ]
    for key, name in (
        *((k, e.name) for k, e in entries.headphones.items()),
        *((k, e.name) for k, e in entries.accessories.items()),
    ):
        found.append(KitItem(id="x", name=name, accessory=key))
    return tuple(found)
