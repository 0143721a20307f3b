"""Finding things by people's words: what they are called here, and what else they are called."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

ALSO: Mapping[str, str] = {
    "voice": "vocal, vocals, singer, singing, lead vocal, song",
    "voice_singing": "lead vocals",
    "voice_speaking": "speech, talking, spoken word, reading",
    "voice_shouted": "scream, screaming, growl, shouting, loud voice",
    "voice_whispered": "whisper",
    "choir": "backing vocals, singers",
    "double_coil": "electric guitar, e-guitar, guitar",
    "single_coil": "electric guitar, e-guitar, guitar",
    "bass": "bass guitar, electric bass",
    "piezo": "electro-acoustic, electroacoustic guitar, acoustic guitar with pickup, pickup",
    "contact_disc": "pickup, piezo",
    "acoustic_guitar": "guitar, steel-string guitar",
    "classical_guitar": "nylon-string guitar, guitar",
    "guitar_amplifier": "guitar amp, amp, cabinet",
    "bass_amplifier": "bass amp, amp, cabinet",
    "drum_kit": "drums, drum set, drummer",
    "bass_drum": "kick drum, drums",
    "snare_drum": "drums",
    "tom": "drums",
    "cymbals": "drums, overheads",
    "hi_hat": "drums",
    "hand_drum": "percussion",
    "box_drum": "percussion",
    "drum_machine": "beat, beats, drums, rhythm machine",
    "computer_output": "backing track, laptop, playback",
    "consumer_player": "backing track, phone, playback",
    "keyboard_output": "keys, piano, synth",
    "synth_output": "keys, keyboard, synthesizer",
    "stage_piano": "keys, keyboard, electric piano",
    "moving_coil": "dynamic microphone, dynamic, vocal microphone",
    "condenser": "capacitor microphone, studio microphone, vocal microphone",
    "usb_microphone": "podcast microphone, computer microphone",
    "interface": "audio interface, sound card, usb interface, converter",
    "recorder": "portable recorder, field recorder",
    "small_mixer": "desk, mixing desk",
    "powered_loudspeaker": "speaker, monitor, studio monitor",
    "monitor": "speaker, loudspeaker, studio monitor",
    "stage_wedge": "speaker, loudspeaker, floor monitor",
    "shield": "pop filter, pop screen, pop shield",
    "foam_cap": "windscreen, pop filter",
    "wind_cover": "windscreen",
    "recording_software": "recording program, multitrack, workstation, DAW",
    "stand": "mic stand, microphone stand, tripod",
    "arm_desk": "mic stand, desk arm",
    "shock_mount": "suspension, spider, shockmount",
    "thread": "adapter, mic thread, screw",
    "jack_large": "headphone adapter, plug adapter, adapter",
    "plug_c": "usb adapter, adapter",
    "y_insert": "adapter, split cable",
    "headphone_splitter": "headphone amp, headphone amplifier, splitter",
    "closed": "headphones, cans",
    "open_3": "headphones, cans",
    "in_ear": "headphones, earphones, in-ears",
    "balanced": "xlr cable, mic cable, microphone cable",
    "instrument": "guitar cable, lead, jack cable",
    "line": "jack cable, patch cable",
    "passive_di": "direct box, di",
    "active_di": "direct box, di",
    "inline_preamp": "mic booster, activator",
}
"""What else things are called, by how their keys begin."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Searched:
    """A thing by its name, its key in the catalogue (empty for somebody's own), and words of its kind."""

    name: str
    key: str = ""
    kind_words: tuple[str, ...] = ()


def _plain(text: str) -> str:
    return re.sub(r"[\s\-_]+", " ", text.casefold()).strip()


def _also(thing: Searched) -> list[str]:
    own = [said for begin, said in ALSO.items() if thing.key.startswith(begin)]
    return [_plain(one) for said in own for one in said.split(",")] + [
        _plain(word) for word in thing.kind_words
    ]


def _rank(wanted: str, thing: Searched) -> int | None:
    """How well it fits, the best lowest; None for what does not."""
    name, also = _plain(thing.name), _also(thing)
    if name.startswith(wanted):
        return 0
    if wanted in also:
        return 1
    words = wanted.split()
    in_name = name.split()
    if all(any(own.startswith(word) for own in in_name) for word in words):
        return 2
    if any(phrase.startswith(wanted) for phrase in also):
        return 3
    spoken = [*in_name, *(own for phrase in also for own in phrase.split())]
    if all(any(own.startswith(word) for own in spoken) for word in words):
        return 4
    return 5 if all(word in name for word in words) else None


def search(text: str, things: Sequence[Searched]) -> tuple[int, ...]:
    """Which things fit some words, by their places, the likeliest first; all for no words.

    Of equals what stands first stays first: a list begins with what is usual.
    """
    wanted = _plain(text)
    if not wanted:
        return tuple(range(len(things)))
    ranked = [
        (rank, at) for at, one in enumerate(things) if (rank := _rank(wanted, one)) is not None
    ]
    return tuple(at for _, at in sorted(ranked))
