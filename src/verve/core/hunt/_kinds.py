"""The deck: mistakes that musicians really make, each with what it does, where it is seen, and how it is mended.

Seconds are typical ones. How usual each is, against the others, is on the scale of the diagnosis.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.causes import PRIOR
from verve.core.hunt._oddity import NOBODY, NOTHING_ODD, ROOM, Oddity

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

OTHERS: Final[Mapping[str, Kind]] = {
    kind.key: kind
    for kind in (
        Kind(
            key="cable_dead",
            title="The cable to {where} is broken",
            costs="Nothing is recorded, or it comes and goes.",
            mend="Swap the cable, and mark the old one",
            seconds=60.0,
            odd=Oddity(is_cut=True),
            ends_with=("swap:{link}",),
        ),
        Kind(
            key="cable_half",
            title="One wire of the cable to {where} is broken",
            costs="6 dB less, and hum gets in.",
            mend="Swap the cable, and mark the old one",
            seconds=60.0,
            odd=Oddity(gain_db=-6.0),
            ends_with=("swap:{link}",),
        ),
        Kind(
            key="cable_out",
            title="The cable to {where} is not all the way in",
            costs="Nothing is recorded.",
            mend="Gain down, push it in until it clicks, gain up",
            seconds=15.0,
            odd=Oddity(is_cut=True),
            seen=(("cable:{link}", "Plugs", "one stands out by some millimetres"),),
            ends_with=("swap:{link}",),
        ),
        Kind(
            key="plugs_swapped",
            title="The plugs of {name} and {other} are in each other’s inputs",
            costs="Both are recorded, each on the other’s track.",
            mend="Gains and monitors down, swap the plugs",
            seconds=40.0,
            odd=Oddity(reads="{other_id}"),
            seen=(("{recorder}", "Plugged in here", "the cable that belongs into {other_input}"),),
        ),
        Kind(
            key="track_other_input",
            title="The track records the input of {other}",
            costs="The take has {other} twice, and {name} not at all.",
            mend="Choose the right input on the track",
            seconds=8.0,
            prior=LIKELY,
            odd=Oddity(reads="{other_id}"),
            seen=((TRACK, "Input", "that of {other}"),),
        ),
        Kind(
            key="track_empty_input",
            title="The track records an input that nothing is plugged into",
            costs="Nothing is recorded.",
            mend="Choose the right input on the track",
            seconds=8.0,
            prior=LIKELY,
            odd=Oddity(reads=NOBODY),
            seen=((TRACK, "Input", "one that nothing is plugged into"),),
        ),
        Kind(
            key="not_armed",
            title="The track is not armed",
            costs="Nothing is recorded, however good the playing.",
            mend="Arm the track",
            seconds=3.0,
            prior=LIKELY,
            odd=Oddity(is_unarmed=True),
            seen=((TRACK, "Armed", "no"),),
        ),
        Kind(
            key="old_armed",
            title="An old track is still armed",
            costs="The same is recorded twice, and the old track grows or is overwritten.",
            mend="Disarm the old track",
            seconds=3.0,
            prior=LIKELY,
            odd=Oddity(armed_too=True),
            seen=(
                (TRACKS, "Armed beside yours", "the track of the last layer, on the same input"),
            ),
        ),
        Kind(
            key="stereo_track",
            title="The track is stereo, its signal mono",
            costs="The recording is in one ear only.",
            mend="Make the track mono",
            seconds=8.0,
            odd=Oddity(is_left_only=True),
            seen=((TRACK, "Channels", "stereo"),),
        ),
        Kind(
            key="printed",
            title="The effect is printed into the recording",
            costs="Room and tone can never be taken away again.",
            mend="Put the effect behind the recording, only into the monitoring",
            seconds=12.0,
            odd=Oddity(is_printed=True),
            seen=((TRACK, "Effects into the recording", "on"),),
        ),
        Kind(
            key="double",
            title="It is heard twice: directly and through the software",
            costs="An echo and a comb in the ears; whoever plays gets slower.",
            mend="Mute the monitoring through the software, or the direct one",
            seconds=4.0,
            prior=LIKELY,
            odd=Oddity(echo_ms=12.0),
            seen=((TRACK, "Monitoring through the software", "on, beside the direct one"),),
            ends_with=("mute",),
        ),
        Kind(
            key="mixing_buffer",
            title="The buffer is at the size for mixing",
            costs="One’s own sound comes late: the playing drags.",
            mend="Set the buffer for recording",
            seconds=15.0,
            prior=LIKELY,
            odd=Oddity(late_ms=20.0),
            seen=((PREFERENCES, "Buffer", "{mixing} samples"),),
        ),
        Kind(
            key="small_buffer",
            title="The buffer is too small for this computer",
            costs="It crackles, and the gaps stay in the recording.",
            mend="Set the buffer one size up",
            seconds=15.0,
            odd=Oddity(crackles_per_s=3.0),
            seen=((PREFERENCES, "Buffer", "16 samples"),),
        ),
        Kind(
            key="other_output",
            title="The software plays through another output device",
            costs="Nothing is heard of the backing and of what was recorded.",
            mend="Choose the interface as output device",
            seconds=20.0,
            odd=Oddity(ears="none"),
            seen=((PREFERENCES, "Output device", "the computer’s own loudspeakers"),),
        ),
        Kind(
            key="other_input_device",
            title="The software listens to the computer’s own microphone",
            costs="The room is recorded through a computer, not the instrument.",
            mend="Choose the interface as input device",
            seconds=20.0,
            odd=Oddity(reads=ROOM),
            seen=((PREFERENCES, "Input device", "the computer’s own microphone"),),
        ),
        Kind(
            key="wrong_rate",
            title="The sample rate is taken wrongly",
            costs="It plays back too slow and too low, and does not fit the backing.",
            mend="Set software and interface to the same rate",
            seconds=25.0,
            odd=Oddity(speed=44100.0 / 48000.0),
            seen=((PREFERENCES, "Sample rates", "interface and software differ"),),
        ),
        Kind(
            key="one_ear",
            title="The balance of the headphone mix is turned to one side",
            costs="Heard in one ear only; nothing is wrong on the recording.",
            mend="Put the balance in the middle, or switch to mono",
            seconds=5.0,
            odd=Oddity(ears="left"),
            seen=((PHONES, "Balance of the headphone mix", "hard left"),),
        ),
        Kind(
            key="phones_half",
            title="The headphone plug is not all the way in",
            costs="Heard in one ear only; nothing is wrong on the recording.",
            mend="Turn it down, push the plug in",
            seconds=5.0,
            odd=Oddity(ears="left"),
            seen=((PHONES, "Headphone plug", "stands out by some millimetres"),),
        ),
        Kind(
            key="phones_down",
            title="The headphone level is down",
            costs="Nothing is heard; the recording is right.",
            mend="Turn the headphones up slowly",
            seconds=5.0,
            prior=LIKELY,
            odd=Oddity(ears="none"),
            seen=((PHONES, "Headphone level", "all the way down"),),
        ),
        Kind(
            key="battery_dying",
            title="The battery of {where} is dying",
            costs="It clips early and gets softer; the take is distorted.",
            mend="Put a new battery in",
            seconds=60.0,
            odd=Oddity(gain_db=-3.0, ceiling_db=8.0),
            ends_with=("battery:{owner}",),
        ),
        Kind(
            key="ground_loop",
            title="A ground loop hums into {name}",
            costs="Hum lies under every take, also under the loud passages.",
            mend="All mains plugs into one strip, or a DI box with its ground lifted; never the mains safety earth",
            seconds=90.0,
            odd=Oddity(hum_hz=50.0, hum_over_db=24.0),
            ends_with=("strip", "lift"),
        ),
        Kind(
            key="charger",
            title="A charger of the computer hums into {name}",
            costs="A buzzing hum lies under every take.",
            mend="Record with the computer on its battery",
            seconds=15.0,
            odd=Oddity(hum_hz=50.0, hum_over_db=18.0),
            seen=((IN_ROOM, "Charger of the computer", "plugged in, on the same strip"),),
            ends_with=("laptop",),
        ),
        Kind(
            key="screen",
            title="The pickup of {name} is turned towards a screen",
            costs="A buzz that changes with every turn of the player.",
            mend="Turn away from the screen, or switch it off",
            seconds=5.0,
            prior=LIKELY,
            odd=Oddity(hum_hz=50.0, hum_over_db=20.0),
            seen=((IN_ROOM, "Screens near the player", "one, an arm’s length away"),),
            ends_with=("turn",),
        ),
        Kind(
            key="fan",
            title="A fan is on",
            costs="Its noise lies under every take.",
            mend="Switch the fan off",
            seconds=10.0,
            prior=LIKELY,
            odd=Oddity(rumble_over_db=14.0),
            seen=((IN_ROOM, "Fans and heaters", "a fan is running"),),
            ends_with=("quiet",),
        ),
        Kind(
            key="window",
            title="A window is open",
            costs="The street is on the take.",
            mend="Close the window",
            seconds=10.0,
            odd=Oddity(rumble_over_db=10.0),
            seen=((IN_ROOM, "Windows and doors", "a window is open"),),
        ),
        Kind(
            key="speakers_up",
            title="Loudspeakers are up while a microphone is open",
            costs="What they play is on the take, and it can howl: that hurts ears.",
            mend="Turn the loudspeakers down",
            seconds=4.0,
            prior=LIKELY,
            odd=Oddity(spill_db=18.0),
            seen=((IN_ROOM, "Loudspeakers", "up"),),
            ends_with=("loudspeakers",),
        ),
        Kind(
            key="phones_loud",
            title="The backing in the headphones is so loud that it leaks",
            costs="The backing is on the take, and the ears get tired.",
            mend="Turn the headphones down, or wear closed ones",
            seconds=8.0,
            odd=Oddity(spill_db=30.0),
            seen=((PHONES, "Headphone level", "all the way up"),),
        ),
        Kind(
            key="no_shield",
            title="The pop shield is gone",
            costs="Plosives thump on p and b.",
            mend="Hang the pop shield up again",
            seconds=20.0,
            odd=Oddity(pops=True),
            seen=(("{owner}", "Pop shield", "none"),),
        ),
        Kind(
            key="soft_test",
            title="The test was softer than the song",
            costs="The gain was right for the test, and clips in the song.",
            mend="Turn down by what the song is louder; test as hard as the song",
            seconds=20.0,
            prior=LIKELY,
            odd=Oddity(louder_db=12.0),
            seen=(
                (NOTES, "Hardest peak of the test", "{test_peak}, far below what is played now"),
            ),
        ),
        Kind(
            key="polarity",
            title="The cable to {where} turns the polarity around",
            costs="Added to its partner the bass is gone.",
            mend="Swap the cable, or invert the polarity of the track",
            seconds=60.0,
            prior=RARE,
            odd=Oddity(is_inverted=True),
            ends_with=("swap:{link}",),
        ),
        Kind(
            key="monitoring_off",
            title="Direct monitoring is switched off",
            costs="One does not hear oneself; the recording is right.",
            mend="Switch direct monitoring on",
            seconds=5.0,
            prior=LIKELY,
            odd=Oddity(ears="none"),
            seen=((PHONES, "Direct monitoring", "off"),),
        ),
    )
}
KINDS: Final[Mapping[str, Kind]] = {**AT_A_CONTROL, **OTHERS}
