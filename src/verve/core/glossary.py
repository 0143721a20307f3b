"""The words of the trade that Verve uses: each in two sentences, and where in Verve it matters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Term:
    """One term: what it is, and where in Verve one meets it."""

    name: str
    says: str
    where: str


def _term(name: str, says: str, where: str) -> Term:
    return Term(name=name, says=says, where=where)


GLOSSARY: Sequence[Term] = (
    _term(
        "A-weighting",
        "A filter that counts noise the way ears hear soft sounds: little bass, most around 2 to 5 kHz. Noise "
        "figures with “A” use it.",
        "Stage, where the noise comes from; every data sheet.",
    ),
    _term(
        "Balanced",
        "A connection with two signal wires and a shield: what both wires pick up on the way cancels out. XLR and "
        "TRS jacks carry it.",
        "Patch, cables; Power, hum.",
    ),
    _term(
        "Bus",
        "A wire in a mixer on which several channels are added together. Too many loud ones clip it although none of "
        "them clips alone.",
        "Stage, for signals that meet in a mixer.",
    ),
    _term(
        "Clipping",
        "A signal that is louder than a stage can pass is cut off at the top. Nothing can remove the distortion "
        "later.",
        "Stage: the red ceilings; Check and Takes count clipped samples.",
    ),
    _term(
        "Condenser microphone",
        "A microphone with a charged diaphragm and an amplifier inside: sensitive and detailed. It needs phantom "
        "power or a battery.",
        "Power; Brief, Compare microphones.",
    ),
    _term(
        "Corridor",
        "Verve’s picture of a signal: its loudest and quietest level at every stage, between clipping above and "
        "noise below. Good gains keep it clear of both.",
        "Stage.",
    ),
    _term(
        "dBFS",
        "Level in the recording: 0 dBFS is the loudest value there is, everything else is below it. −8 dBFS leaves "
        "8 dB before clipping.",
        "Everywhere behind the converter.",
    ),
    _term(
        "dBu",
        "Level on a wire: 0 dBu is 0.775 V. Microphones give about −50 dBu, line outputs about +4 dBu.",
        "Stage, the left scale.",
    ),
    _term(
        "DI box",
        "A box that makes an instrument’s unbalanced, high-impedance output fit a microphone input. Active ones need "
        "phantom power or a battery, passive ones need nothing and lose level.",
        "Patch.",
    ),
    _term(
        "Dynamic microphone",
        "A microphone with a coil on its diaphragm (moving coil), or a ribbon: robust, needs no power. Its output is "
        "low, so it needs much gain.",
        "Brief, Compare microphones.",
    ),
    _term(
        "Fader",
        "The slider that sets how loud a channel is in the mix. At 0 dB (unity) it changes nothing, and there it "
        "belongs while recording.",
        "Stage, for mixers.",
    ),
    _term(
        "Gain",
        "How far a preamp raises a signal, in dB. It raises the noise before it by as much.",
        "Stage.",
    ),
    _term(
        "Ground loop",
        "Two devices earthed twice, through the mains and through an unbalanced cable: hum. A balanced cable, a DI "
        "box with its ground lift or an isolating transformer breaks it; the mains earth is never lifted.",
        "Power.",
    ),
    _term(
        "Headroom",
        "How much louder a signal could get at a stage before it clips there. What is played harder than planned "
        "needs it.",
        "Stage: the figures at the ceilings.",
    ),
    _term(
        "Impedance",
        "How much an input or output resists a signal, in ohms. A pickup into too low an impedance sounds dull, thin "
        "or quiet.",
        "Patch: inputs for instruments.",
    ),
    _term(
        "Inline preamp",
        "A small amplifier in the microphone cable that lives on phantom power. It lifts weak dynamic and ribbon "
        "microphones by about 25 dB.",
        "Patch; Stage, where the gain runs out.",
    ),
    _term(
        "Latency",
        "How late one hears oneself through the computer. Small buffers make it short, and give the computer less "
        "time.",
        "Check, buffer; the status bar.",
    ),
    _term(
        "Layer",
        "What is recorded together, over what exists already. The first layer may be the whole band, the next one a "
        "second voice.",
        "Brief.",
    ),
    _term(
        "Line level",
        "The level of mixers, keyboards and interfaces, around +4 dBu. A line input needs little gain and has no "
        "phantom power.",
        "Patch: input modes.",
    ),
    _term(
        "Pad",
        "A switch that lowers a signal by 10 or 20 dB before the electronics. It is for what is too loud even at the "
        "lowest gain.",
        "Stage.",
    ),
    _term(
        "Phantom power",
        "48 V on a microphone cable, from the interface or mixer. Condensers, active DI boxes and inline preamps "
        "need it; some ribbons and outputs must not get it.",
        "Power.",
    ),
    _term(
        "Piezo",
        "A pickup in the bridge or saddle of an acoustic instrument. It needs an input of several megohms, or it "
        "loses its bass.",
        "Patch.",
    ),
    _term(
        "Plosives",
        "Bursts of air from p and b. A pop shield, or singing past the microphone, keeps them out.",
        "Brief, needs.",
    ),
    _term(
        "Polar pattern",
        "From where a microphone hears: omni from all around, cardioid from the front, figure-eight from front and "
        "back. It decides how much room and how many neighbours are recorded.",
        "Data sheets; off-axis angle in Stage.",
    ),
    _term(
        "Proximity effect",
        "Directional microphones get more bass the closer they are. It is strong under 10 cm.",
        "Stage: frequency response and distance.",
    ),
    _term(
        "Self-noise",
        "The hiss a microphone makes itself, told as an equally loud sound in dBA. It matters for quiet sources in "
        "quiet rooms.",
        "Stage, where the noise comes from.",
    ),
    _term(
        "Sensitivity",
        "How much voltage a microphone gives for a sound, in mV/Pa. Low sensitivity needs more gain.",
        "Data sheets; full calculation.",
    ),
    _term(
        "Signal-to-noise ratio",
        "How far the loudest passage stands above the noise, in dB. Below about 45 dB at typical playing, hiss is "
        "heard.",
        "Stage; Brief, comparisons.",
    ),
    _term(
        "Target",
        "Where the loudest passage should arrive in the recording. −8 dBFS is the usual one; others suit live "
        "streams or many tracks.",
        "Stage.",
    ),
    _term(
        "Unity",
        "A gain of 0 dB: what goes in comes out as loud. Stages behind the first gain belong there.",
        "Stage, for mixers.",
    ),
)
