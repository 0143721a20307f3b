"""Where the noise comes from, measured: the spectrum in the pauses beside the parts that are computed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.assess import LineAssessment
from verve.core.check import words
from verve.core.explain import origin_of_noise
from verve.core.measure import BANDS_HZ, Spectrum
from verve.core.sound import noise_thirds
from verve.core.words import fill

FITS_DB = 4.0
"""A third that is nearer to what is computed than this fits; a pause of a second tells no more."""
_WIDE = 2
"""So many thirds beside each other must stand out: one alone may be chance, or a line of hum."""
_BASS_HZ, _TREBLE_HZ = 250.0, 2000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class NoisePicture:
    """What is computed of a line's noise, by third: all of it, the room alone, the equipment alone.

    unit: dBFS, a full-scale sine being 0; None where there is nothing
    """

    bands_hz: tuple[float, ...]
    all_dbfs: tuple[float | None, ...]
    room_dbfs: tuple[float | None, ...]
    equipment_dbfs: tuple[float | None, ...]
    parts: tuple[tuple[str, float], ...]
    """The origins with their level over all thirds, the loudest first."""


def noise_picture(item: LineAssessment, rate_hz: int) -> NoisePicture | None:
    """What is computed of the noise of a line; None for one that cannot be computed."""
    staged = item.state.staged
    found = noise_thirds(item.state, is_alive=item.is_alive, rate_hz=rate_hz)
    if staged is None or not found:
        return None
    names = {part.key: origin_of_noise(item.state, part) for part in staged.parts}
    by_name: dict[str, np.ndarray] = {}
    for (key, _), powers in found.items():
        name = names.get(key, words.OTHER_GEAR)
        by_name[name] = by_name.get(name, np.zeros(len(BANDS_HZ))) + powers
    rooms = [powers for name, powers in by_name.items() if name == words.ROOM_NAME]
    room = sum(rooms, np.zeros(len(BANDS_HZ)))
    whole = sum(by_name.values(), np.zeros(len(BANDS_HZ)))
    levels = [(name, _level(float(powers.sum()))) for name, powers in by_name.items()]
    return NoisePicture(
        bands_hz=BANDS_HZ,
        all_dbfs=_levels(whole),
        room_dbfs=_levels(room),
        equipment_dbfs=_levels(whole - room),
        parts=tuple(
            sorted(((n, db) for n, db in levels if db is not None), key=lambda row: -row[1])
        ),
    )


def _level(power: float) -> float | None:
    return 10.0 * float(np.log10(2.0 * power)) if power > 1e-20 else None


def _levels(powers: np.ndarray) -> tuple[float | None, ...]:
    return tuple(_level(float(power)) for power in powers)


def noise_fits(picture: NoisePicture, spectrum: Spectrum) -> str:
    """What of a measured noise fits what is computed, and what does not, as a sentence."""
    over = [
        (hz, level - computed)
        for hz, level, computed in zip(
            picture.bands_hz, spectrum.levels_dbfs, picture.all_dbfs, strict=False
        )
        if level is not None and computed is not None
    ]
    if not over:
        return ""
    above = _runs([(hz, by) for hz, by in over if by > FITS_DB], over)
    below = _runs([(hz, by) for hz, by in over if by < -FITS_DB], over)
    first = picture.parts[0][0] if picture.parts else ""
    if not above and not below:
        return fill(words.NOISE_FITS, part=first)
    said = []
    for hz, by_db in above[:2]:
        fits = (
            words.BASS_FITS
            if hz < _BASS_HZ
            else words.TREBLE_FITS
            if hz > _TREBLE_HZ
            else words.MIDDLE_FITS
        )
        said.append(fill(words.NOISE_ABOVE, by_db=by_db, hz=_plain_hz(hz), fits=fits))
    if not above:
        hz, by_db = below[0]
        said.append(fill(words.NOISE_BELOW, by_db=-by_db, hz=_plain_hz(hz)))
    return " ".join(said)


def _plain_hz(hz: float) -> float:
    """A frequency as people say it."""
    digits = 10.0 ** (len(str(int(hz))) - 2)
    return round(hz / digits) * digits


def _runs(
    chosen: Sequence[tuple[float, float]], every: Sequence[tuple[float, float]]
) -> list[tuple[float, float]]:
    """Of thirds that stand out those that have neighbours: by run its strongest, the strongest run first."""
    places = {hz: n for n, (hz, _) in enumerate(every)}
    runs: list[list[tuple[float, float]]] = []
    for hz, by_db in chosen:
        if runs and places[hz] == places[runs[-1][-1][0]] + 1:
            runs[-1].append((hz, by_db))
        else:
            runs.append([(hz, by_db)])
    wide = [max(run, key=lambda row: abs(row[1])) for run in runs if len(run) >= _WIDE]
    return sorted(wide, key=lambda row: -abs(row[1]))
