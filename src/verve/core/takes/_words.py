"""What is said of takes, apart from how they are judged."""

from verve.core.findings import RuleWords

MOVED = RuleWords(
    title="{count} settings have moved since {take}",
    brief="moved since the last take",
    cost="The next take will not match: {moved}.{louder}",
    advice="Put it back, or check the level and record again with the new settings.",
    button="Put it back",
)
ONE_MOVED = MOVED.but(title="One setting has moved since {take}")
AND_MORE = "; and {count} more"
LOUDER = " That makes {lines}."
LINE_LOUDER = "{line} {by_db:.1 dB} louder"
LINE_QUIETER = "{line} {by_db:.1 dB} quieter"
LEVEL_CHANGED = RuleWords(
    title="Level changed by about {by_db:+.0 dB} since {take}",
    brief="{by_db:+.0 dB}: check again",
    cost="{what} is not as it was in {take}; nobody has heard what that does to the level.",
    advice="Play the loudest passage again in Check before the next take.",
)
STANDS_ELSEWHERE = "{name} stands elsewhere"
HEARS_OTHERWISE = "{name} hears something else, or otherwise"
CLIPPED = RuleWords(
    title="{take}: {track} clipped",
    brief="clipped in the last take",
    cost="{clipped_frames} samples are at full scale; the distortion stays.",
    advice="Lower the gain and record it again.",
)
LOUDER_THAN_COMPUTED = RuleWords(
    title="{take}: {track} was {by_db:.0 dB} louder than computed",
    brief="not as computed",
    cost="Something is not as the session says: a knob, the distance, or the performance.",
    advice="Compare the settings with the gear, then measure again.",
)
QUIETER_THAN_COMPUTED = LOUDER_THAN_COMPUTED.but(
    title="{take}: {track} was {by_db:.0 dB} quieter than computed"
)
MEASURED, PREDICTED = "Measured", "Predicted"

# ── what to change after a rehearsal ──
IT_CLIPPED = "It clipped: lower the gain and record it again."
IT_WAS_LOUDER = "{by_db:.0 dB} louder than computed: compare settings and gear."
IT_WAS_QUIETER = "{by_db:.0 dB} quieter than computed: compare settings and gear."
NOT_WHOLE = "It ended early: record a whole take to compare it with what was computed."
AS_COMPUTED = "Nothing: it is as computed."

# ── what has moved ──
SETTING_MOVED = "{where}: {control} {now}, was {was}"
GONE = "{kind} {name} is gone"
NEW = "{kind} {name} is new"
RENAMED = "{kind} {was} is now called {now}"
KINDS = {"lines": "signal", "sources": "source", "devices": "gear"}
OTHER_PLAYER = "{source} is {now}’s now, was {was}’s"
NOBODY = "nobody"
OTHER_KIND = "{name}: {now}, was {was}"
SOUNDS_OTHERWISE = "{name} plays or sounds otherwise"
OTHER_PIECE = "{name} is another piece, or has other figures"
CABLE = "cable"
CABLE_MOVED = "{start} now goes to {end}"
OTHER_CABLE = "the cable into {end} is now {length_m:g m}"
VALUE_MOVED = "{label} {now}, was {was}"
SAMPLE_RATE, BIT_DEPTH, BUFFER, ROOM_NOISE, LEVEL_TARGET = (
    "sample rate",
    "bit depth",
    "buffer",
    "room noise",
    "level target",
)

# ── before the next take ──
READY_SINCE = "{line}: {what} since {take}."
READY_LOWER = "{where}: {control} {by_db:.0 dB} lower since {take}: turned down for talking?"
READY_HIGHER = (
    "{where}: {control} {by_db:.0 dB} higher since {take}: turned up for somebody quieter?"
)
READY_SETTINGS = "{line} is set for “{now}”; {take} was with “{was}”."
READY_SETTINGS_MOVED = "{line}: {what} is no longer as in “{name}”."
READY_SAME_INPUT = "{lines} are armed on one input: both record the same thing."
READY_UNARMED = "{lines}: not armed, and in {take}."
READY_NOTHING_ARMED = "Nothing is armed: no signal would be recorded."
READY_BUFFER = (
    "The buffer is at {frames} samples, as for mixing: {ms:.0 ms} late in the headphones."
)
READY_PRINTED = (
    "{name} hears effects that are recorded with the signal, and cannot be taken off again."
)
READY_LOUDSPEAKER = "{name} listens by loudspeaker, and {lines} hears it: down, or headphones."
READY_LEVEL = "{line}: {title}. Play the loudest passage once."
READY_TUNE = "Strings and tuning: {count} takes since the last time."
READY_TUNE_FIRST = "Strings and tuning, before the first take."
PUT_BACK, USE_SETTINGS, TUNED_NOW = "Put it back", "Switch to “{name}”", "Tuned"
KNOB = "{where}: {control} to {value}"
