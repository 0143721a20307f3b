"""What each kind of data sheet is asked for, in the order in which sheets usually state it."""

from __future__ import annotations

from typing import Final

from verve.core.datasheet._reader import Field

_OHM = "as printed: 200 Ω, 1.5 kΩ, 1 MΩ"
_NOISE_SAYS = (
    "in dBu, dBV, µV or nV/√Hz, weighted or not; say the source resistance and the bandwidth if the "
    "sheet does"
)
_LEVEL_SAYS = "as dBu, dBV, volts RMS or volts peak to peak"
NAME: Final = Field(
    key="name", label="Name", example="My moving coil", says="what you call it", is_needed=True
)
PHANTOM: Final = (
    ("", "not stated"),
    ("needs", "needs 48 V"),
    ("tolerates", "works without and bears it"),
    ("never", "must not get it"),
)

_OUTPUT_PHANTOM = Field(
    key="phantom",
    label="Phantom into it",
    choices=PHANTOM[:1] + PHANTOM[2:],
    says="what 48 V does to its output, should it be plugged into a microphone input",
)
_LEAST = Field(
    key="least",
    label="Least phantom voltage",
    example="44 V",
    says="the lowest it works with, as in 48 V ±4 V or 11 to 52 V",
)
MICROPHONE: Final = (
    NAME,
    Field(
        key="principle",
        label="Principle",
        choices=(
            ("moving_coil", "moving coil"),
            ("ribbon", "ribbon"),
            ("condenser", "condenser"),
        ),
        says="how it turns sound into voltage",
    ),
    Field(
        key="sensitivity",
        label="Sensitivity",
        example="−54 dBV/Pa",
        says="in mV/Pa, dBV/Pa or dB re 1 V/µbar, open circuit",
        is_needed=True,
    ),
    Field(key="impedance", label="Output impedance", example="200 Ω", says=_OHM),
    Field(
        key="self_noise",
        label="Self-noise",
        example="16 dBA",
        says="in dBA, or as signal to noise at 94 dB SPL; moving coils seldom state it",
    ),
    Field(key="max_spl", label="Loudest sound", example="130 dB SPL", says="before it distorts"),
    Field(
        key="pattern",
        label="Hears",
        choices=(
            ("", "not stated"),
            ("omni", "all around"),
            ("wide_cardioid", "wide heart shape"),
            ("cardioid", "heart shape"),
            ("supercardioid", "narrow heart shape"),
            ("figure_eight", "front and back"),
        ),
        says="its directional pattern",
    ),
    Field(
        key="addressed_from",
        label="Sung into from",
        choices=(("end", "its end"), ("side", "its side")),
        says="which side is live",
    ),
    Field(key="pads", label="Pads", example="−10 dB", says="switchable, as −10, −20 dB"),
    Field(key="high_pass", label="Low cut", example="80 Hz", says="the corner of its switch"),
    Field(
        key="response",
        label="Response",
        example="63 Hz −5, 1 kHz 0, 4 kHz +4",
        says="points read off its curve, in dB against 1 kHz",
    ),
    Field(
        key="foam",
        label="Foam",
        choices=(("no", "none"), ("yes", "comes with one")),
        says="a foam cap takes some treble",
    ),
    Field(key="phantom", label="Phantom power", choices=PHANTOM, says="what 48 V does to it"),
    Field(key="current", label="Current drawn", example="4 mA", says="from phantom power"),
    _LEAST,
)

_GAIN = Field(
    key="gain",
    label="Gain",
    example="10 to 65 dB",
    says="from lowest to highest, the width of the range, or a fixed gain",
    is_needed=True,
)
PREAMP: Final = (
    NAME,
    _GAIN,
    Field(key="input_impedance", label="Input impedance", example="3 kΩ", says=_OHM),
    Field(key="output_impedance", label="Output impedance", example="150 Ω", says=_OHM),
    Field(key="noise", label="Input noise", example="−127 dBu A, 150 Ω", says=_NOISE_SAYS),
    Field(key="max_input", label="Loudest input", example="+10 dBu", says=_LEVEL_SAYS),
    Field(key="max_output", label="Loudest output", example="+20 dBu", says=_LEVEL_SAYS),
    Field(key="phantom", label="Phantom power", choices=PHANTOM, says="whether it lives on 48 V"),
    Field(key="current", label="Current drawn", example="4 mA", says="from phantom power"),
    _LEAST,
    Field(
        key="passes",
        label="Lets phantom through",
        choices=(("no", "no, keeps it back"), ("yes", "yes, to its input")),
        says="whether a microphone before it gets 48 V",
    ),
)

