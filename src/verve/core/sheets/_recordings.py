"""What is said of the sound files of a session: rows, sentences, times."""

from __future__ import annotations

from typing import TYPE_CHECKING

from verve.core.sheets._tables import level
from verve.core.words import number

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from verve.core.measure import Recording
    from verve.core.recordings import Guess, Place
    from verve.core.session import Sound, SoundRole

ROLES: Mapping[SoundRole, str] = {
    "take": "take",
    "measurement": "measurement",
    "backing": "backing track",
}
ROLE_SAYS: Mapping[SoundRole, str] = {
    "take": "A recording of signals of this session; it can be logged under Takes",
    "measurement": "Something to be looked at, such as the noise of a room",
    "backing": "What is played over: it takes no input and no performer",
}
CHANNEL_HEAD = ("Channel", "Signal", "Peak, dBFS", "True peak", "RMS", "Noise A", "Clipped")
PLACE_HEAD = ("From", "What", "Figures")
_WHY = {
    "told": "as its take says",
    "name": "by the file’s name",
    "input": "by its input",
    "level": "by its level and noise",
    "silent": "silent",
    "unknown": "nothing tells",
}
_KINDS = {
    "loudest": "the loudest passage",
    "clipped": "touches the ceiling",
    "gap": "drop-out, a gap",
    "repeat": "drop-out, a block twice",
    "skip": "drop-out, samples missing",
    "plosive": "plosive (p or b pop)",
    "pause": "down at the noise",
}


def time_text(seconds: float, decimals: int = 3) -> str:
    """A time in a recording: 1:02.345, or 1:00:02.345 from an hour on."""
    scale = 10**decimals
    whole, part = divmod(round(max(0.0, seconds) * scale), scale)
    minutes, second = divmod(whole, 60)
    hours, minute = divmod(minutes, 60)
    head = f"{hours}:{minute:02d}" if hours else f"{minute}"
    return f"{head}:{second:02d}" + (f".{part:0{decimals}d}" if decimals else "")


def rate_text(rate_hz: int) -> str:
    """A sample rate as people say it: 44.1 kHz."""
    return f"{rate_hz / 1000:g} kHz"


def channels_text(count: int) -> str:
    """How many channels, in words where they have some."""
    return {1: "mono", 2: "stereo"}.get(count, f"{count} channels")


def sound_text(sound: Sound, rate_hz: int) -> str:
    """A file in one line: how long, in which form, how loud; and that it is converted where the session has
    another rate."""
    rate = rate_text(sound.sample_rate_hz)
    if sound.sample_rate_hz != rate_hz:
        rate += f" (played converted to the session’s {rate_text(rate_hz)})"
    figures = sound.figures
    loud = (
        ("loudness", figures.integrated_lufs, "LUFS"),
        ("range", figures.lra_lu, "LU"),
        ("true peak", figures.true_peak_dbtp, "dBTP"),
    )
    said = [f"{name} {level(value)} {unit}" for name, value, unit in loud if value is not None]
    form = [
        time_text(sound.seconds, 1),
        rate,
        *([f"{sound.bit_depth} bit"] if sound.bit_depth else []),
        channels_text(sound.channels),
    ]
    return ", ".join(form) + "; " + (", ".join(said) or "silent")


def silence_text(sound: Sound) -> str:
    """How long nothing is heard at its head."""
    return (
        f"{number(sound.figures.silence_s * 1000.0, 1)} ms of silence at its head "
        f"({round(sound.figures.silence_s * sound.sample_rate_hz)} samples)"
    )


def list_text(sound: Sound, names: Mapping[str, str]) -> str:
    """A file in a list: its name, and below it what it is."""
    signals = [names[s] for s in sound.signals if s is not None and s in names]
    what = ", ".join(signals[:2]) + (f" and {len(signals) - 2} more" if signals[2:] else "")
    if not what or what == sound.name:
        what = ROLES[sound.role]
    return f"{sound.name}\n{what}, {time_text(sound.seconds, 0)}"


