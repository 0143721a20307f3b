"""The listening drills: what is asked, what is varied, and what a result means for one's recordings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.ear import _words as words
from verve.core.ear._staircase import Scale

Varied = Literal["dB over", "dB below", "ms"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drill:
    """One drill: of two examples one is the odd one. `means` tells what a good and a poor result mean."""

    key: str
    name: str
    question: str
    what: str
    varied: Varied
    scale: Scale
    good: float
    """As well as somebody with practice; typical."""
    means_good: str
    means_poor: str
    shows: tuple[str, ...] = ()
    """Which rows of a picture in words it can be read from."""


DRILLS: Final[Mapping[str, Drill]] = {
    one.key: one
    for one in (
        Drill(
            key="clip",
            shows=(words.FLAT_TOPS, words.PEAK_OVER),
            name="Clean and clipped",
            question="Which one is clipped?",
            what="Its peaks are cut off flat.",
            varied="dB over",
            scale=Scale(easiest=14.0, hardest=0.5, is_ratio=True),
            good=3.0,
            means_good="you would notice a clipped take while listening back; peaks too short to hear still clip.",
            means_poor="a clipped take may pass your ears: trust the clip count, and leave headroom.",
        ),
        Drill(
            key="stage",
            shows=(words.FLAT_TOPS, words.PEAK_OVER, words.TREBLE),
            name="Which stage clips",
            question="Which one was clipped last of all, by the converter?",
            what="Its tops are flat and hard; what clips earlier is rounded by what follows.",
            varied="dB over",
            scale=Scale(easiest=16.0, hardest=2.0, is_ratio=True),
            good=6.0,
            means_good="you can tell whether to turn down the preamp or what stands before it.",
            means_poor="look at the headroom of every stage; by ear an early stage is easily taken for the last.",
        ),
        Drill(
            key="hiss",
            shows=(words.PAUSES, words.TREBLE),
            name="Hiss of the room, hiss of the preamp",
            question="In which one is it the hiss of the preamp?",
            what="A preamp hisses evenly and bright; a room rushes lower.",
            varied="dB below",
            scale=Scale(easiest=18.0, hardest=54.0),
            good=40.0,
            means_good="you know whether a better preamp or a quieter room would help.",
            means_poor="measure the silence before you buy a preamp: often the room is louder anyway.",
        ),
        Drill(
            key="hum",
            shows=(words.HUM, words.PAUSES),
            name="50 and 60 Hz",
            question="Which one hums at 50 Hz?",
            what="The mains of 50 Hz hum about a minor third lower than those of 60 Hz.",
            varied="dB below",
            scale=Scale(easiest=10.0, hardest=46.0),
            good=30.0,
            means_good="you hear hum in a test take, and whether it is that of the mains here.",
            means_poor="read the hum in Check: a hum that you do not hear in headphones shows in a quiet mix.",
        ),
        Drill(
            key="comb",
            shows=(words.AGAIN, words.BASS),
            name="Comb",
            question="Which one is combed?",
            what="The same comes twice, 1.5 ms apart: some frequencies cancel.",
            varied="dB below",
            scale=Scale(easiest=0.0, hardest=24.0),
            good=12.0,
            means_good="you hear when two microphones, or two ways of monitoring, cancel each other.",
            means_poor="keep microphones three times as far apart as from the player, and mute one monitoring.",
        ),
        Drill(
            key="echo",
            shows=(words.AGAIN, words.PAUSES),
            name="Echo",
            question="Which one has an echo?",
            what="It comes again after 60 ms, softer.",
            varied="dB below",
            scale=Scale(easiest=4.0, hardest=40.0),
            good=20.0,
            means_good="you hear a hard wall, or a second monitoring, at once.",
            means_poor="clap in the room before you record, and look which monitoring is on.",
        ),
        Drill(
            key="bleed",
            shows=(words.PAUSES, words.PEAK_OVER),
            name="Bleed",
            question="In which one does somebody else play along?",
            what="Another player is in the same microphone.",
            varied="dB below",
            scale=Scale(easiest=8.0, hardest=46.0),
            good=28.0,
            means_good="you hear how much of the others you take with you when you choose another take.",
            means_poor="use the figure in Place: from 20 dB below on, bleed limits what can be replaced later.",
        ),
        Drill(
            key="delay",
            shows=(words.LATER,),
            name="Late monitoring",
            question="In which one does the note come late, behind the click?",
            what="The click is left, the note right, later.",
            varied="ms",
            scale=Scale(easiest=90.0, hardest=3.0, is_ratio=True),
            good=15.0,
            means_good="a late monitoring will disturb you: record with a small buffer, or directly.",
            means_poor="you may not notice a late monitoring, and drag all the same: go by the figure in Monitor.",
        ),
        Drill(
            key="polarity",
            shows=(words.BASS, words.PEAK_OVER),
            name="Polarity",
            question="In which one is the second microphone the wrong way round?",
            what="The bass cancels: hollow, and hard to place.",
            varied="dB below",
            scale=Scale(easiest=0.0, hardest=26.0),
            good=12.0,
            means_good="you will hear a reversed cable in a pair.",
            means_poor="invert one of two microphones once, and take what has more bass; the figure is in Check.",
        ),
        Drill(
            key="double",
            shows=(words.LATER,),
            name="Timing of a double",
            question="In which one is the double off the beat?",
            what="The lead is left, the double right, too early or too late.",
            varied="ms",
            scale=Scale(easiest=110.0, hardest=5.0, is_ratio=True),
            good=25.0,
            means_good="you can choose doubles by ear.",
            means_poor="choose doubles by the figures in Takes: from about 30 ms on others hear it.",
        ),
    )
}
