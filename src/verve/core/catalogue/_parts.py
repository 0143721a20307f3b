"""Parts of a brief from the catalogue: what can be played, and how each can be taken."""

from __future__ import annotations

from collections.abc import Mapping

from verve.core.catalogue._entries import Catalogue, Ensemble
from verve.core.kind import SourceFigures
from verve.core.session import Part

AMPLIFIERS: Mapping[bool, str] = {False: "guitar_amplifier", True: "bass_amplifier"}
TAKES: Mapping[str, str] = {
    "microphone": "one microphone",
    "pair": "two microphones, stereo",
    "both": "microphone and pickup",
    "plug": "direct (DI or instrument input)",
    "amplifier": "its amplifier, with a microphone",
    "plug_and_amplifier": "direct, and its amplifier",
    "stereo": "both outputs, stereo",
    "computer": "nothing: it sounds in the computer",
}
"""Every way to take a part, in words. What is taken direct can get a simulated amplifier afterwards."""


_OF_A_PICKUP = ("both", "plug")


def pickup_of(entries: Catalogue, figures: SourceFigures) -> SourceFigures | None:
    """The pickup that an instrument in the air usually has; None for what has none, as a voice."""
    entry = entries.sources.get(figures.entry or "")
    key = None if entry is None else entry.pickup
    return None if key is None else entries.sources[key].figures


def takes_for(
    entries: Catalogue, figures: SourceFigures, *, has_pickup: bool = False
) -> tuple[str, ...]:
    """The ways in which a source can be taken, the usual one first.

    From a pickup, alone or with a microphone, only what usually has one, or what `has_pickup`.
    """
    if not figures.is_acoustic:
        return figures.takes
    if has_pickup or pickup_of(entries, figures) is not None:
        return (*figures.takes, *_OF_A_PICKUP)
    return figures.takes


def part_of(
    entries: Catalogue, key: str, take: str, *, name: str = "", performer: str = ""
) -> Part:
    """A part that plays one catalogue source, taken in one of its ways.

    raises: KeyError for an unknown source; InputError for a way it cannot be taken in
    """
    entry = entries.played()[key]
    figures = entry.figures
    called = name.strip()[:80] or entry.name
    amplifier = entries.sources[AMPLIFIERS["bass" in key]].figures
    sound = figures if figures.is_acoustic else None
    plug = None if sound is not None else figures
    capture = take
    if sound is not None and take in _OF_A_PICKUP:
        plug = pickup_of(entries, figures)
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
    key = next((k for k, e in entries.played().items() if e.figures == figures), None)
    is_known = (
        part.plug is None or part.plug == figures or take in {"amplifier", "plug_and_amplifier"}
    )
    if key is not None and is_known:
        fresh = part_of(entries, key, take, name=part.name, performer=part.performer)
        return fresh.model_copy(
            update={"id": part.id, "principle": part.principle, "distance_m": part.distance_m}
        )
    plug = part.plug
    if take in _OF_A_PICKUP and plug is None:
        plug = pickup_of(entries, figures)
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