def channel_rows(sound: Sound, names: Mapping[str, str]) -> list[list[str]]:
    """A row for each channel, under `CHANNEL_HEAD`; levels in dBFS."""
    return [
        [
            str(channel + 1),
            names.get(sound.signal(channel) or "", "—"),
            level(one.peak_dbfs),
            level(one.true_peak_dbtp),
            level(one.rms_dbfs),
            level(one.noise_dbfs_a),
            str(one.clipped_frames),
        ]
        for channel, one in enumerate(sound.figures.channels)
    ]


BACKING_HEAD = ("backing track", "begins", "played", "loudness", "tempo", "key", "file")


def backing_rows(sounds: Sequence[Sound]) -> list[list[str]]:
    """A row for each backing track, under `BACKING_HEAD`: what paper says of it."""
    return [
        [
            one.name,
            f"{number(one.offset_s)} s; {number(one.figures.silence_s * 1000.0, 0)} ms of silence at its head",
            f"{number(one.gain_db, sign=True)} dB" if one.gain_db else "as it is",
            "—"
            if one.figures.integrated_lufs is None
            else f"{level(one.figures.integrated_lufs)} LUFS",
            "—" if one.tempo_bpm is None else f"{number(one.tempo_bpm)} bpm",
            one.key or "—",
            one.file.rpartition("/")[2],
        ]
        for one in sounds
        if one.role == "backing"
    ]


def place_rows(places: Sequence[Place]) -> list[list[str]]:
    """A row for each place, under `PLACE_HEAD`."""
    return [[time_text(one.start_s), _KINDS[one.kind], _figures(one)] for one in places]


def _figures(place: Place) -> str:
    long_ms = (place.end_s - place.start_s) * 1000.0
    if place.kind == "clipped":
        times = f"{place.count} times, the longest" if place.count > 1 else "once,"
        return f"{times} {place.frames} samples, at {level(place.level_dbfs)} dBFS"
    if place.kind in {"loudest", "pause"}:
        what = "dBFS peak" if place.kind == "loudest" else f"dBFS A, {long_ms / 1000.0:.1f} s long"
        return f"{level(place.level_dbfs)} {what}"
    if place.kind == "skip":
        return ""
    if place.kind == "plosive":
        return f"{long_ms:.0f} ms"
    return f"{place.frames} samples, {number(long_ms, 1)} ms"


def guesses_text(guesses: Sequence[Guess], names: Mapping[str, str]) -> str:
    """What a file was taken for, and by what; empty where nothing was guessed."""
    said = [
        f"{names[one.signal]} {_WHY[one.why]}"
        for one in guesses
        if one.signal is not None and one.signal in names
    ]
    return ", ".join(said)


def pauses_text(recording: Recording, channel: int) -> str:
    """What the noise of a channel is, as a sentence."""
    found = recording.channels[channel]
    if found.noise_dbfs_a is None:
        return "There is no pause in it of which the noise could be read."
    said = f"Noise in the pauses: {level(found.noise_dbfs_a)} dBFS A, {level(found.noise_dbfs)} dBFS unweighted."
    if found.hum.mains_hz is not None:
        lines = ", ".join(f"{one.hz:.0f}" for one in found.hum.harmonics[:6])
        said += f" Mains hum, {found.hum.mains_hz} Hz: {level(found.hum.level_dbfs)} dBFS (lines at {lines} Hz)."
    return said


def programme_text(recording: Recording) -> str:
    """The loudness of a mono or stereo file, as a sentence."""
    found = recording.programme
    if found is None:
        return "Loudness is told of mono and stereo files."
    if found.integrated_lufs is None:
        return "Too short or too quiet for a loudness."
    said = f"Loudness {level(found.integrated_lufs)} LUFS; loudest 400 ms {level(found.max_momentary_lufs)}"
    if found.max_short_term_lufs is not None:
        said += f", loudest 3 s {level(found.max_short_term_lufs)}"
    return said + " LUFS."
