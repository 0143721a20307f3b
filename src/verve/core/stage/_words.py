"""What is said of levels, apart from how they are judged."""

from __future__ import annotations

from collections.abc import Mapping

from verve.core.findings import RuleWords

STAGE_NAMES: Mapping[str, tuple[str, str]] = {
    "cable": ("the cable", "cable"),
    "converter": ("the converter", "converter"),
}
"""What stages are called that have no name of their own: as one of this line, and as any."""
THE_ROOM = "the room"

CLIPS = RuleWords(
    title="The loudest passage would clip at {where}",
    brief="would clip by {over_db:.1 dB}",
    cost="{over_db:.1 dB} too much at {where}: distortion that nothing later can undo.",
)
ABOVE_WINDOW = RuleWords(
    title="The loudest passage comes too close to clipping",
    brief="only {below_db:.1 dB} below clipping",
    cost="It peaks at {peak_dbfs:+.1 dBFS}; played a little harder than planned, it clips.",
)
BELOW_WINDOW = RuleWords(
    title="The recording level is too low",
    brief="{short_db:.0 dB} too low",
    cost="Raised afterwards by {short_db:.0 dB}, its noise comes up with it, to {raised_dbfs:+.0 dBFS}.",
)
BELOW_WINDOW_WITHOUT_NOISE = BELOW_WINDOW.but(
    cost="Raised afterwards by {short_db:.0 dB}, its noise comes up with it."
)
TIGHT_BEFORE = RuleWords(
    title="Low headroom at {where}",
    brief="{headroom_db:.1 dB} of headroom at {where}",
    cost="It would clip there while the interface’s meter still looks harmless.",
)
NOISY = RuleWords(
    title="Quiet passages will show {whose}’s noise",
    brief="{share:.0%} of the noise is {whose}’s",
    cost="Typical playing is only {typical_snr_db:.0 dB} above the noise.",
    advice="More signal before {whose}, or a quieter {better}.",
)
NOISY_BY_ROOM = NOISY.but(
    advice="No better gear helps: go closer, quieten the room, or accept it as it is."
)
NEEDLESS_PAD = RuleWords(
    title="The pad is in, and the gain makes up for it",
    brief="pad not needed",
    cost="The preamp’s noise weighs {pad_db:g dB} more than it needs to.",
    advice="{deeds:capital}.",
    button="Take the pad out",
)
DRIVEN = RuleWords(
    title="{where} distorts at the loudest passage",
    brief="distorts: is it meant?",
    cost="{over_db:.0 dB} more come out of the performance than it bears; behind it nothing gets louder.",
    advice="If that is the sound, say so; if not, turn its gain or the instrument down.",
    button="It is meant",
)
OR_MEANT = "Or, if its distortion is the sound, say so among its settings."
SILENT = RuleWords(
    title="Nothing comes out of {line}",
    brief="no signal",
    cost="The take would be empty.",
    advice="Turn the instrument up; look at its volume first.",
)
PAIR_UNEQUAL = RuleWords(
    title="Gain mismatch between {first} and {second}",
    brief="{apart_db:.0 dB} mismatch in the stereo pair",
    cost="The stereo picture leans to one side, and balancing it later raises noise.",
)
PAIR_PLACED = PAIR_UNEQUAL.but(
    cost="The stereo picture leans to one side.",
    advice="They stand otherwise: {what}. If that is meant, leave it; else place both alike.",
)
PREAMP_BEHIND_MIXER = RuleWords(
    title="{line}: two preamps do one job",
    brief="two preamps in a row",
    cost="{surplus_db:.0 dB} are won behind the mixer, with the mixer’s noise.",
    advice="{deeds:capital}.",
    button="Move the gain to the mixer",
)
FADER_OFF_UNITY = RuleWords(
    title="{device}: {fader} is off unity",
    brief="{fader} off unity",
    cost="Level is lost or won at the wrong place; the trim should do the work.",
    advice="{deeds:capital}.",
    button="Put it to 0 dB",
)
BUS_CLIPS = RuleWords(
    title="{lines} signals are too loud together on {device}",
    brief="{excess_db:.1 dB} too loud together",
    cost="None of them clips alone; when all are at their loudest, the sum clips.",
)
BUS_ABOVE_WINDOW = BUS_CLIPS.but(
    cost="None of them clips alone; when all are at their loudest, the sum comes too close to clipping."
)

# ── what a person must do where the solver cannot ──
LOWER_EARLIER = "Lower it earlier in the signal path: a pad, more distance, or softer playing."
GAIN_RUNS_OUT = (
    "The gain runs out. Go closer, put an inline preamp before it, or take a more sensitive microphone or "
    "input."
)
LESS_BEFORE = "Use a pad or less gain at or before {where}, and win it back behind."
GAINS_ALIKE = (
    "Everything is set alike on both sides: one of the two instruments or players is louder."
)
SIDES_DIFFER = "Set both sides alike: {what}."
OTHERWISE_SET = "{control} {one} on {first}, {other} on {second}"
OTHER_GEAR = "{one} on {first}, {other} on {second}"
NOTHING = "nothing"
BOTH_LOCKED = "Both are locked: unlock one, and it can follow."
TRIM_LOCKED = "A trim of it is locked: unlock it, or set all gains around it."
LOCKED = "The {control} is locked at {value}: unlock it, and it can be set."

# ── one setting that explains it all ──
PUT_IT_BACK = "Put it back"

# ── what the solver would set ──
SET = "{deeds:capital}."
SET_IN_PART = "{deeds:capital}. That alone does not do: {otherwise:later}"
WITH_ITS_LINES = "set it together with its signals"
TURN_TRIMS_DOWN = "Turn the trims down: {deeds}."
DEEDS_OF_A_LINE = "{line}: {deeds}"
PAD_OUT = "take the pad of {device} out"
PAD_IN = "switch the {pad_db:g dB} pad of {device} in"
TURN = "turn {knob} {way} {by_db:g dB}"
TURN_DIAL = "turn {knob} {way} {by_db:g dB}, to {hour}"
KNOBS: Mapping[str, str] = {
    "fader": "the {control}",
    "preamp": "the preamp",
    "trim": "the trim",
    "gain": "the gain of {device}",
}
UP, DOWN = "up", "down"
TURN_UP, TURN_DOWN, SET_GAINS = "Turn it up", "Turn it down", "Set the gains"
TURN_THE_TRIMS_DOWN = "Turn the trims down"

# ── the numbers beside it ──
HARDEST_PEAK = "Highest peak"
HARDEST_PEAK_HOW = "level from source to converter; see the steps below"
TARGET = "Target"
TARGET_TEXT = "{lowest_dbfs:.0} to {highest_dbfs:.0 dBFS}"
NOISE_ONCE_RAISED = "Noise once raised"
NOISE_ONCE_RAISED_HOW = "noise at the converter now, plus what is missing to the target"
SHARE = "Share of {whose}"
SHARE_HOW = "A-weighted noise power at the converter, by the stage it comes from"
PEAK_AT_RECORDER_HOW = "highest peak at the converter"
BUS_TOGETHER = "{device}, {side}, together"
BUS_TOGETHER_HOW = (
    "highest peaks of {lines:n signal} at its output, added as powers; if all met in one moment "
    "{worst_dbu:+.1 dBu}"
)
BUS_CLIPS_AT = "; it clips at {ceiling_dbu:+.1 dBu}"
BUS_METER = "On its own meter"
BUS_METER_HOW = "the same less the level at which its meter shows 0"
BUS_AT_RECORDER = "Together at the converter"
BUS_AT_RECORDER_HOW = "the signal’s peak there, plus what the other signals of the bus add"