PASSIVE_DI: Final = (
    NAME,
    Field(
        key="ratio",
        label="Turns ratio",
        example="12:1",
        says="primary to secondary: 12:1 lowers the voltage to a twelfth",
        is_needed=True,
    ),
    Field(key="primary", label="Primary resistance", example="900 Ω", says="of the winding"),
    Field(key="secondary", label="Secondary resistance", example="15 Ω", says="of the winding"),
    Field(key="inductance", label="Primary inductance", example="300 H", says="carries the bass"),
    Field(key="pads", label="Pads", example="−20 dB", says="switchable, as −20, −40 dB"),
)

SPLITTER: Final = (
    NAME,
    Field(
        key="primary",
        label="Primary resistance",
        example="40 Ω",
        says="of the transformer’s winding",
    ),
    Field(
        key="secondary", label="Secondary resistance", example="45 Ω", says="of the isolated side"
    ),
    Field(
        key="inductance",
        label="Primary inductance",
        example="15 H",
        says="carries the bass",
        is_needed=True,
    ),
    Field(
        key="other",
        label="Input of the other desk",
        example="2.4 kΩ",
        says="it lies across the microphone",
    ),
)

ACTIVE_DI: Final = (
    NAME,
    Field(
        key="input_impedance",
        label="Input impedance",
        example="1 MΩ",
        says=_OHM,
        is_needed=True,
    ),
    Field(key="capacitance", label="Input capacitance", example="50 pF", says="seldom stated"),
    Field(key="output_impedance", label="Output impedance", example="600 Ω", says=_OHM),
    Field(key="gain", label="Gain", example="0 dB", says="negative where it lowers the level"),
    Field(key="noise", label="Input noise", example="−107 dBu", says=_NOISE_SAYS),
    Field(key="max_input", label="Loudest input", example="+12 dBu", says=_LEVEL_SAYS),
    Field(key="pads", label="Pads", example="−20 dB", says="switchable"),
    Field(
        key="battery",
        label="Battery",
        choices=(("no", "none"), ("yes", "runs on one")),
        says="whether it works without phantom power",
    ),
    Field(key="current", label="Current drawn", example="5 mA", says="from phantom power"),
    _LEAST,
)


def _mode(
    mode: str, called: str, impedance: str, gain: str, noise: str, level: str
) -> tuple[Field, ...]:
    return (
        Field(
            key=f"{mode}.inputs",
            label=f"{called} inputs",
            example="1-2",
            says="their numbers, as 1-2 or 1, 3, 5-8; empty for none",
        ),
        Field(key=f"{mode}.gain", label="… gain", example=gain, says=_GAIN.says),
        Field(key=f"{mode}.impedance", label="… impedance", example=impedance, says=_OHM),
        Field(key=f"{mode}.noise", label="… noise", example=noise, says=_NOISE_SAYS),
        Field(
            key=f"{mode}.max_input",
            label="… loudest",
            example=level,
            says=f"at lowest gain; {_LEVEL_SAYS}",
        ),
    )


