"""Parts of a brief from the catalogue: what can be played, and how each can be taken."""

from __future__ import annotations

from collections.abc import Mapping

from verve.core.catalogue._entries import Catalogue, Ensemble
from verve.core.kind import SourceFigures
from verve.core.session import Part

AMPLIFIERS: Mapping[bool, str] = {False: "guitar_amplifier", True: "bass_amplifier"}
_PICKUP_INSIDE = "piezo_with_preamp"
"""What an acoustic instrument with a pickup usually has."""

TAKES: Mapping[str, str] = {
    "microphone": "one microphone",
    "pair": "two microphones, stereo",
    "both": "microphone and pickup",
    "plug": "its plug, direct",
    "amplifier": "its amplifier, with a microphone",
    "plug_and_amplifier": "direct, and its amplifier",
    "stereo": "both outputs, stereo",
}
"""Every way to take a part, in words. What is taken direct can get a simulated amplifier afterwards."""


def takes_for(figures: SourceFigures) -> tuple[str, ...]:
    """The ways in which a source can be taken, the usual one first."""
    return figures.takes


def part_of(
    entries: Catalogue, key: str, take: str, *, name: str = "", performer: str = ""
) -> Part:
    """A part that plays one catalogue source, taken in one of its ways.

    raises: KeyError for an unknown source; InputError for a way it cannot be taken in
    """
    entry = entries.sources[key]
    figures = entry.figures
    called = name.strip()[:80] or entry.name
    amplifier = entries.sources[AMPLIFIERS["bass" in key]].figures
    sound = figures if figures.is_acoustic else None
    plug = None if sound is not None else figures
    capture = take
    if take == "both":
        plug = entries.sources[_PICKUP_INSIDE].figures
    elif take == "amplifier":
        sound, plug, capture = amplifier, figures, "microphone"
    elif take == "plug_and_amplifier":
        sound, plug, capture = amplifier, figures, "both"
    return Part.model_validate(
        {
            "id": "part",
            "name": called,
            "performer": performer.strip()[:80],
            "sound": sound,
            "plug": plug,
            "capture": capture,
        }
    )


def source_of(part: Part) -> SourceFigures:
    """What somebody plays in a part: the instrument, not the amplifier it goes through."""
    is_amplified = part.plug is not None and part.sound is not None
    if is_amplified and part.sound is not None and part.sound.entry in AMPLIFIERS.values():
        assert part.plug is not None
        return part.plug
    figures = part.sound if part.sound is not None else part.plug
    assert figures is not None
    return figures


def take_of(part: Part) -> str:
    """The way in which a part is taken, as a key of `TAKES`."""
    amplified = part.sound is not None and part.sound.entry in AMPLIFIERS.values()
    if amplified and part.plug is not None:
        return "amplifier" if part.capture == "microphone" else "plug_and_amplifier"
    return part.capture


def taken_as(entries: Catalogue, part: Part, take: str) -> Part:
    """The same part taken in another way."""
    figures = source_of(part)
    key = next((k for k, e in entries.sources.items() if e.figures == figures), None)
    if key is not None:
        fresh = part_of(entries, key, take, name=part.name, performer=part.performer)
        return fresh.model_copy(
            update={"id": part.id, "principle": part.principle, "distance_m": part.distance_m}
        )
    plug = part.plug
    if take == "both" and plug is None:
        plug = entries.sources[_PICKUP_INSIDE].figures
    return part.model_copy(update={"capture": take, "plug": plug})


def ensemble_parts(entries: Catalogue, ensemble: Ensemble) -> tuple[Part, ...]:
    """The parts of a usual ensemble."""
    found = []
    for one in ensemble.parts:
        sound = None if one.sound is None else entries.sources[one.sound].figures
        plug = None if one.plug is None else entries.sources[one.plug].figures
        found.append(
            Part.model_validate(
                {
                    "id": "part",
                    "name": one.name,
                    "sound": sound,
                    "plug": plug,
                    "capture": one.capture,
                }
            )
        )
    return tuple(found)
