"""A sound file as a take: logged with what is set up now, its figures beside what was computed."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from verve.core.assess import Assessment
from verve.core.errors import EditError
from verve.core.recordings._rounds import in_order, moments_of
from verve.core.session import (
    Figure,
    Session,
    Snapshot,
    Sound,
    Take,
    TakeTrack,
    add_take,
    layer_of,
    next_take,
)
from verve.core.units import to_thousandth

_SAME_LENGTH_S = 1.0


def sounds_of_take(session: Session, sound: Sound) -> tuple[Sound, ...]:
    """The files that belong to one take with this one: recorded and brought in with it, as long as it is, with other
    signals. Of several files of a signal it is the one that comes as late among its own as this one does."""
    return _together(sound, _places(session.sounds, sound))


def _together(sound: Sound, places: Mapping[str, tuple[int, Sound]]) -> tuple[Sound, ...]:
    found, taken = [sound], {signal for signal in sound.signals if signal}
    mine, _ = places.get(sound.id, (0, sound))
    for place, one in places.values():
        theirs = {signal for signal in one.signals if signal}
        if place == mine and theirs and not theirs & taken:
            found.append(one)
            taken |= theirs
    return tuple(found)


def sounds_without_take(session: Session) -> tuple[tuple[Sound, ...], ...]:
    """All files that hold a signal and are in no take yet: each group is one take, in the order of recording."""
    logged = {(track.content, track.file) for take in session.takes for track in take.tracks}
    contents, files = {content for content, _ in logged}, {file for _, file in logged}
    lines, done = {line.id for line in session.setup.lines}, set[str]()
    found: list[tuple[Sound, ...]] = []
    alike: dict[tuple[str, str, int, int], dict[str, tuple[int, Sound]]] = {}
    for sound in sorted(session.sounds, key=lambda one: (one.recorded_at, in_order(one.name))):
        is_open = sound.role == "take" and lines & set(sound.signals) and sound.id not in done
        if not is_open or sound.content in contents or sound.file in files:
            continue
        # Which are like it depends on no more than these: a take of many files asks once.
        key = sound.added_at, sound.recorded_at, sound.sample_rate_hz, sound.frames
        if key not in alike:
            alike[key] = _places(session.sounds, sound)
        together = _together(sound, alike[key])
        done |= {one.id for one in together}
        found.append(together)
    return tuple(found)


def with_takes(
    session: Session,
    assessment: Assessment,
    groups: Sequence[Sequence[Sound]],
    recorded_at: Callable[[Sound], str],
) -> Session:
    """The session with each group of files logged as a take; `recorded_at` is asked of a file that does not say.

    raises: EditError where a group has no channel that is assigned to a signal
    """
    for together in groups:
        take = take_from(together, assessment, recorded_at(together[0]))
        take_id, name = next_take(session)
        session = add_take(session, take.model_copy(update={"id": take_id, "name": name}))
    return session


def _is_alike(one: Sound, sound: Sound) -> bool:
    return (
        one.role == "take"
        and one.added_at == sound.added_at != ""
        and one.sample_rate_hz == sound.sample_rate_hz
        and abs(one.seconds - sound.seconds) <= _SAME_LENGTH_S
        and (
            one.recorded_at == sound.recorded_at
            or len(set(moments_of([one.recorded_at, sound.recorded_at]))) == 1
        )
    )


def _places(sounds: Sequence[Sound], sound: Sound) -> dict[str, tuple[int, Sound]]:
    """Those like a sound: how many files with a signal of its own come before each by name."""
    counts: dict[str, int] = {}
    places: dict[str, int] = {}
    alike = [one for one in sounds if _is_alike(one, sound)]
    for one in sorted(alike, key=lambda one: in_order(one.name)):
        own = [signal for signal in one.signals if signal]
        places[one.id] = max((counts.get(signal, 0) for signal in own), default=0)
        counts.update(dict.fromkeys(own, places[one.id] + 1))
    return {one.id: (places[one.id], one) for one in alike}


def take_from(sounds: Sequence[Sound], assessment: Assessment, recorded_at: str) -> Take:
    """The take that these files are, with the settings and the layer of now.

    Where the files say when they were recorded, that holds, not `recorded_at`.

    raises: EditError where no channel is assigned to a signal
    """
    tracks = [
        _track(sound, channel, signal, assessment)
        for sound in sounds
        for channel, signal in enumerate(sound.signals)
        if signal is not None and assessment.line(signal) is not None
    ]
    if not tracks:
        raise EditError(f"{sounds[0].name}: no channel is assigned to a signal yet")
    take_id, name = next_take(assessment.session)
    layer = layer_of(assessment.session)
    return Take(
        id=take_id,
        name=name,
        recorded_at=min(
            (one.recorded_at for one in sounds if one.recorded_at), default=recorded_at
        ),
        seconds=max(sound.seconds for sound in sounds),
        # Whoever brings in a recording means the song, from its quietest to its loudest.
        play="phrase",
        tracks=tuple(tracks),
        setup=Snapshot.of(assessment.session.setup),
        layer=None if layer is None else layer.id,
        notes=f"Imported: {', '.join(sound.name for sound in sounds)}",
    )


def _track(sound: Sound, channel: int, signal: str, assessment: Assessment) -> TakeTrack:
    item = assessment.line(signal)
    assert item is not None
    figures = sound.figures.channels[channel]
    return TakeTrack(
        line=signal,
        name=item.line.name,
        file=sound.file,
        channel=channel,
        content=sound.content,
        size_bytes=sound.size_bytes,
        peak_dbfs=Figure(
            measured=figures.peak_dbfs, predicted=to_thousandth(item.predicted_peak_dbfs("phrase"))
        ),
        noise_dbfs_a=Figure(
            measured=figures.noise_dbfs_a, predicted=to_thousandth(item.noise_dbfs_a)
        ),
        rms_dbfs=figures.rms_dbfs,
        clipped_frames=figures.clipped_frames,
    )
