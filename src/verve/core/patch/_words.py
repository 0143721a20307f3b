"""What is said of connections and switches, apart from how they are judged."""

from verve.core.findings import RuleWords

NOT_REACHING = RuleWords(
    title="{line} does not reach the interface",
    brief="not connected",
    cost="Nothing is recorded: the signal path ends at {last}.",
    advice="Connect {last} to a free input, or remove the signal.",
)
NOT_FITTING = NOT_REACHING.but(
    cost="Nothing can be computed or recorded: a sound needs a microphone, a signal a cable."
)
NOT_FED = RuleWords(
    title="Nothing feeds {line}",
    brief="nothing feeds it",
    cost="Nothing is recorded: no source is connected to {first}.",
    advice="Connect a source to {first}, or remove the signal.",
)
FEEDBACK = RuleWords(
    title="{line} goes round in a circle through {through:list}",
    brief="goes round in a circle",
    cost="What comes back is added again and again: it can howl at full level, and no level of it can be "
    "computed.",
    advice="Pull the cable that leads back into {through:list}, or keep that channel off the output it "
    "comes from.",
    caution="Monitors and headphones all the way down first: feedback comes at once and at full level.",
)
_LOADED = RuleWords(
    title="{line} is loaded by the wrong kind of input",
    brief="quiet and flat: loaded by the input",
    cost="It sounds quiet and flat, and {loss_db:.0 dB} are lost.",
    advice="Put a DI box between, or take an instrument input.",
    button="Switch to instrument input",
)
LOADED = {
    "flat": _LOADED,
    "quiet": _LOADED.but(
        brief="quiet: loaded by the input",
        cost="It sounds quiet, and {loss_db:.0 dB} are lost.",
    ),
    "thin": _LOADED.but(
        brief="thin: loaded by the input",
        cost="It sounds thin: nothing below {edge_hz:.0 Hz}, and {loss_db:.0 dB} are lost.",
    ),
    "dull": _LOADED.but(
        brief="dull: loaded by the input",
        cost="It sounds dull: treble gone above {edge_khz:.1 kHz}, and {loss_db:.0 dB} are lost.",
    ),
}
SWITCH_TO_INSTRUMENT = "Switch {place}, to instrument."
INPUT_IMPEDANCE, LOST_TO_LOADING = "Input impedance", "Lost to loading"
LOST_TO_LOADING_HOW = "open-circuit level less loaded level, over the instrument’s spectrum"
WRONG_MODE_TOO_LOUD = RuleWords(
    title="{line} brings {arrives} level into {mode:a} input",
    brief="{arrives} level into {mode} input",
    cost="The input is far too sensitive: it clips, or sits at the very end of its knob.",
    advice="Switch {place}, to {fitting}.",
    button="Switch to {fitting} input",
)
WRONG_MODE_TOO_QUIET = WRONG_MODE_TOO_LOUD.but(
    cost="The input is far too insensitive: the take is quiet, and hisses when raised."
)
MOVE_TO_FITTING = "Move it to {fitting:a} input."
VOLUME_DOWN = RuleWords(
    title="{source}: its own volume is not full up",
    brief="instrument volume down",
    cost="Level is lost before the first cable; every later noise weighs more.",
    advice="Turn the instrument full up and take the gain back instead.",
    button="Turn it full up",
)
VOLUME = "Volume"
INPUT_SHARED = RuleWords(
    title="{line} and {other} end in one input",
    brief="mixed with {other}",
    cost="They are recorded as one and can never be balanced apart.",
    advice="Pan them apart, or give one of them an input of its own.",
)
BASS_THIN = RuleWords(
    title="{line} loses its bass below {corner_hz:.0 Hz}",
    brief="bass ends at {corner_hz:.0 Hz}",
    cost="A piezo into too small a resistance is a low cut; nothing later brings it back well.",
    advice="A DI box made for piezo pickups, with 10 MΩ or so, keeps the bass.",
)
BASS_ENDS = "Bass ends"
BASS_ENDS_HOW = (
    "1 ÷ 2πRC with {resistance_mohm:g MΩ} and {capacitance_nf:g nF}, the cable included; −3 dB of a low "
    "cut of first order"
)
SEPARATE_RECORDERS = RuleWords(
    title="{count} devices record at once: {names}",
    brief="on another device",
    cost="Most recording software takes one device at a time. With clocks of their own they also part by about "
    "{drift_ms:.0 ms} a minute.",
    advice="Connect all signals of one layer to one device, or record them one after the other.",
)
CLOCKS_PART = "Clocks part by"
CLOCKS_PART_TEXT = "{drift_ms:.0 ms} a minute"
CLOCKS_PART_HOW = "{clock_ppm:g} millionths of 60 s, as two crystals typically differ"

# ── a line, stage by stage ──
BALANCED_CABLE = "Balanced cable, {length_m:g m}"
UNBALANCED_CABLE = "Unbalanced cable, {length_m:g m}"
CABLE_CAPACITANCE = "{capacitance_pf:.0 pF}"
