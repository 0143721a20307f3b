"""The plan of the day: every layer of the brief patched, in its order, with the fewest cables plugged anew."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.connections import (
    Identities,
    NoSuggestion,
    Problem,
    Suggestion,
    build,
    input_groups_of,
    problem_of,
    suggest_connections,
    suggestion_of,
)
from verve.core.day import _words as words
from verve.core.day._plugs import Fixed, Plug, named_plugs, replugs, stay
from verve.core.day._solve import DayProblem, answer_of, solve_day
from verve.core.session import (
    Link,
    Pass,
    Session,
    Setup,
    keep_patch,
    layer_of,
    only_lines,
    patch_of,
    patched_layers,
    turn_to_layer,
    with_patch,
)
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class DayPlan:
    """All layers patched; the session has the wanted one set up.

    `replugs` is by layer how many cables are plugged in before it, the first being the whole set-up. `suggestion`
    tells the choices of the layer that is set up, None where it was patched before. `gap` is how many fewer there
    might be; 0 when proven.
    """

    session: Session
    layers: tuple[str, ...]
    replugs: tuple[int, ...]
    suggestion: Suggestion | None
    gap: int = 0


def roots_of(session: Session) -> Mapping[str, str]:
    """By part, the one that it is a double of, through all its doubles."""
    by_id = {part.id: part for part in session.brief.parts}
    found = {}
    for part in session.brief.parts:
        root, seen = part, {part.id}
        while root.doubles in by_id and root.doubles not in seen:
            seen.add(root.doubles)
            root = by_id[root.doubles]
        if root is not part:
            found[part.id] = root.id
    return found


def identities_of(session: Session) -> Identities:
    """What the pieces of a session are called, over all its layers in their order."""
    known, roots = Identities(), roots_of(session)
    for layer in patched_layers(session):
        setup = patch_of(session, layer)
        if setup is not None:
            known.learn(setup, roots)
    known.learn(session.setup, roots)
    return known


def day_replugs(session: Session) -> Mapping[str, int]:
    """By layer that has a patch, how many cables are plugged in before it; the first is the whole set-up."""
    known = identities_of(session)
    layers = patched_layers(session)
    plugs = [named_plugs(patch_of(session, key) or Setup(), known) for key in layers]
    return dict(zip(layers, replugs(plugs), strict=True))


def is_locked(setup: Setup | None) -> bool:
    """Whether anything of a patch is to stay as it is."""
    return setup is not None and any(line.is_fixed for line in setup.lines)


def plan_day(
    session: Session,
    layer_id: str = "",
    *,
    anew: bool = False,
    again: Collection[str] = (),
    progress: Callable[[float], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> DayPlan | NoSuggestion:
    """Patch every layer that has no patch yet around those that have one, and set one of them up.

    `again` are layers that are patched anew in any case; `anew` patches all of them anew but those with a locked
    signal, or with takes. Where a layer finds no connections
    in the kit, what that one lacks is told as for it alone.

    raises: CancelledError if it is no longer wanted
    """
    kept = keep_patch(session)
    passes = [one for one in kept.brief.passes if _is_heard(kept, one)]
    if not passes:
        return NoSuggestion(signals=(), why=words.NO_LAYERS)
    staying = set(patched_layers(kept))
    if anew:
        recorded = {take.layer for take in session.takes}
        staying = {key for key in staying if key in recorded or is_locked(patch_of(kept, key))}
    staying -= set(again)
    wanted = next((one for one in passes if one.id == layer_id), passes[0])
    roots, known = roots_of(kept), Identities()
    for key in staying:
        known.learn(patch_of(kept, key) or Setup(), roots)
    bare = kept.model_copy(update={"setup": only_lines(kept.setup, ()), "layer": None})
    layers: list[Problem | Fixed] = []
    for number, item in enumerate(passes):
        if item.id in staying:
            layers.append(_fixed(kept, patch_of(kept, item.id) or Setup(), known))
            continue
        found = problem_of(bare, item, with_more=False, is_cancelled=is_cancelled)
        if any(not found.connections[signal.id] for signal in found.signals):
            return _lacking(bare, item)
        layers.append(found)
        if progress is not None:
            progress((number + 1) / (len(passes) + 1))
    answer = solve_day(DayProblem(layers=tuple(layers), roots=roots))
    if answer is None:
        return _lacking_first(bare, passes, layers)
    planned = kept
    plugged: dict[Plug, Link] = {}
    ever: dict[tuple[str, str], Link] = {}
    chosen: dict[str, Suggestion] = {}
    for item, layer, options in zip(passes, layers, answer.chosen, strict=True):
        if isinstance(layer, Fixed):
            plugged = _after(plugged, named_plugs(patch_of(kept, item.id) or Setup(), known))
            continue
        needed = {plug for option in options.values() for plug in option.plugs}
        staying_in = stay(plugged.keys(), needed - plugged.keys())
        here = {plug: link for plug, link in plugged.items() if plug in staying_in}
        ever |= {(link.start, link.end): link for link in plugged.values()}
        # What was pulled and comes back is the same connection, through whatever cable is free then.
        known.links = {
            place: link.model_copy(update={"cable": None, "kit_item": None})
            for place, link in ever.items()
        } | {(link.start, link.end): link for link in here.values()}
        known.stay_plugged({p: link for p, link in here.items() if p not in needed})
        found_session, picked = build(
            bare,
            layer.signals,
            answer_of(options),
            identities=known,
            places={key: option.place for key, option in options.items()},
            roots=roots,
        )
        setup = _with_old_lines(found_session.setup, patch_of(kept, item.id))
        planned = with_patch(planned, item.id, setup)
        answered = answer_of(options)
        chosen[item.id] = suggestion_of(layer, answered, found_session, picked)
        plugged = _after(plugged, named_plugs(setup, known))
    planned = _set_up(planned, wanted.id, anew=wanted.id in chosen)
    suggestion = chosen.get(wanted.id)
    counts = day_replugs(planned)
    ids = tuple(item.id for item in passes)
    return DayPlan(
        session=planned,
        layers=ids,
        replugs=tuple(counts.get(key, 0) for key in ids),
        suggestion=None if suggestion is None else replace(suggestion, session=planned),
        gap=answer.gap,
    )


def _is_heard(session: Session, item: Pass) -> bool:
    """Whether anything of a layer takes an input."""
    return any(part.capture != "computer" for part in session.brief.parts_of(item))


def _fixed(session: Session, setup: Setup, known: Identities) -> Fixed:
    """A patch that stays, and which of the phantom switches that several inputs share are on in it."""
    items = {item.id: item for item in session.kit}
    switches = {
        group.id
        for device in setup.devices
        if device.figures.records and device.kit_item in items
        for group in input_groups_of(items[device.kit_item])
        if group.switch and device.figures.has_phantom_on(group.port, device.settings)
    }
    return Fixed(plugs=frozenset(named_plugs(setup, known)), switches=frozenset(switches))


def _after(plugged: Mapping[Plug, Link], wanted: Mapping[Plug, Link]) -> dict[Plug, Link]:
    left = stay(plugged.keys(), wanted.keys() - plugged.keys())
    return {plug: link for plug, link in plugged.items() if plug in left} | dict(wanted)


def _with_old_lines(setup: Setup, before: Setup | None) -> Setup:
    """Signals that are patched anew keep their ids and colours: their takes know them by those."""
    if before is None:
        return setup
    had = {line.name: line for line in before.lines}
    taken: set[str] = set()
    lines = []
    for line in setup.lines:
        old = had.get(line.name)
        if old is not None and old.id not in taken:
            taken.add(old.id)
            line = line.model_copy(
                update={"id": old.id, "colour": old.colour, "level_target": old.level_target}
            )
        lines.append(line)
    return setup.model_copy(update={"lines": tuple(lines)})


def _set_up(session: Session, layer_id: str, *, anew: bool) -> Session:
    """The session with a layer set up; one that is set up already may have been patched anew."""
    now = layer_of(session)
    if anew and now is not None and now.id == layer_id:
        kept = next(one for one in session.patches if one.layer == layer_id)
        setup = kept.snapshot.setup
        assert setup is not None
        patches = tuple(one for one in session.patches if one.layer != layer_id)
        return session.model_copy(update={"setup": setup, "layer": layer_id, "patches": patches})
    if now is None:
        # What was set up belongs to no layer: nothing of it is kept for one.
        session = session.model_copy(update={"setup": only_lines(session.setup, ())})
    return turn_to_layer(session, layer_id)


def _lacking(session: Session, item: Pass) -> NoSuggestion:
    """What is missing for a layer alone."""
    found = suggest_connections(session, item)
    if isinstance(found, NoSuggestion):
        return found
    names = tuple(sorted({name for one in found.missing for name in one.signals}))
    things = ", ".join(one.item.name for one in found.missing)
    return NoSuggestion(signals=names, why=fill(words.LACKS, layer=item.name, things=things))


def _lacking_first(
    session: Session, passes: Sequence[Pass], layers: Collection[Problem | Fixed]
) -> NoSuggestion:
    """Of layers that the kit does not bear together, the first one that it does not bear alone."""
    for item, layer in zip(passes, layers, strict=True):
        if isinstance(layer, Problem):
            found = suggest_connections(session, item)
            if isinstance(found, NoSuggestion):
                return found
            if found.missing:
                return _lacking(session, item)
    return NoSuggestion(signals=(), why=words.ONE_RECORDER)
