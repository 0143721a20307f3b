"""A sound file as a take: logged with what is set up now, its figures beside what was computed."""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.assess import Assessment
from verve.core.errors import EditError
from verve.core.session import Figure, Session, Snapshot, Sound, Take, TakeTrack, next_take
from verve.core.units import to_thousandth

_SAME_LENGTH_S = 1.0


def sounds_of_take(session: Session, sound: Sound) -> tuple[Sound, ...]:
    """The files that belong to one take with this one: brought in with it, as long as it is, with other signals."""
    found, taken = [sound], {signal for signal in sound.signals if signal}
    for one in session.sounds:
        theirs = {signal for signal in one.signals if signal}
        is_alike = (
            one.id != sound.id
            and one.role == "take"
            and one.added_at == sound.added_at != ""
            and one.sample_rate_hz == sound.sample_rate_hz
            and abs(one.seconds - sound.seconds) <= _SAME_LENGTH_S
        )
        if is_alike and theirs and not theirs & taken:
            found.append(one)
            taken |= theirs
    return tuple(found)


def take_from(sounds: Sequence[Sound], assessment: Assessment, recorded_at: str) -> Take:
    """The take that these files are, with the settings of now.

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
    return Take(
        id=take_id,
        name=name,
        recorded_at=recorded_at,
        seconds=max(sound.seconds for sound in sounds),
        # Whoever brings in a recording means the song, from its quietest to its loudest.
        play="phrase",
        tracks=tuple(tracks),
        setup=Snapshot.of(assessment.session.setup),
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
        peak_dbfs=Figure(
            measured=figures.peak_dbfs, predicted=to_thousandth(item.predicted_peak_dbfs("phrase"))
        ),
        noise_dbfs_a=Figure(
            measured=figures.noise_dbfs_a, predicted=to_thousandth(item.noise_dbfs_a)
        ),
        rms_dbfs=figures.rms_dbfs,
        clipped_frames=figures.clipped_frames,
    )
