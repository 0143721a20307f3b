"""From the chosen ways to a patch: sources, boxes, cables, sockets, with the gains set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from verve.core.connections._cables import SHORT_M, SOURCE_M, STAGE_M, Picked, Run, pick
from verve.core.connections._identities import Identities, Place, root_of
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
    def __init__(
        self,
        session: Session,
        answer: Answer,
        identities: Identities | None = None,
        places: Mapping[str, Place] | None = None,
        roots: Mapping[str, str] | None = None,
    ) -> None:
        self.base = locked_of(session.setup)
        self._known, self._places, self._roots = identities, places or {}, roots or {}
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
        if self._known is not None:
            return self._known.key(wish)
        return free_identifier(self.site.setup(self.base), wish)

    def _performer(self, name: str) -> str | None:
        if not name:
            return None
        known = next((p.id for p in self.site.performers if p.name == name), None)
        if known is None:
            people = {} if self._known is None else self._known.people
            known = people.get(name) or self._id(f"who {name}")
            people[name] = known
            self.site.performers.append(Performer(id=known, name=name))
        return known

    def _source(self, signal: Signal) -> Source:
        part = signal.part
        is_shared = signal.is_air and part.capture == "pair"
        if is_shared and part.id in self._shared:
            return self._shared[part.id]
        name = part.name if is_shared else signal.name
        taken = {source.name for source in self.site.sources}
        key, name = self._source_id(signal, free_name(name, taken))
        source = Source(
            id=key,
            name=name,
            performer=self._performer(part.performer),
            figures=signal.figures,
            part=part.id,
        )
        self.site.sources.append(source)
        if is_shared:
            self._shared[part.id] = source
        return source

    def _source_id(self, signal: Signal, name: str) -> tuple[str, str]:
        """Id and name of a source: those it has in another layer, where it plays in one."""
        if self._known is None:
            return self._id(name), name
        root = root_of(signal, self._roots)
        number = sum(
            1 for one in self.site.sources if self._roots.get(one.part or "", one.part) == root
        )
        known = self._known.sources.get((root, str(number)))
        if known is None or known[0] in {one.id for one in self.site.sources}:
            known = (self._id(name), name)
            self._known.sources[(root, str(number))] = known
        return known

    def _device(
        self, box: Box, settings: Mapping[str, ChannelSettings], unit: int | None = None
    ) -> Device:
        number = unit or self._units.get(box.id, 0) + 1
        self._units[box.id] = max(number, self._units.get(box.id, 0))
        key, name = self._device_id(box, number)
        device = Device(
            id=key,
            name=name,
            figures=box.figures,
            settings=settings,
            kit_item=box.id,
        )
        self.site.devices.append(device)
        return device

    def _device_id(self, box: Box, number: int) -> tuple[str, str]:
        """Id and name of a piece: those it has in another layer, where it is used in one."""
        taken = {device.name for device in self.site.devices}
        if self._known is None:
            return self._id(box.name), free_name(box.name, taken)
        known = self._known.devices.get((box.id, number))
        if known is None:
            name = free_name(box.name, taken | self._known.names)
            known = self._known.devices[(box.id, number)] = (self._id(box.name), name)
            self._known.names.add(name)
            self._known.pieces[known[0]] = (box.id, number)
        return known

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
        return self._device(box, {}, unit=1 if self._known is not None else None)

    def _side(self, box: Box, place: tuple[int, int] | None) -> tuple[str, int]:
        """Device and side: the one that is said, else the next free one of a box that takes several signals."""
        if place is not None:
            unit, side = place
            key = f"{box.id}#{unit}"
            if key not in self._mixers:
                self._mixers[key] = (self._device(box, {}, unit).id, 0)
            return self._mixers[key][0], side
        most = box.figures.lines_kept_apart()
        device_id, used = self._mixers.get(box.id, ("", most))
        if used >= most:
            device_id, used = self._device(box, {}).id, 0
        self._mixers[box.id] = (device_id, used + 1)
        return device_id, used

    def _mixer_side(
        self, box: Box, before: Sequence[Box], place: tuple[int, int] | None, *, is_air: bool
    ) -> tuple[str, str, str]:
        """Device, channel and output of a side of a box that takes several signals."""
        figures = box.figures
        device_id, used = self._side(box, place)
        channel = side_channel(box, used, is_microphone=is_air and bool(before))
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
        known = None if self._known is None else self._known.links.get((start, end))
        link = known or Link(id=self._id(f"{signal.name} link"), start=start, end=end)
        self.site.links.append(link)
        if run is not None and (known is None or known.cable is None):
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
        at = self._places.get(signal.id)
        for number, box in enumerate(connection.boxes):
            figures, before = box.figures, connection.boxes[:number]
            place = None if at is None else at.units[number]
            if figures.lines_kept_apart() > 1:
                device_id, port, leave = self._mixer_side(box, before, place, is_air=signal.is_air)
            else:
                device_id, port, leave = self._simple(box, signal, before, place)
            enter = figures.plug_at(port)
            is_near = figures.use in {"inline_preamp", "preamp"}
            length = SHORT_M if is_near else SOURCE_M
            run = None if out is None or enter is None else (out, enter, length)
            link = self._link(signal, start, f"{device_id}:{port}", run)
            first = first or link
            start, out = f"{device_id}:{leave}", figures.output_plug()
        recorder = self._recorder(connection.recorder)
        free = (n for n in connection.inputs.names if f"{recorder.id}:{n}" not in self._taken)
        port = next(free) if at is None else at.port
        end = f"{recorder.id}:{port}"
        self._taken.add(end)
        self._set_input(recorder, port, signal)
        plug = connection.recorder.figures.input_plug(connection.mode)
        length = STAGE_M if connection.boxes else SOURCE_M
        run = None if out is None or plug is None else (out, plug, length)
        link = self._link(signal, start, end, run)
        self._line(signal, (first or link).id)

    def _simple(
        self, box: Box, signal: Signal, before: Sequence[Box], place: tuple[int, int] | None
    ) -> tuple[str, str, str]:
        figures = box.figures
        port = figures.input_ports()[0]
        given = figures.settings_for(port, distance_m=signal.distance_m, use_battery=True)
        settings = {port: ChannelSettings(**given)} if given else {}
        fed = phantom_of(box, port, before)
        if fed is not None:
            settings[phantom_channel(fed)] = ChannelSettings(phantom=True)
        unit = None if place is None else place[0]
        return (
            self._device(box, settings, unit).id,
            port,
            figures.outputs_reached(port, settings)[0],
        )

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
        used: dict[str, int] = {} if self._known is None else dict(self._known.busy)
        kept = [*self.base.links]
        if self._known is not None:
            kept += [link for link in self.site.links if link.cable is not None]
        for link in kept:
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


def side_channel(box: Box, side: int, *, is_microphone: bool) -> str:
    """The input of a box that takes several signals, for the one on a side of it, from 0."""
    ports = channels_for(box.figures, is_microphone=is_microphone)
    return ports[min(side, len(ports) - 1)]


def build(
    session: Session,
    signals: Sequence[Signal],
    answer: Answer,
    *,
    identities: Identities | None = None,
    places: Mapping[str, Place] | None = None,
    roots: Mapping[str, str] | None = None,
) -> tuple[Session, tuple[Picked, ...]]:
    """The session with a patch of the chosen ways in the place of all lines that are not fixed.

    `places` say, by signal, through which pieces and into which input, `identities` what those are called in other
    layers, `roots` which part a part is a double of; without them everything is taken in its order.

    raises: EditError if it does not hold together
    """
    builder = _Builder(session, answer, identities, places, roots)
    for signal in signals:
        builder.add(signal)
    return builder.finish()