INTERFACE: tuple[Field, ...] = (
    NAME,
    Field(
        key="full_scale",
        label="Full scale",
        example="+9 dBu",
        says=f"what a line at 0 dB of gain reaches 0 dBFS with; {_LEVEL_SAYS}",
    ),
    Field(
        key="dynamic_range",
        label="Dynamic range",
        example="110 dBA",
        says="of its converter, A-weighted unless you say so",
    ),
    *_mode("microphone", "Microphone", "2.4 kΩ", "0 to 54 dB", "−124 dBu, 150 Ω", "+9.5 dBu"),
    Field(
        key="microphone.dial",
        label="… knob",
        example="7: 0 dB, 12: 27 dB, 5: 54 dB",
        says="what you measured at hours of the knob; without, it is taken as even",
    ),
    *_mode("line", "Line", "10 kΩ", "−10 to 26 dB", "−104 dBu", "+19.5 dBu"),
    *_mode("instrument", "Instrument", "1 MΩ", "−3 to 40 dB", "−108 dBu", "+12.5 dBu"),
    Field(key="pads", label="Pads", example="none", says="on the microphone inputs"),
    Field(key="high_pass", label="Low cut", example="none", says="on the microphone inputs"),
    Field(
        key="phantom",
        label="Phantom switches",
        choices=(
            ("all", "one for all"),
            ("each", "one for each"),
            ("pairs", "one for each two"),
            ("none", "no phantom power"),
        ),
        says="which microphone inputs get 48 V together",
    ),
    Field(
        key="budget",
        label="Phantom current",
        example="12 mA",
        says="in all; a supply from the computer gives little",
    ),
)

_TO_THE_COMPUTER: Final = (
    Field(
        key="host_plug",
        label="Plug at the computer",
        choices=(("usb_c", "USB C"), ("usb_a", "USB A")),
        says="what its cable ends in",
    ),
    Field(
        key="supply",
        label="Powered by",
        choices=(("own", "a supply of its own"), ("bus", "the computer")),
        says="the socket of a computer gives little, and phantom power takes much of it",
    ),
    Field(
        key="feeds",
        label="Headphone sockets",
        choices=(("1", "one"), ("2", "two"), ("4", "four"), ("0", "none")),
        says="how many can listen without a splitter",
    ),
)
INTERFACE = (*INTERFACE, *_TO_THE_COMPUTER)

PICKUP: Final = (
    NAME,
    Field(key="resistance", label="DC resistance", example="8.2 kΩ", says=_OHM, is_needed=True),
    Field(key="inductance", label="Inductance", example="4.4 H", says="of the coil"),
    Field(key="capacitance", label="Own capacitance", example="120 pF", says="of the winding"),
    Field(
        key="hardest",
        label="Hardest peak",
        example="500 mV peak",
        says="open circuit; measured, or stated as its output",
    ),
    Field(key="volume_pot", label="Volume control", example="500 kΩ", says=_OHM),
    Field(key="tone_pot", label="Tone control", example="500 kΩ", says=_OHM),
    Field(
        key="tone_capacitor", label="Tone capacitor", example="22 nF", says="of the tone control"
    ),
)

LINE_OUTPUT: Final = (
    NAME,
    Field(
        key="hardest",
        label="Loudest output",
        example="+4 dBu",
        says=f"its hardest peaks, volume full up; {_LEVEL_SAYS}",
        is_needed=True,
    ),
    Field(key="output_impedance", label="Output impedance", example="600 Ω", says=_OHM),
    Field(key="noise", label="Noise", example="−86 dBu", says="at its output, volume full up"),
    _OUTPUT_PHANTOM,
    Field(
        key="drives",
        label="Drives a loudspeaker",
        choices=(("no", "no"), ("yes", "yes"), ("valves", "yes, an amplifier with valves")),
        says="loudspeaker level destroys inputs; valves must not run without their load",
    ),
)

MIXER: Final = (
    NAME,
    Field(key="channels", label="Channels", example="1-4", says="their numbers", is_needed=True),
    Field(key="gain", label="Trim", example="−10 to 20 dB", says=_GAIN.says, is_needed=True),
    Field(key="impedance", label="Input impedance", example="10 kΩ", says=_OHM),
    Field(key="noise", label="Input noise", example="−98 dBu", says=_NOISE_SAYS),
    Field(key="max_input", label="Loudest input", example="+22 dBu", says=_LEVEL_SAYS),
    Field(
        key="bus_noise",
        label="Noise of the mix",
        example="−92 dBu",
        says="at the main output, faders closed",
    ),
    Field(key="output_impedance", label="Output impedance", example="120 Ω", says=_OHM),
    Field(key="max_output", label="Loudest output", example="+21 dBu", says=_LEVEL_SAYS),
    Field(key="meter_zero", label="Its meter shows 0 at", example="+4 dBu", says=_LEVEL_SAYS),
    _OUTPUT_PHANTOM,
)
