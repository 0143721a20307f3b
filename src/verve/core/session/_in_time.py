"""Which layer is set up, what the others have, and what stays when the patch is turned from one to another."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping

from verve.core.errors import EditError, InputError
from verve.core.kind import NOTHING_SET, DeviceFigures, FrozenDict
from verve.core.session._brief import Pass
from verve.core.session._edits import placed, with_setup
from verve.core.session._layers import LayerPatch
from verve.core.session._learning_edits import with_playing_of
from verve.core.session._models import Session, Take
from verve.core.session._route import routes
from verve.core.session._setup import Device, Line, Link, Setup, check_setup, split_port
from verve.core.session._snapshot import Snapshot


def only_lines(setup: Setup, line_ids: Collection[str]) -> Setup:
    """Some signals with all that they pass, and nobody else; room, placement and settings stay as they are."""
    wanted = [line for line in setup.lines if line.id in line_ids]
    by_start: dict[str, list[Link]] = {}
    for link in setup.links:
        by_start.setdefault(split_port(link.start)[0], []).append(link)
    first = {link.id: link for link in setup.links}
    links: dict[str, Link] = {}
    waiting = [first[line.first_link] for line in wanted]
    while waiting:
        link = waiting.pop()
        if link.id not in links:
            links[link.id] = link
            waiting += by_start.get(split_port(link.end)[0], [])
    used = {split_port(p)[0] for link in links.values() for p in (link.start, link.end)}
    sources = tuple(s for s in setup.sources if s.id in used)
    people = {source.performer for source in sources}
    return setup.model_copy(
        update={
            "lines": tuple(wanted),
            "links": tuple(link for link in setup.links if link.id in links),
            "devices": tuple(d for d in setup.devices if d.id in used),
            "sources": sources,
            "performers": tuple(p for p in setup.performers if p.id in people),
        }
    )


def layer_of(session: Session) -> Pass | None:
    """The layer of the brief that is set up now; None where nothing of it is."""
    passes = session.brief.passes
    known = next((one for one in passes if one.id == session.layer), None)
    if known is not None:
        return known
    now = {source.part for source in session.setup.sources if source.part is not None}
    if not now:
        return None
    fitting = [one for one in passes if now <= set(one.parts)]
    return min(fitting, key=lambda one: len(one.parts), default=None)


def patch_of(session: Session, layer_id: str) -> Setup | None:
    """What is patched for a layer: the setup itself for the one that is set up, else what is kept of it.

    What all layers share stands in it as it is now: the room, the gear under its names, who plays how loud, and
    every knob that none of its signals passes. None where nothing is patched for it, or nobody can read what is.
    """
    now = layer_of(session)
    if now is not None and now.id == layer_id:
        return session.setup
    kept = next((one for one in session.patches if one.layer == layer_id), None)
    then = None if kept is None else kept.snapshot.setup
    return None if then is None else _carried(then, session.setup)


def patched_layers(session: Session) -> tuple[str, ...]:
    """The layers that have a patch, in the order of the brief."""
    now = layer_of(session)
    known = {one.layer for one in session.patches}
    if now is not None and session.setup.lines:
        known.add(now.id)
    return tuple(one.id for one in session.brief.passes if one.id in known)


def keep_patch(session: Session) -> Session:
    """The session that also keeps what is set up now as the patch of its layer."""
    now = layer_of(session)
    if now is None or not session.setup.lines:
        return session
    return with_patch(session, now.id, session.setup)


def with_patch(session: Session, layer_id: str, setup: Setup) -> Session:
    """The session that keeps a patch for a layer, in the place of the one it had.

    raises: EditError for a layer that the brief does not have
    """
    if all(one.id != layer_id for one in session.brief.passes):
        raise EditError(f"{layer_id}: must be a layer of this session")
    kept = LayerPatch.model_validate({"layer": layer_id, "setup": Snapshot.of(setup)})
    others = {one.layer: one for one in session.patches} | {layer_id: kept}
    ordered = tuple(others[one.id] for one in session.brief.passes if one.id in others)
    return session.model_copy(update={"patches": ordered})


def turn_to_layer(session: Session, layer_id: str) -> Session:
    """Set up another layer; what is set up now stays kept as the patch of its own.

    raises: EditError for an unknown layer, one without a patch, or one that cannot be set up any more
    """
    item = next((one for one in session.brief.passes if one.id == layer_id), None)
    if item is None:
        raise EditError(f"{layer_id}: must be a layer of this session")
    now = layer_of(session)
    if now is not None and now.id == layer_id:
        return session.model_copy(update={"layer": layer_id})
    kept = keep_patch(session)
    setup = patch_of(kept, layer_id)
    if setup is None:
        raise EditError(f"{item.name}: has no connections yet; suggest them first")
    patches = tuple(one for one in kept.patches if one.layer != layer_id)
    turned = kept.model_copy(update={"setup": setup, "layer": layer_id, "patches": patches})
    return with_setup(turned, lines=setup.lines)


def cleared_for(session: Session, layer_id: str) -> Session:
    """The session with nothing patched, ready for a layer; what was patched is kept for its own layer."""
    now = layer_of(session)
    if now is not None and now.id == layer_id:
        return session.model_copy(update={"layer": layer_id})
    kept = keep_patch(session)
    bare = only_lines(kept.setup, ())
    patches = tuple(one for one in kept.patches if one.layer != layer_id)
    return kept.model_copy(update={"setup": bare, "layer": layer_id, "patches": patches})


def known_lines(session: Session) -> Mapping[str, str]:
    """Every signal of the session and its name: of what is set up, of the other layers, of takes."""
    found = {track.line: track.name for take in session.takes for track in take.tracks}
    for one in session.patches:
        then = one.snapshot.setup
        found |= {line.id: line.name for line in (then.lines if then is not None else ())}
    return found | {line.id: line.name for line in session.setup.lines}


def every_setup(session: Session) -> Iterator[Setup]:
    """What is set up now, and what is kept for each other layer that can be read."""
    yield session.setup
    for one in session.patches:
        if one.snapshot.setup is not None:
            yield one.snapshot.setup


def last_take_of(session: Session, line_id: str) -> Take | None:
    """The newest take of a signal that is no false start; a signal belongs to one layer, so its takes do."""
    for take in reversed(session.takes):
        if not take.aside and any(track.line == line_id for track in take.tracks):
            return take
    return None


def last_good_take_of(session: Session, line_id: str) -> Take | None:
    """The newest take of a signal that somebody has called good or chosen; where there is none, the newest whole
    one."""
    chosen = {one.take for one in session.chosen if one.line == line_id}
    whole = None
    for take in reversed(session.takes):
        if take.aside or all(track.line != line_id for track in take.tracks):
            continue
        if take.rating >= GOOD_RATING or take.id in chosen:
            return take
        if whole is None and take.ended != "cut_off" and take.rating != 1:
            whole = take
    return whole


GOOD_RATING = 4
"""From so many of five on a take is a good one."""


def _used(setup: Setup) -> set[tuple[str, str]]:
    """Every channel that a signal passes, by owner, with what is set there."""
    found = set()
    for route in routes(setup):
        for step in route.steps:
            for control in (*step.controls.values(), *step.shared):
                found.add((control.owner, control.channel))
            found |= {(step.owner, channel) for channel in step.settings}
    return found


def _bears(figures: DeviceFigures, device: Device, setup: Setup) -> bool:
    """Whether gear of these figures has every port that a setup uses of a device."""
    ends = {
        port for link in setup.links for owner, port in [split_port(link.end)] if owner == device.id
    }
    starts = {
        port
        for link in setup.links
        for owner, port in [split_port(link.start)]
        if owner == device.id
    }
    return ends <= set(figures.input_ports()) and starts <= set(figures.output_ports())


def _device(then: Device, now: Device, setup: Setup, used: Collection[tuple[str, str]]) -> Device:
    """A device as it is now, with what a setup wants on the channels that its signals pass."""
    if not _bears(now.figures, then, setup):
        return then
    channels = {**now.settings, **then.settings}
    settings = {
        key: (then if (then.id, key) in used else now).settings.get(key, NOTHING_SET)
        for key in channels
    }
    return now.model_copy(
        update={
            "settings": FrozenDict(
                {k: v for k, v in settings.items() if v != NOTHING_SET or k in now.settings}
            )
        }
    )


def _carried(then: Setup, now: Setup) -> Setup:
    """A setup that was kept, with what all share as it is now."""
    used = _used(then)
    devices = {one.id: one for one in now.devices}
    sources = {one.id: one for one in now.sources}
    names = {one.id: one for one in now.performers}
    placement = now.placement.model_copy(
        update={
            "stands": FrozenDict({**then.placement.stands, **now.placement.stands}),
            "aims": FrozenDict({**then.placement.aims, **now.placement.aims}),
        }
    )
    heard = {one.who: one for one in now.monitoring.cues}
    cues = tuple(heard.pop(one.who, one) for one in then.monitoring.cues) + tuple(heard.values())
    carried = now.model_copy(
        update={
            "performers": tuple(names.get(one.id, one) for one in then.performers),
            "sources": tuple(
                one.model_copy(
                    update={
                        "figures": with_playing_of(one.figures, sources[one.id].figures),
                        "over_test_db": sources[one.id].over_test_db,
                    }
                )
                if one.id in sources and sources[one.id].figures != one.figures
                else one
                for one in then.sources
            ),
            "devices": tuple(
                _device(one, devices[one.id], then, used) if one.id in devices else one
                for one in then.devices
            ),
            "links": then.links,
            "lines": then.lines,
            "placement": placement,
            "monitoring": now.monitoring.model_copy(update={"cues": cues}),
        }
    )
    carried = placed(carried)
    try:
        check_setup(carried)
    except InputError:
        return then
    return carried


def line_of(session: Session, line_id: str) -> Line | None:
    """A signal of any layer."""
    for setup in every_setup(session):
        for line in setup.lines:
            if line.id == line_id:
                return line
    return None
