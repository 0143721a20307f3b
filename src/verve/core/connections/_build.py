"""From the chosen ways to a patch: sources, boxes, cables, sockets, with the gains set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from verve.core.connections._cables import SHORT_M, SOURCE_M, STAGE_M, Picked, Run, pick
from verve.core.connections._signals import Signal
from verve.core.connections._solve import Answer
from verve.core.connections._stock import Box, channels_for, phantom_of
from verve.core.gain import settled
from verve.core.kind import ChannelSettings, FrozenDict, phantom_channel
from verve.core.session import (
    Device,
    Line,
    Link,
    Performer,
    Session,
    Setup,
    Source,
    free_identifier,
    free_name,
    only_lines,
    with_setup,
)

_COLOURS = 8


@dataclass(slots=True)
class _Site:
    """The setup as it grows; everything in it is frozen, only the lists are not."""

    sources: list[Source] = field(default_factory=list)
    devices: list[Device] = field(default_factory=list)
    links: list[Link] = field(default_factory=list)
    lines: list[Line] = field(default_factory=list)
    performers: list[Performer] = field(default_factory=list)
    runs: list[Run] = field(default_factory=list)

    def setup(self, base: Setup) -> Setup:
        """Everything so far, unchecked, for finding free names."""
        return base.model_copy(
            update={
                "sources": tuple(self.sources),
                "devices": tuple(self.devices),
                "links": tuple(self.links),
                "lines": tuple(self.lines),
                "performers": tuple(self.performers),
            }
        )


def locked_of(setup: Setup) -> Setup:
    """What stays when a new way is sought: the fixed lines with all that they pass."""
    return only_lines(setup, {line.id for line in setup.lines if line.is_fixed})


class _Builder:
    def __init__(self, session: Session, answer: Answer) -> None:
        self.base = locked_of(session.setup)
        base = self.base
        self.site = _Site(
            sources=list(base.sources),
            devices=list(base.devices),
            links=list(base.links),
            lines=list(base.lines),
            performers=list(base.performers),
        )
        self._session, self._answer = session, answer
        self._taken = {link.end for link in base.links}
        self._units: dict[str, int] = {}
        self._mixers: dict[str, tuple[str, int]] = {}
        self._shared: dict[str, Source] = {}

    def _id(self, wish: str) -> str:
        return free_identifier(self.site.setup(self.base), wish)

    def _performer(self, name: str) -> str | None:
        if not name:
            return None
        known = next((p.id for p in self.site.performers if p.name == name), None)
        if known is None:
            known = self._id(f"who {name}")
            self.site.performers.append(Performer(id=known, name=name))
        return known

    def _source(self, signal: Signal) -> Source:
        part = signal.part
        is_shared = signal.is_air and part.capture == "pair"
        if is_shared and part.id in self._shared:
            return self._shared[part.id]
        name = part.name if is_shared else signal.name
        taken = {source.name for source in self.site.sources}
        source = Source(
            id=self._id(name),
            name=free_name(name, taken),
            performer=self._performer(part.performer),
            figures=signal.figures,
            part=part.id,
        )
        self.site.sources.append(source)
        if is_shared:
            self._shared[part.id] = source
        return source

    def _device(self, box: Box, settings: Mapping[str, ChannelSettings]) -> Device:
        number = self._units.get(box.id, 0) + 1
        self._units[box.id] = number
        taken = {device.name for device in self.site.devices}
        device = Device(
            id=self._id(box.name),
            name=free_name(box.name, taken),
            figures=box.figures,
            settings=settings,
            kit_item=box.id,
        )
        self.site.devices.append(device)
        return device

    def _change(self, device_id: str, channel: str, update: Mapping[str, object]) -> None:
        for index, device in enumerate(self.site.devices):
            if device.id == device_id:
                now = device.settings.get(channel, ChannelSettings())
                settings = FrozenDict({**device.settings, channel: now.model_copy(update=update)})
                self.site.devices[index] = device.model_copy(update={"settings": settings})

    def _recorder(self, box: Box) -> Device:
        for device in self.site.devices:
            if device.kit_item == box.id and device.figures.records:
                return device
        return self._device(box, {})

    def _mixer_side(self, box: Box, before: Sequence[Box], *, is_air: bool) -> tuple[str, str, str]:
        """Device, channel and output of the next free side of a box that takes several signals."""
        figures = box.figures
        most = figures.lines_kept_apart()
        device_id, used = self._mixers.get(box.id, ("", most))
        if used >= most:
            device_id, used = self._device(box, {}).id, 0
        self._mixers[box.id] = (device_id, used + 1)
        ports = channels_for(figures, is_microphone=is_air and bool(before))
        channel = ports[min(used, len(ports) - 1)]
        fed = phantom_of(box, channel, before)
        if fed is not None:
            self._change(device_id, phantom_channel(fed), {"phantom": True})
        settings = {}
        if figures.mixes:
            pan = -1.0 if used == 0 else 1.0
            self._change(device_id, channel, {"pan": pan})
            settings = {channel: ChannelSettings(pan=pan)}
        return device_id, channel, figures.outputs_reached(channel, settings)[0]

    def _link(
        self, signal: Signal, start: str, end: str, run: tuple[str, str, float] | None
    ) -> Link:
        link = Link(id=self._id(f"{signal.name} link"), start=start, end=end)
        self.site.links.append(link)
        if run is not None:
            first, last, least_m = run
            self.site.runs.append(
                Run(id=link.id, name=signal.name, start=first, end=last, least_m=least_m)  # type: ignore[arg-type]
            )
        return link

    def add(self, signal: Signal) -> None:
        """One signal with everything on its way."""
        connection = self._answer.chosen[signal.id].connection
        source = self._source(signal)
        start, out = f"{source.id}:out", signal.figures.output_plug()
        first: Link | None = None
        for place, box in enumerate(connection.boxes):
            figures, before = box.figures, connection.boxes[:place]
            if figures.lines_kept_apart() > 1:
                device_id, port, leave = self._mixer_side(box, before, is_air=signal.is_air)
            else:
                device_id, port, leave = self._simple(box, signal, before)
            enter = figures.plug_at(port)
            is_near = figures.use in {"inline_preamp", "preamp"}
            length = SHORT_M if is_near else SOURCE_M
            run = None if out is None or enter is None else (out, enter, length)
            link = self._link(signal, start, f"{device_id}:{port}", run)
            first = first or link
            start, out = f"{device_id}:{leave}", figures.output_plug()
        recorder = self._recorder(connection.recorder)
        port = next(n for n in connection.inputs.names if f"{recorder.id}:{n}" not in self._taken)
        end = f"{recorder.id}:{port}"
        self._taken.add(end)
        self._set_input(recorder, port, signal)
        plug = connection.recorder.figures.input_plug(connection.mode)
        length = STAGE_M if connection.boxes else SOURCE_M
        run = None if out is None or plug is None else (out, plug, length)
        link = self._link(signal, start, end, run)
        self._line(signal, (first or link).id)

    def _simple(self, box: Box, signal: Signal, before: Sequence[Box]) -> tuple[str, str, str]:
        figures = box.figures
        port = figures.input_ports()[0]
        given = figures.settings_for(port, distance_m=signal.distance_m, use_battery=True)
        settings = {port: ChannelSettings(**given)} if given else {}
        fed = phantom_of(box, port, before)
        if fed is not None:
            settings[phantom_channel(fed)] = ChannelSettings(phantom=True)
        return self._device(box, settings).id, port, figures.outputs_reached(port, settings)[0]

    def _set_input(self, recorder: Device, port: str, signal: Signal) -> None:
        connection = self._answer.chosen[signal.id].connection
        given = recorder.figures.settings_for(port, distance_m=signal.distance_m)
        self._change(recorder.id, port, {"mode": connection.mode, **given})
        switch = recorder.figures.phantom_switch(port)
        if connection.power == "needs" and switch is not None:
            self._change(recorder.id, phantom_channel(switch), {"phantom": True})

    def _line(self, signal: Signal, first_link: str) -> None:
        colours = {line.colour for line in self.site.lines}
        pair = f"{signal.part.id}_pair" if signal.partner is not None else None
        partner = next((x for x in self.site.lines if pair is not None and x.pair == pair), None)
        colour = next((c for c in range(_COLOURS) if c not in colours), len(colours) % _COLOURS)
        names = {line.name for line in self.site.lines}
        self.site.lines.append(
            Line(
                id=self._id(f"{signal.name} line"),
                name=free_name(signal.name, names),
                first_link=first_link,
                colour=partner.colour if partner is not None else colour,
                pair=pair,
            )
        )

    def finish(self) -> tuple[Session, tuple[Picked, ...]]:
        """The session with the patch in it, and the cables that were picked."""
        used: dict[str, int] = {}
        for link in self.base.links:
            if link.kit_item is not None:
                used[link.kit_item] = used.get(link.kit_item, 0) + 1
        left = [
            item.model_copy(update={"quantity": max(0, item.quantity - used.get(item.id, 0))})
            for item in self._session.kit
        ]
        picked = pick(self.site.runs, left)
        by_link = {one.run.id: one for one in picked}
        self.site.links = [
            link.model_copy(
                update={
                    "cable": by_link[link.id].cable,
                    "kit_item": None if by_link[link.id].item is None else by_link[link.id].item.id,  # type: ignore[union-attr]
                }
            )
            if link.id in by_link
            else link
            for link in self.site.links
        ]
        setup = self.site.setup(self.base)
        session = with_setup(
            self._session,
            sources=setup.sources,
            devices=setup.devices,
            links=setup.links,
            lines=setup.lines,
            performers=setup.performers,
        )
        fresh = tuple(line.id for line in setup.lines if not line.is_fixed)
        return settled(session, fresh), picked


def build(
    session: Session, signals: Sequence[Signal], answer: Answer
) -> tuple[Session, tuple[Picked, ...]]:
    """The session with a patch of the chosen ways in the place of all lines that are not fixed.

    raises: EditError if it does not hold together
    """
    builder = _Builder(session, answer)
    for signal in signals:
        builder.add(signal)
    return builder.finish()
