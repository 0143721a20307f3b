"""Mistakes that musicians really make at controls, each with what it costs and how it is mended.

Seconds are typical ones. How usual each is, against the others, is on the scale of the diagnosis.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.causes import PRIOR
from verve.core.hunt._oddity import NOTHING_ODD, Oddity

LIKELY, POSSIBLE, RARE = PRIOR[2], PRIOR[1], PRIOR[0]
TRACK, TRACKS, PREFERENCES, PHONES, NOTES, IN_ROOM = (
    "track", "tracks", "preferences", "phones", "notes", "room",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """One mistake: its name, what it costs a take, and how it is mended.

    `seen` is what a look at a place shows in a row of it, `ends_with` the swaps and switches that end it.
    """

    key: str
    title: str
    costs: str
    mend: str
    seconds: float
    prior: float = POSSIBLE
    odd: Oddity = NOTHING_ODD
    seen: tuple[tuple[str, str, str], ...] = ()
    ends_with: tuple[str, ...] = ()


AT_A_CONTROL: Final[Mapping[str, Kind]] = {
    kind.key: kind
    for kind in (
        Kind(
            key="phantom_off",
            title="Phantom power is off at {where}",
            costs="Nothing is recorded: what needs the voltage stays silent.",
            mend="Monitors down, phantom power on, wait ten seconds",
            seconds=20.0,
        ),
        Kind(
            key="pad_in",
            title="The pad of {where} is in",
            costs="The take is soft, and raised afterwards its noise comes up with it.",
            mend="Switch the pad out",
            seconds=8.0,
        ),
        Kind(
            key="pad_out",
            title="The pad of {where} is out",
            costs="The loud passages clip; nothing brings them back.",
            mend="Switch the pad in",
            seconds=8.0,
        ),
        Kind(
            key="gain_down",
            title="The gain of {where} is down",
            costs="The take is far too soft, and its noise comes up with it later.",
            mend="Turn the gain up to what the sheet says",
            seconds=8.0,
        ),
        Kind(
            key="gain_from_talking",
            title="The gain of {where} is left from talking",
            costs="Set for speech, it clips as soon as somebody plays or sings out.",
            mend="Turn the gain down to what the sheet says",
            seconds=8.0,
        ),
        Kind(
            key="volume_down",
            title="The volume of {where} is down",
            costs="Little arrives, and the noise of everything after it comes up with it.",
            mend="Turn the instrument full up",
            seconds=5.0,
        ),
        Kind(
            key="tone_down",
            title="The tone control of {where} is down",
            costs="The treble is lost, and no equaliser brings back what was not recorded.",
            mend="Turn the tone control up",
            seconds=5.0,
        ),
        Kind(
            key="fader_down",
            title="A fader of {where} is down",
            costs="Little or nothing reaches the recording.",
            mend="Put the fader to unity",
            seconds=5.0,
        ),
        Kind(
            key="pan_middle",
            title="The pan of {where} is in the middle",
            costs="It is on both tracks, and cannot be parted from its neighbour any more.",
            mend="Pan it hard to its side",
            seconds=5.0,
        ),
        Kind(
            key="battery_out",
            title="{where} has no battery in it",
            costs="Nothing is recorded: it needs its battery.",
            mend="Put a battery in",
            seconds=40.0,
        ),
        Kind(
            key="wrong_mode",
            title="The input {where} is in the wrong mode",
            costs="Wrong level, and a pickup sounds dull and thin.",
            mend="Switch the input to the mode of the sheet",
            seconds=8.0,
        ),
        Kind(
            key="wrong_side",
            title="{where} is turned with its wrong side to the player",
            costs="Soft and dull: mostly the room is recorded.",
            mend="Turn the microphone around",
            seconds=20.0,
        ),
        Kind(
            key="turned_away",
            title="{where} is turned away from the player",
            costs="Softer and duller, with more of everybody else.",
            mend="Turn the microphone to the player",
            seconds=15.0,
        ),
        Kind(
            key="too_far",
            title="{where} is too far away",
            costs="Soft and full of the room.",
            mend="Put the microphone back to its mark",
            seconds=20.0,
        ),
        Kind(
            key="too_close",
            title="{where} is too close",
            costs="Loud, with too much bass, and different with every move.",
            mend="Put the microphone back to its mark",
            seconds=20.0,
        ),
        Kind(
            key="foam",
            title="The foam of {where} was changed after the gains were set",
            costs="Treble and level are not what was checked.",
            mend="Put the foam back as it was, or check the gain again",
            seconds=10.0,
        ),
        Kind(
            key="low_cut",
            title="The low cut of {where} is on",
            costs="The bass is gone for good.",
            mend="Switch the low cut off",
            seconds=8.0,
        ),
        Kind(
            key="presence",
            title="The presence switch of {where} was changed",
            costs="It sounds otherwise than the takes before.",
            mend="Put the switch back",
            seconds=8.0,
        ),
    )
}
