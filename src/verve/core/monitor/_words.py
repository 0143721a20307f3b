"""What is said of hearing oneself, apart from how it is judged."""

from verve.core.findings import RuleWords

BUFFER_LARGE = RuleWords(
    title="High monitoring latency",
    brief="high monitoring latency",
    cost="What is played comes back {delay_ms:.0 ms} later, and disturbs the player.",
    advice="Record with {better_frames} samples; go back up for mixing.",
    button="Use {better_frames} samples",
)
BUFFER_LEFT = BUFFER_LARGE.but(
    title="The buffer is still at mixing size",
    brief="buffer at mixing size",
    cost="A round trip takes {delay_ms:.0 ms}: whoever then hears themselves through the software is thrown off.",
)
SIXTEEN_BITS = RuleWords(
    title="16-bit recording",
    brief="16 bits",
    cost="A quiet take raised later brings up the 16-bit noise, 98 dB down.",
    advice="Record with 24 bits; the files grow by half.",
    button="Use 24 bits",
)
HEARD_TWICE = RuleWords(
    title="{who} hears themselves twice, {apart_ms:.1 ms} apart",
    brief="heard twice",
    cost=(
        "{first} and {second} together are a comb: dips from {null_hz:.0 Hz} on and {ripple_db:.0 dB} of ripple, or "
        "an echo from some 30 ms on."
    ),
)
MUTE_SOFTWARE = "Turn {who}’s monitoring in the software off; {kept} stays."
MUTE_DIRECT = (
    "Turn the interface’s direct monitoring off for {who}; the software stays, with its effects."
)
KEEP_ONE = "Hear it once"
HEARD_LATE = RuleWords(
    title="{who} hears themselves {delay_ms:.0 ms} late",
    brief="heard {delay_ms:.0 ms} late",
    cost=(
        "As far as standing {metres:.1 m} away. From about {bearable_ms:.0 ms} on that throws off whoever {plays} "
        "(rule of thumb)."
    ),
    advice="Let {who} hear themselves directly in the interface, without effects.",
)
HEAR_DIRECT = "Hear it directly"
ONE_EAR = RuleWords(
    title="{who} hears themselves in one ear only",
    brief="one ear only",
    cost="One signal on one side of a stereo monitor: nobody plays well to half a headphone.",
    advice="Switch the monitor to mono.",
)
SWITCH_MONO = "Switch it to mono"
NO_MONITOR = RuleWords(
    title="{who} hears no monitoring",
    brief="no monitoring",
    cost="Nothing leaks into microphones, and nothing is late; pitch and time suffer where others are only recorded.",
    advice="Where all play together in one room, nothing is to be done; else let {who} wear closed headphones.",
)
LOUDSPEAKER_OPEN = RuleWords(
    title="A loudspeaker plays to {who} beside an open microphone",
    brief="loudspeaker and open microphone",
    cost="It bleeds into the microphone, and may howl: Place says by how much.",
    advice="Let {who} wear closed headphones while a microphone is open.",
    caution="Howling hurts ears: turn loudspeakers down before a microphone is opened.",
)
WEAR_CLOSED = "Take closed headphones"
PRINTED = RuleWords(
    title="{who}’s effects are recorded",
    brief="effects recorded",
    cost="What is printed cannot be taken off again.",
    advice="Meant so, nothing is to be done. Else let the effects be heard only, and record dry.",
)
EXTRA_ON = RuleWords(
    title="“{extra}” is on at {device}, {port}",
    brief="{extra:later}",
    cost="What the interface does to the sound there is recorded for good; your software can do it afterwards.",
    advice="Switch “{extra}” off for recording.",
    button="Switch it off",
)
TWO_CLOCKS = RuleWords(
    title="Input and output are two devices",
    brief="two clocks",
    cost="Their clocks drift apart, and the recording offset is another one at every start.",
    advice="Use one device for both; else measure the offset anew before overdubs, or let nothing be shifted.",
)
TOO_LOUD = RuleWords(
    title="{who} listens loud: {low_dba:.0} to {high_dba:.0} dBA",
    brief="loud in the ears",
    cost=(
        "For {hours:.1} h a day that is above the {limit} limit, which bears {shortest} to {longest}. A "
        "range: figures of headphones and knobs are not exact."
    ),
    advice="Turn the headphones down by {less_db:.0 dB}, and rest your ears. Ringing or dullness: stop for today.",
    caution="No level is promised to be without harm: hearing that is lost does not come back.",
)
TURN_DOWN = "Turn down by {less_db:.0 dB}"
LIMIT_NAMES = {"leisure": "leisure", "work": "workplace"}
PLAYS = {
    "voice": "sings", "bowed": "bows", "plucked": "plucks", "struck": "strikes", "keys": "plays keys",
}  # fmt: skip
ROUND_TRIP = "Round trip"
ROUND_TRIP_HOW = (
    "2 × {buffer_frames} samples ÷ {sample_rate_hz} Hz, converters and driver not counted"
)
# ── the ledger ──
WAYS = {
    "direct": "direct in the interface",
    "software": "through the software",
    "mixer": "through the mixer",
}
WAYS_BEGIN = {
    "direct": "Direct in the interface",
    "software": "Through the software",
    "mixer": "Through the mixer",
}
AIR_IN, AIR_OUT = "Air to the microphone", "Air from the loudspeaker"
AIR_HOW = "{metres:.2 m} ÷ 343 m/s"
INTERFACE = "Interface"
INTERFACE_HOW = (
    "converters and mixing in the interface; typical, nothing where it is a switch, 2 ms at most"
)
BUFFER_IN, BUFFER_OUT = "Buffer in", "Buffer out"
BUFFER_HOW = "{frames} samples ÷ {rate_hz:.0 Hz}"
COUNTED_HOW = "{buffers:.1} buffers in all, as fitted through your round trips"
FIXED = "Converters and driver"
FIXED_TYPICAL = "typical, 2 to 10 ms: type one round trip as your recorder reports it"
FIXED_REPORTED = (
    "from {trips} round trips as your recorder reports them; recorders often leave converters out"
)
FIXED_MEASURED = "from {trips} loop-back recordings"
EFFECTS = "Effects"
EFFECTS_HOW = "{frames} samples, as you have typed"
TOTAL = "{total_ms:.1 ms}, {frames:.0} samples, as far as standing {metres:.1 m} away"
OWN_VOICE = (
    "{total}. Their own voice is in the head at once: the two together have their first dip at {null_hz:.0 Hz} and "
    "sound hollow, not distant"
)
OWN_ECHO = "{total}. Their own voice is in the head at once: so late the other one is an echo"
HOURS, MINUTES = "{hours:.1 h}", "{minutes:.0} min"
FEELS = {
    "at once": "felt as at once (rule of thumb)",
    "noticed": "noticed, and borne by most (rule of thumb)",
    "disturbing": "disturbing for nearly everybody (rule of thumb)",
}
# ── sentences ──
HEARS = "{who} hears themselves {ways}{effects}, {worn}{beside}."
HEARS_NOTHING = "{who} hears no monitoring."
AND = " and "
WITH_EFFECTS = {
    "none": "",
    "heard": " with effects that are only heard",
    "printed": " with effects that are recorded",
}
WORN = {
    "closed_headphones": "in closed headphones", "open_headphones": "in open headphones",
    "in_ears": "in in-ear phones",
    "loudspeaker": "from a loudspeaker", "nothing": "",
}  # fmt: skip
ONE_EAR_FREE = ", one ear free"
BACKING = "the backing {level_db:+.0 dB}"
CLICK = "the click {level_db:+.0 dB}"
BESIDE = "; {them} against that"
# ── what is known of the computer ──
KNOWS_NOTHING = "Nothing is known of this computer yet: converters and driver are taken as {fixed_ms:.1 ms}, typical."
KNOWS = (
    "Converters and driver take {fixed_ms:.1 ms}, {buffers:.1} buffers are kept; {trips} round trips, the furthest "
    "{worst_ms:.1 ms} off."
)
NOT_TWO = "This driver keeps another number of buffers than two."
OTHER_RATE = "They were made at another sample rate."
OFFSET = "Recording offset: {frames:+.1} samples, at {buffer_frames} samples and {rate_hz:.0 Hz}."
OFFSET_STALE = (
    "Recording offset: measured at another buffer size or rate, and not used. Measure it anew."
)
OFFSET_NONE = "Recording offset: not known. Overdubs are not shifted before a loop-back recorded in your software."
OFFSET_TWO = "Recording offset: with two devices it is another one at every start. Measure it anew each time."
RECOMMENDED = (
    "To record {record_frames} samples ({record_ms:.1 ms}), to mix {mix_frames} ({mix_ms:.0 ms})."
)
NOW = "Now {frames} samples: {ms:.1 ms}, the computer busy {busy:.0%}: {risk}."
# ── ears ──
EAR = "At the ear about {middle_dba:.0} dBA, between {low_dba:.0} and {high_dba:.0}"
EAR_HOURS = "the {limit} limit is reached after {shortest} to {longest}"
EAR_KNOB = "the position of the knob is not known: ±10 dB"
EAR_COUPLER = "coupler figures at 1 kHz: ±6 dB"
EAR_OVER = "{over_db:+.0 dB} against their own sound at the ear"
EAR_SOFT = "too soft to be heard over it"
EAR_ALONE = "Their own playing alone is about {own_dba:.0} dBA there"
EAR_NONE = "Choose headphones to know how loud they are at the ear."
EAR_CLICK = "the click is louder than they are: a click at full level hurts, turn it down and what covers it too"
EAR_NEVER = (
    "Never a promise: ringing or dullness afterwards means stop for today. Only headphones or plugs sold with a "
    "protection rating protect; closed cups take treble off, hardly any bass."
)
MS = "{ms:.2 ms}"
DRIVE, POWER, CURRENT, AT_EAR = "Output, unloaded", "In each pair", "Current of all", "At the ear"
DBU, MW, MA, SPL = "{dbu:+.1 dBu}", "{mw:.2 mW}", "{ma:.1 mA}", "{db:.1 dB SPL}"
POWER_HOW = "V² ÷ Z, behind the output’s own impedance"
AT_EAR_HOW = "sensitivity + 10·log₁₀(mW)"
# ── a loop-back, made safe ──
LOOP_EARS = "Nobody wears headphones"
LOOP_EARS_WHY = "A loop that feeds itself is as loud as the interface can be, at once"
LOOP_MONITORS = "Loudspeakers are turned down"
LOOP_MONITORS_WHY = "The same, into the room"
LOOP_PHANTOM = "Phantom power is off at every input of the switch that the cable goes to"
LOOP_PHANTOM_ON = "Phantom power is off. It is on now at {inputs}"
LOOP_PHANTOM_WHY = "48 volts into an output can destroy it"
LOOP_LINE = "The input is on line, its gain at its least"
LOOP_LINE_WHY = "A microphone preamp would raise the test to full scale"
LOOP_DIRECT = "Direct monitoring and monitoring in the software are off"
LOOP_DIRECT_WHY = "With them what comes in goes out again: a circle"
LOOP_TOO_LOUD = "Stopped by itself: what came back was above −6 dBFS. Turn the gain down, and look for a circle."
LOOP_RISES = "Stopped by itself: it got louder unasked. Switch direct and software monitoring off."
LOOP_STOPPED = "Stopped. Nothing was measured."
# ── the computer on the day ──
DAY = {
    "not_writable": "Takes cannot be written to {folder}: choose another folder, or allow it.",
    "disk": (
        "{free_gb:.1 GB} free, {need_gb:.1 GB} needed for four hours of all signals: enough for {hours:.1 h}. Make "
        "space."
    ),
    "memory_small": "{total_gb:.0 GB} of memory: 8 GB is the least for recording with effects.",
    "memory_full": "Only {free_gb:.1 GB} of memory is free: close what is not needed.",
    "battery": "The battery is at {percent:.0}%, and running down: plug the charger in.",
    "charger": "It is charging: if it hums, record a passage on battery, or use the charger’s earthed cable.",
    "slow": "The processor saves power: switch to full performance, or small buffers crackle.",
    "held": "{card} is in use by {program}: close that, or it may not open, or only at its rate.",
    "rate": (
        "{card} runs at {rate_hz:.0 Hz}, the session at {wanted_hz:.0 Hz}: then it plays at another speed and pitch."
    ),
    "busy": "The computer is busy: {load:.1} of {cores:.0} cores. Close what is not needed.",
}
DAY_RIGHT = "Nothing is wrong with this computer, as far as it can be looked up."
DAY_BY_HAND = (
    "By hand: notifications and updates off, sleep off, the desktop’s own sounds to another output, nobody on video "
    "calls."
)
# ── trouble in the ears ──
TROUBLES = {
    "nothing": "Nothing at all",
    "one_ear": "In one ear only",
    "late": "Too late",
    "twice": "Twice",
}
TROUBLE_SETTING = "{what}: explains all of it. Quickest test: {test}"
TROUBLE_PART = "{what}: explains {share:.0%} of it. Quickest test: {test}"
TROUBLE_UNSEEN = "{what}. Quickest test: {test}"
IS_NOT_WORN = ("no monitoring is said for them", "choose how they listen")
IS_NO_WAY = ("no way of hearing themselves is on", "choose one")
NOTHING_UNSEEN = (
    (
        "the headphones are not plugged in, or half-way",
        "push the plug in until it clicks, adapter too",
    ),
    ("the monitor level is down", "turn it up slowly from the lowest position"),
    ("input monitoring is off in the software", "arm the track; look for its monitor switch"),
    ("the sound goes to another output device", "play a file and look which meter moves"),
    ("a solo elsewhere mutes this signal", "switch every solo off"),
)
IS_STEREO = ("one signal in a stereo monitor", "switch the monitor to mono")
ONE_EAR_UNSEEN = (
    ("the plug of the headphones is not all the way in", "push it in until it clicks"),
    ("the track is panned to one side", "set its pan to the middle"),
    ("the headphones, or their cable", "try them on another output, or others here"),
    ("one side of the balance is down", "set the balance to the middle"),
)
LATE_BUFFER = ("the buffer", "take {frames} samples")
LATE_EFFECTS = ("the effects’ own delay", "switch them off")
LATE_AIR = ("the loudspeaker’s distance", "listen with headphones")
LATE_FIXED = ("converters and driver", "listen directly in the interface")
TWICE_WAYS = ("two ways are on", "switch the software’s monitoring off")
TWICE_UNSEEN = (
    ("an armed track still plays its own take", "mute it, or switch its monitoring to input only"),
    ("the backing has the same part in it", "mute the backing"),
    ("their own voice in the head, and the monitor late", "listen directly, without the software"),
)
LOOP_DROPOUTS = "The sound dropped out {count:n time|times}: take a larger buffer, and close what else is running."
