"""Edits of the day in time: doubles, sections, settings with names, what is armed, chosen and mixed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from pydantic import ValidationError

from verve.core.errors import EditError, InputError, from_validation_error
from verve.core.kind import ControlValue, Frozen
from verve.core.session._brief import Brief, Part, Pass
from verve.core.session._brief_edits import free_key, set_brief
from verve.core.session._edits import Change, apply_changes, clean_name, free_name, with_setup
from verve.core.session._in_time import (
    every_setup,
    keep_patch,
    known_lines,
    layer_of,
    only_lines,
)
from verve.core.session._layers import (
    Chosen,
    Mix,
    MixLine,
    NamedSettings,
    Section,
    Setting,
    Song,
    Tuning,
)
from verve.core.session._models import Session
from verve.core.session._route import Route, routes
from verve.core.session._setup import Line, Setup, Source

_COLOURS = 8
LEAST_SPARES = 2
"""At least so many takes are kept beside the one that is chosen, where there are so many."""


def _checked(model: Frozen, what: str) -> None:
    """raises: EditError for a value that a copy with changes must not have"""
    try:
        type(model).model_validate(model.model_dump(by_alias=True))
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, what))) from None
    except InputError as error:
        raise EditError(str(error)) from None


# ── layers ────────────────────────────────────────────────────────────────────────────────────
def _part_of(source: Source, name: str, performer: str) -> Part:
    """What a source that stands in no brief is as a part of one."""
    figures, is_air = source.figures, source.figures.is_acoustic
    return Part.model_validate(
        {
            "id": free_key(name, ()),
            "name": name,
            "performer": performer,
            "sound": figures if is_air else None,
            "plug": None if is_air else figures,
            "capture": "microphone" if is_air else "plug",
        }
    )


def with_layer(session: Session) -> Session:
    """The session in which all that is set up belongs to a layer of the brief; made from it where there is none."""
    now = layer_of(session)
    setup, brief = session.setup, session.brief
    people = {one.id: one.name for one in setup.performers}
    parts, sources, own = list(brief.parts), [], []
    for source in setup.sources:
        if all(part.id != source.part for part in parts):
            part = _part_of(source, source.name[:80], people.get(source.performer or "", ""))
            part = part.model_copy(
                update={
                    "id": free_key(part.name, (one.id for one in parts)),
                    "name": free_name(part.name, {one.name for one in parts})[:80],
                }
            )
            parts.append(part)
            source = source.model_copy(update={"part": part.id})
        own.append(source.part or "")
        sources.append(source)
    if now is None:
        names = {one.name for one in brief.passes}
        key = free_key("layer", (one.id for one in brief.passes))
        now = Pass(id=key, name=free_name("First layer", names))
        passes = (*brief.passes, now)
    else:
        passes = brief.passes
    whole = now.model_copy(update={"parts": tuple(dict.fromkeys((*now.parts, *own)))})
    passes = tuple(whole if one.id == whole.id else one for one in passes)
    if len(parts) > len(brief.parts) or passes != brief.passes:
        session = set_brief(session, Brief(parts=tuple(parts), passes=passes))
        session = with_setup(session, sources=tuple(sources))
    return session.model_copy(update={"layer": now.id})


def _both_sides(setup: Setup, line_id: str) -> tuple[Line, ...]:
    """A signal with the other side of its pair."""
    one = next((line for line in setup.lines if line.id == line_id), None)
    if one is None:
        raise EditError(f"{line_id}: must be a signal that is set up")
    if one.pair is None:
        return (one,)
    return tuple(line for line in setup.lines if line.pair == one.pair)


def add_double(session: Session, line_id: str, *, is_harmony: bool = False) -> Session:
    """A layer in which a signal is played once more beside itself: same player, microphone, cables, boxes, input.

    Its own line takes the input over; the layer that was set up is kept, with nothing of it armed any more.

    raises: EditError for a signal that is not set up, or that nothing feeds
    """
    lines = _both_sides(session.setup, line_id)
    session = with_layer(session)
    found = [route for route in routes(session.setup) if route.line.id in {x.id for x in lines}]
    if any(not route.has_source for route in found):
        raise EditError(f"{lines[0].name}: has no source that could play it again")
    now = layer_of(session)
    assert now is not None
    setup, brief = session.setup, session.brief
    root, first = _first_of(brief, found[0].source.part or "")
    word = "harmony" if is_harmony else "double"
    name = free_name(f"{first.name} {word}"[:76], {part.name for part in brief.parts})
    taken = [*(one.id for one in brief.parts), *(one.id for one in brief.passes)]
    key = free_key(name, taken)
    part = first.model_copy(
        update={"id": key, "name": name, "doubles": root, "is_harmony": is_harmony}
    )
    layer = Pass(
        id=key,
        name=free_name(name, {one.name for one in brief.passes}),
        parts=(key,),
        over=(*now.over, now.id),
    )
    session = keep_patch(session)
    at = [one.id for one in brief.passes].index(now.id) + 1
    passes = (*brief.passes[:at], layer, *brief.passes[at:])
    session = set_brief(session, Brief(parts=(*brief.parts, part), passes=passes))
    wanted = only_lines(setup, {line.id for line in lines})
    of_line = {route.line.id: route.source for route in found}
    names = _names_of_double(lines, first.name, name)
    fresh = []
    known, colour = dict(known_lines(session)), _free_colour(session)
    for line in lines:
        own = free_key(f"{names[line.id]} line", known)
        known[own] = names[line.id]
        fresh.append(
            line.model_copy(
                update={
                    "id": own,
                    "name": free_name(names[line.id], set(known_lines(session).values())),
                    "colour": colour,
                    "pair": None if line.pair is None else f"{key}_pair",
                    "is_fixed": False,
                    "is_armed": True,
                }
            )
        )
    played = {source.id for source in of_line.values()}
    sources = tuple(
        one.model_copy(update={"part": key}) if one.id in played else one for one in wanted.sources
    )
    turned = wanted.model_copy(update={"lines": tuple(fresh), "sources": sources})
    session = session.model_copy(
        update={
            "setup": turned,
            "layer": key,
            "mix": _with_standing(session.mix, fresh, "harmony" if is_harmony else "double"),
        }
    )
    return with_setup(session, lines=turned.lines)


def _first_of(brief: Brief, part_id: str) -> tuple[str, Part]:
    """The part that all its doubles are doubles of."""
    by_id = {part.id: part for part in brief.parts}
    part = by_id[part_id]
    seen = {part_id}
    while part.doubles in by_id and part.doubles not in seen:
        seen.add(part.doubles)
        part = by_id[part.doubles]
    return part.id, part


def _names_of_double(lines: tuple[Line, ...], part: str, name: str) -> Mapping[str, str]:
    """What the signals of a double are called: as the part, with the side they had."""
    if len(lines) == 1:
        return {lines[0].id: name}
    return {
        line.id: f"{name} {line.name.removeprefix(part).strip()}".strip()
        if line.name.startswith(part)
        else f"{name}, {line.name}"[:80]
        for line in lines
    }


def _free_colour(session: Session) -> int:
    used = [line.colour for setup in every_setup(session) for line in setup.lines]
    return min(range(_COLOURS), key=lambda colour: (used.count(colour), colour))


def _with_standing(mix: Mix, lines: list[Line], standing: str) -> Mix:
    fresh = tuple(MixLine.model_validate({"line": x.id, "standing": standing}) for x in lines)
    return mix.model_copy(update={"lines": (*mix.lines, *fresh)})


def move_layer(session: Session, layer_id: str, by: int) -> Session:
    """A layer recorded earlier or later: it changes places with the ones between.

    raises: EditError for an unknown layer
    """
    ids = [one.id for one in session.brief.passes]
    if layer_id not in ids:
        raise EditError(f"{layer_id}: must be a layer of this session")
    passes = list(session.brief.passes)
    at = ids.index(layer_id)
    passes.insert(min(max(0, at + by), len(passes) - 1), passes.pop(at))
    return set_brief(session, session.brief.model_copy(update={"passes": tuple(passes)}))


def arm_line(session: Session, line_id: str, *, is_armed: bool) -> Session:
    """Whether a signal is recorded in the next take; another one on the same input is disarmed with it.

    raises: EditError for a signal that is not set up
    """
    setup = session.setup
    if all(line.id != line_id for line in setup.lines):
        raise EditError(f"{line_id}: must be a signal that is set up")
    beside = same_input(setup, line_id) if is_armed else ()
    lines = tuple(
        line.model_copy(update={"is_armed": is_armed})
        if line.id == line_id
        else line.model_copy(update={"is_armed": False})
        if line.id in beside
        else line
        for line in setup.lines
    )
    return with_setup(session, lines=lines)


def same_input(setup: Setup, line_id: str) -> tuple[str, ...]:
    """Other signals that end in the very input that a signal ends in."""
    found: dict[str, tuple[str, str]] = {}
    for route in routes(setup):
        if route.recorder is not None:
            found[route.line.id] = (route.recorder.owner, route.recorder.in_port)
    own = found.get(line_id)
    return tuple(key for key, place in found.items() if key != line_id and place == own)


# ── the song ──────────────────────────────────────────────────────────────────────────────────
def set_song(session: Session, song: Song) -> Session:
    """Another song: tempo, sections, count-in.

    raises: EditError for a figure that cannot be
    """
    _checked(song, "Song")
    return session.model_copy(update={"song": song})


def add_section(session: Session, name: str, start_s: float, end_s: float) -> tuple[Session, str]:
    """One more section, in the order of time, and its id.

    raises: EditError for one that ends before it begins
    """
    song = session.song
    cleaned = free_name(clean_name(name)[:76], {one.name for one in song.sections})
    key = free_key(cleaned, (one.id for one in song.sections))
    try:
        fresh = Section(id=key, name=cleaned, start_s=float(start_s), end_s=float(end_s))
    except ValidationError as error:
        raise EditError(str(from_validation_error(error, cleaned))) from None
    except InputError as error:
        raise EditError(f"{cleaned}: {error}") from None
    sections = tuple(sorted((*song.sections, fresh), key=lambda one: (one.start_s, one.end_s)))
    return set_song(session, song.model_copy(update={"sections": sections})), key


def change_section(session: Session, changed: Section) -> Session:
    """A section with another name, or elsewhere in the song.

    raises: EditError for an unknown one, or one that cannot be
    """
    song = session.song
    if song.section(changed.id) is None:
        raise EditError(f"{changed.id}: must be a section of the song")
    _checked(changed, changed.name or "Section")
    sections = (changed if one.id == changed.id else one for one in song.sections)
    ordered = tuple(sorted(sections, key=lambda one: (one.start_s, one.end_s)))
    return set_song(session, song.model_copy(update={"sections": ordered}))


def remove_section(session: Session, section_id: str) -> Session:
    """Take a section away; takes of it stay, and what was chosen for it is no longer chosen.

    raises: EditError for an unknown one
    """
    song = session.song
    if song.section(section_id) is None:
        raise EditError(f"{section_id}: must be a section of the song")
    sections = tuple(one for one in song.sections if one.id != section_id)
    chosen = tuple(one for one in session.chosen if one.section != section_id)
    session = session.model_copy(update={"chosen": chosen})
    return set_song(session, song.model_copy(update={"sections": sections}))


def set_tuning(session: Session, tuning: Tuning) -> Session:
    """How often the ready check asks for strings and tuning.

    raises: EditError for a number of takes that cannot be
    """
    _checked(tuning, "Tuning")
    return session.model_copy(update={"tuning": tuning})


def tuned(session: Session) -> Session:
    """All strings are in tune now: it is asked again when the next takes are made."""
    return set_tuning(
        session, session.tuning.model_copy(update={"tuned_at": len(session.takes), "declined": 0})
    )


def decline_tuning(session: Session, day: str) -> Session:
    """Not now; the second time on a day it is not asked again that day."""
    old = session.tuning
    count = old.declined + 1 if old.day == day else 1
    return set_tuning(
        session,
        old.model_copy(update={"declined": count, "day": day, "tuned_at": len(session.takes)}),
    )


# ── settings with names ───────────────────────────────────────────────────────────────────────
def _route(session: Session, line_id: str) -> Route:
    found = next((one for one in routes(session.setup) if one.line.id == line_id), None)
    if found is None:
        raise EditError(f"{line_id}: must be a signal that is set up")
    return found


def settings_now(session: Session, line_id: str) -> tuple[Setting, ...]:
    """Everything that is set on the way of a signal, from its source to the recorder.

    raises: EditError for a signal that is not set up
    """
    route = _route(session, line_id)
    return tuple(
        Setting(
            owner=control.owner, channel=control.channel, name=control.name, value=control.value
        )
        for step in route.steps
        for control in step.controls.values()
    )


def name_settings(session: Session, line_id: str, name: str) -> tuple[Session, str]:
    """Keep how a signal is set now under a name; the same name again keeps what is set now in its place.

    raises: EditError for an empty name or a signal that is not set up
    """
    cleaned = clean_name(name)[:80]
    route = _route(session, line_id)
    same = next(
        (x for x in session.named_settings if x.line == line_id and x.name == cleaned), None
    )
    key = (
        free_key(f"{line_id} {cleaned}", (one.id for one in session.named_settings))
        if same is None
        else same.id
    )
    fresh = NamedSettings(
        id=key,
        name=cleaned,
        line=line_id,
        settings=settings_now(session, line_id),
        playing=route.source.figures.playing() if route.has_source else None,
    )
    kept = _unused(session.named_settings, line_id)
    if same is None:
        kept = (*kept, fresh)
    named = tuple(
        fresh.model_copy(update={"is_in_use": True}) if one.id == key else one for one in kept
    )
    return session.model_copy(update={"named_settings": named}), key


def _unused(named: tuple[NamedSettings, ...], line_id: str) -> tuple[NamedSettings, ...]:
    return tuple(
        one.model_copy(update={"is_in_use": False}) if one.line == line_id else one for one in named
    )


def _named(session: Session, settings_id: str) -> NamedSettings:
    for one in session.named_settings:
        if one.id == settings_id:
            return one
    raise EditError(f"{settings_id}: must be settings of this session")


def use_settings(session: Session, settings_id: str) -> Session:
    """Switch a signal to settings with a name, all of them at once, and its player with it.

    What was learnt of how loud the player is under the ones before stays with those.

    raises: EditError for unknown ones, a signal that is not set up, or a position that a control does not have
    """
    kept = _named(session, settings_id)
    route = _route(session, kept.line)
    before = settings_in_use(session, kept.line)
    changes = [
        Change(owner=one.owner, channel=one.channel, name=one.name, value=one.value)
        for one, now in ((one, _now(route, one)) for one in kept.settings)
        if now is not None and now != one.value
    ]
    session = apply_changes(session, changes)
    named = _unused(session.named_settings, kept.line)
    playing = route.source.figures.playing() if route.has_source else None
    session = session.model_copy(
        update={
            "named_settings": tuple(
                one.model_copy(update={"is_in_use": True})
                if one.id == settings_id
                else one.model_copy(update={"playing": playing})
                if before is not None and one.id == before.id
                else one
                for one in named
            )
        }
    )
    if kept.playing is None or kept.playing == playing or before is kept:
        return session
    figures = route.source.figures
    other = figures.model_copy(update={figures.level_figure: kept.playing})
    sources = tuple(
        one.model_copy(update={"figures": other}) if one.id == route.source.id else one
        for one in session.setup.sources
    )
    return with_setup(session, sources=sources)


def _now(route: Route, one: Setting) -> ControlValue:
    """What a control stands at; None where it is not on the way any more."""
    for step in route.steps:
        control = step.controls.get(one.name)
        if control is not None and (control.owner, control.channel) == (one.owner, one.channel):
            return control.value
    return None


def settings_in_use(session: Session, line_id: str) -> NamedSettings | None:
    """The settings with a name that a signal was switched to last; None where it has none."""
    for one in session.named_settings:
        if one.line == line_id and one.is_in_use:
            return one
    return None


def moved_from_settings(session: Session, settings: NamedSettings) -> tuple[Setting, ...]:
    """The settings of a name from which a signal has been moved since; none for one that is not set up."""
    if all(line.id != settings.line for line in session.setup.lines):
        return ()
    route = _route(session, settings.line)
    return tuple(
        one
        for one in settings.settings
        if (now := _now(route, one)) is not None and now != one.value
    )


def next_settings(session: Session, line_id: str) -> NamedSettings | None:
    """The settings with a name that come after those in use; None where there are none."""
    named = [one for one in session.named_settings if one.line == line_id]
    if not named:
        return None
    now = settings_in_use(session, line_id)
    return named[0] if now is None else named[(named.index(now) + 1) % len(named)]


def remove_settings(session: Session, settings_id: str) -> Session:
    """Forget settings with a name; what is set stays set.

    raises: EditError for unknown ones
    """
    gone = _named(session, settings_id)
    rest = tuple(one for one in session.named_settings if one is not gone)
    return session.model_copy(update={"named_settings": rest})


# ── choosing and mixing ───────────────────────────────────────────────────────────────────────
def choose_take(session: Session, line_id: str, section: str | None, take_id: str) -> Session:
    """Take what is heard of a signal in a section from a take; what was chosen before is kept as a spare.

    raises: EditError for a take that does not hold the signal
    """
    take = next((one for one in session.takes if one.id == take_id), None)
    if take is None or all(track.line != line_id for track in take.tracks):
        raise EditError(f"{take_id}: must be a take of that signal")
    before = next((x for x in session.chosen if x.line == line_id and x.section == section), None)
    spares: tuple[str, ...] = ()
    if before is not None:
        spares = tuple(x for x in (before.take, *before.spares) if x != take_id)
    fresh = Chosen(line=line_id, section=section, take=take_id, spares=tuple(dict.fromkeys(spares)))
    others = tuple(x for x in session.chosen if (x.line, x.section) != (line_id, section))
    return session.model_copy(update={"chosen": (*others, fresh)})


def put_aside(session: Session, take_id: str, *, is_aside: bool) -> Session:
    """Take a take out of those that are chosen from, or back among them; its sound stays.

    raises: EditError for an unknown one, or where fewer than two would be left of a section
    """
    take = next((one for one in session.takes if one.id == take_id), None)
    if take is None:
        raise EditError(f"{take_id}: must be a take of this session")
    if is_aside:
        for track in take.tracks:
            left = [
                one
                for one in session.takes
                if one.id != take_id
                and not one.aside
                and one.section == take.section
                and any(t.line == track.line for t in one.tracks)
            ]
            if len(left) < LEAST_SPARES:
                raise EditError(
                    f"{take.name}: two takes of {track.name} are always kept; record another one first"
                )
    takes = tuple(
        one.model_copy(update={"aside": is_aside or None}) if one.id == take_id else one
        for one in session.takes
    )
    chosen = tuple(
        one.model_copy(update={"spares": tuple(x for x in one.spares if x != take_id)})
        for one in session.chosen
        if not (is_aside and one.take == take_id)
    )
    return session.model_copy(update={"takes": takes, "chosen": chosen})


def note_playing(
    session: Session, take_id: str, line_id: str, late_ms: float | None, off_cents: float | None
) -> Session:
    """Keep how far behind the beat, and how far off its notes, a signal was played in a take.

    raises: EditError for a take that does not hold it
    """
    found = False
    takes = []
    for take in session.takes:
        if take.id == take_id:
            tracks = tuple(
                replace(track, late_ms=late_ms, off_cents=off_cents)
                if track.line == line_id
                else track
                for track in take.tracks
            )
            found = any(track.line == line_id for track in tracks)
            take = take.model_copy(update={"tracks": tracks})
        takes.append(take)
    if not found:
        raise EditError(f"{take_id}: must be a take of that signal")
    return session.model_copy(update={"takes": tuple(takes)})


def set_mix(session: Session, mix: Mix) -> Session:
    """Another rough mix.

    raises: EditError for a figure that cannot be
    """
    _checked(mix, "Rough mix")
    return session.model_copy(update={"mix": mix})


def change_mix_line(session: Session, changed: MixLine) -> Session:
    """How one signal stands in the rough mix.

    raises: EditError for a signal that the session does not have, or a figure that cannot be
    """
    if changed.line not in known_lines(session):
        raise EditError(f"{changed.line}: must be a signal of this session")
    _checked(changed, "Rough mix")
    others = tuple(one for one in session.mix.lines if one.line != changed.line)
    return set_mix(session, session.mix.model_copy(update={"lines": (*others, changed)}))
