"""The commands that read sound files: what is measured of one, and how two go together."""

from __future__ import annotations

from typing import TYPE_CHECKING

from verve.core.errors import FileError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Callable
    from pathlib import Path
    from typing import Any

    from verve.core.units import FloatArray

    Print = Callable[[Any], None]


def measure(options: argparse.Namespace, print_json: Print) -> int:
    """Everything that a sound file shows."""
    from verve.core.sheets import measurement_data, measurement_text
    from verve.core.soundfiles import measure_file

    found = measure_file(options.file)
    if options.json:
        print_json(measurement_data(options.file, found))
    else:
        print(measurement_text(options.file, found))
    return 0


def loopback(options: argparse.Namespace, print_json: Print) -> int:
    """What of a sent file came back in another."""
    from verve.core.measure import loopback_of
    from verve.core.sheets import loopback_data, loopback_text

    # Both are compared as a whole, in memory.
    sent, returned, rate_hz = _both(options.sent, options.returned, 120.0)
    found = loopback_of(sent, returned, rate_hz)
    if options.json:
        print_json(loopback_data(found))
    else:
        print(loopback_text(found))
    return 0


def align(options: argparse.Namespace, print_json: Print) -> int:
    """How far one track of an instrument is behind another."""
    from verve.core.measure import alignment_of
    from verve.core.sheets import alignment_data, alignment_text

    first, second, rate_hz = _both(options.first, options.second, 600.0)
    found = alignment_of(first.mean(axis=0), second.mean(axis=0), rate_hz)
    if options.json:
        print_json(alignment_data(found))
    else:
        print(alignment_text(found))
    return 0


def tune(options: argparse.Namespace, print_json: Print) -> int:
    """The pitch of a stretch of a file."""
    from verve.core.measure import pitch_of
    from verve.core.sheets import pitch_data, pitch_text
    from verve.core.soundfiles import read_sound

    samples, rate_hz = read_sound(options.file)
    length_s = samples.shape[1] / rate_hz
    begin_s = options.from_s or 0.0
    end_s = length_s if options.to_s is None else options.to_s
    if not 0.0 <= begin_s < min(end_s, length_s):
        said = f"has no sound from {begin_s:g} to {end_s:g} s; it is {length_s:.2f} s long"
        raise FileError(options.file, said, "Choose a stretch within it.")
    stretch = samples[:, round(begin_s * rate_hz) : round(end_s * rate_hz)].mean(axis=0)
    found = pitch_of(stretch, rate_hz, options.a4)
    if options.json:
        print_json(pitch_data(found))
    else:
        print(pitch_text(found))
    return 0


def _both(one: Path, other: Path, most_s: float) -> tuple[FloatArray, FloatArray, int]:
    """Two files of the same rate, no longer than that.

    raises: FileError naming both rates where they differ
    """
    from verve.core.soundfiles import read_sound

    first, rate_hz = read_sound(one, most_s)
    second, other_hz = read_sound(other, most_s)
    if rate_hz != other_hz:
        said = f"has {other_hz} Hz, and {one.name} has {rate_hz} Hz"
        raise FileError(other, said, "Bring both to the same sample rate.")
    return first, second, rate_hz
