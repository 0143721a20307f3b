"""What a check says: short enough to be read from three metres, and the reason for whoever comes nearer."""

from __future__ import annotations

from typing import Final

RIGHT, TOO_LOUD, TOO_QUIET, CLIPS, NOT_HEARD = (
    "Right", "Too loud", "Too quiet", "Clips", "Not heard",
)  # fmt: skip
BY: Final = "{by_db:.0 dB}"
ON_TARGET: Final = "{peak_dbfs:+.1 dBFS}"
RIGHT_BECAUSE: Final = (
    "The loudest passage peaks at {peak_dbfs:+.1 dBFS}; {lowest_dbfs:+.0 dBFS} to "
    "{highest_dbfs:+.0 dBFS} is wanted."
)
OFF_BECAUSE: Final = (
    "The loudest passage peaks at {peak_dbfs:+.1 dBFS}.{habit} "
    "That is {by_db:.0 dB} {way} the target of {target_dbfs:+.0 dBFS}."
)
ABOVE, BELOW = "above", "below"
CLIPPED_BECAUSE: Final = (
    "It touched full scale, so nobody knows how loud it really is: turn it down, then "
    "play the loudest passage again."
)
OVER_THEIR_TEST: Final = "they go {over_db:.0 dB} over their test"
WITH_OTHERS: Final = "the others in the room add {others_db:.0 dB}"
EXPECTED: Final = " In a take {why}: {expected_dbfs:+.1 dBFS} is expected."
THEN_AGAIN: Final = "{deeds:capital}, then play the loudest passage once more."
NOTHING_TO_TURN: Final = "Nothing has to be turned."
QUIET_ROOM: Final = (
    "In silence it shows {noise_dbfs_a:+.0 dBFS A}, {snr_db:.0 dB} below the loudest passage."
)
HUM: Final = " Of that, mains hum of {mains_hz:g Hz} has {level_dbfs:+.0 dBFS}."
NOT_QUIET: Final = " It never got quite silent: the quietest that was heard is taken."

SAID: Final = "in the check of {day}"
IN_TAKE: Final = "in {take}, {day}"

# ── the guide ──
BE_QUIET, BE_QUIET_SAYS = (
    "Quiet",
    "Nobody plays. Breathe, and leave everything as it will be in the take.",
)
ANYBODY, ANYBODY_SAYS = "Play", "Anybody: whoever plays is checked. No key is needed."
EASY, EASY_SAYS = "Easy", "{name}: play an easy phrase of this song, as usual."
LOUDEST = "Loudest"
LOUDEST_SAYS = "{name}: now the loudest passage of this song, warm, twice or until it agrees."
LOUDEST_SCREAM = " Headphones down first if you scream."
FROM_TARGET = "{by_db:.0 dB} {way} the target so far."
TURN, TURN_SAYS = "Turn", "{name}: {deeds}. Then play on: the easy phrase once more."
ALL_DONE = "All signals are checked."

# ── who is it? ──
ASKED = "Sound {name}: talk into it, scratch it, or play it."
WAIT_QUIET = "Nobody makes a sound for a moment."
PROVEN = "{name} arrives where it should, on input {number}."
SWAPPED = "{name} arrives on input {number}, where {other} belongs: left and right are swapped."
ELSEWHERE = "{name} arrives on input {number}, where {other} belongs."
ELSEWHERE_FREE = "{name} arrives on input {number}, not on {wanted}."
ON_BOTH = (
    "{name} arrives on input {number} and on that of {other} alike: one is panned to the "
    "middle, or connected twice."
)
NOWHERE = "{name} arrives nowhere. “No signal?” finds out why."

FOUND: Final = {
    "proven": "proven", "swapped": "swapped", "elsewhere": "elsewhere", "on both": "on both", "nowhere": "nowhere",
}  # fmt: skip
ALL_PROVEN, ALL_PROVEN_SAYS = "All proven", "Every signal arrives where it should."
NOT_ALL = "Not all"
SO_MANY = "{count} of {of}"

# ── predicted against measured ──
SOURCE_LOUDER = "{source} is {by_db:.1 dB} louder than {origin}"
SOURCE_QUIETER = "{source} is {by_db:.1 dB} quieter than {origin}"
OVER_TEST = "{source} goes {by_db:.1 dB} over the hardest of the test"
TYPICAL, MEASURED = "typical", "it was measured"
SOURCE_TEST = "Play the same passage again: it must come out alike."
GAIN_NOT_THERE = "{where}: the knob gives {by_db:.1 dB} {way} than the session says"
MORE, LESS = "more", "less"
GAIN_TEST = (
    "Look where the knob stands, {hours} is written; an unmarked knob is easily some decibels off."
)
LOADED = "A loss like this fits a pickup in a line input. "
FAN_FITS = (
    "A noise like this fits a fan, a fridge or traffic: {by_db:.0 dB} more than "
    "{noise_dba:.0 dB} A in the room"
)
FAN_TEST = "Switch off what runs, and listen to the silence again."
HUM_FITS = "Mains hum of {mains_hz:g Hz}: a charger, a ground loop, or a pickup near a transformer"
HUM_TEST = "Take the charger off the computer, use one power strip, turn the pickup away; see which one helps."
PREAMP_FITS = "{where} hisses {by_db:.0 dB} more than its figures say"
PREAMP_TEST = "Turn its gain down: hiss that falls with it is its own."
AS_COMPUTED = "It is as computed, within {within_db:.1 dB}."

NOTHING_TO_COMPARE = "Nothing of it was measured, or nothing computed: there is nothing to compare."
MEASURED_SAYS = (
    "Its peak was measured at {measured_dbfs:+.1 dBFS}; {computed_dbfs:+.1 dBFS} was computed."
)
MEASURED_BY = " It came out {by_db:.1 dB} {way}."
LOUDER, QUIETER = "louder", "quieter"
NOISE_SAYS = "Its noise is {measured_dbfs:+.1 dBFS A}; {computed_dbfs:+.1 dBFS A} was computed."
NO_WONDER = "That is as near as anybody can foresee: nothing has to be explained."
EXPLAINS = "{share:.0%} likely; explains {explains_db:.1 dB} of the {what}"
OF_LEVEL, OF_NOISE = "level", "noise"

# ── comparing ──
NO_VOTE = "No round has been voted yet."
TALLY = "{told}. Who only guesses gets as clear a result in {chance:.0%} of the cases."
HEARD = "The difference is heard."
MAY_BE_CHANCE = "That may be chance: a few more rounds tell."
COMPARED = "{title}, {day}: {names}, {how}."
COMPARED_BLIND, COMPARED_OPEN = "blind", "openly"
CHOSEN = "{name} was preferred, with {votes:n vote|votes}."

# ── listening in ──
MARK_CLIPPED = "{name} clipped."
MARK_CLIPPED_EARLY = "{name} was cut off at {amount:+.1 dBFS}: a stage before the recorder clips."
MARK_DROPOUT = "{name} has a drop-out of {count:n sample|samples}."
MARK_HUM = "{name} hums with {amount:g Hz} since then."
MARK_LOUDER = "{name} is {amount:.0 dB} louder than in {take}."
MARK_QUIETER = "{name} stayed {amount:.0 dB} below {take}."
MARK_LOST = "Sound was lost on its way into the computer."
WATCHING, WATCHING_SAYS = (
    "Listening",
    "Nothing moves and nothing sounds while somebody plays. Marks: {count}.",
)
STOPPED_WORD = "Not recording"
ALL_CLEAN, ALL_CLEAN_SAYS = "Clean", "Nothing was marked until now."
MARKED, MARKED_SAYS = "{count:n mark|marks}", "Told now, since nobody plays."
SILENT_SAYS = "Nothing but digital silence comes: is the recording software still running, is the device switched on?"
STANDS_SAYS = "The file grows no more: recording has stopped, or the disk is full."
HELD = "{device} is being used by {program}. Let it record, and have Verve watch the folder it records into."

# ── the numbers of a check ──
FACT_LOUDEST = "Loudest passage"
FACT_LOUDEST_HOW = "the highest peak of the passages that were heard"
FACT_EXPECTED = "Expected in a take"
FACT_EXPECTED_HOW = "with what its player goes over a test, and what the others in the room add"
FACT_SILENCE = "In silence"
FACT_SILENCE_HOW = "A-weighted, three seconds in which nobody played"
FACT_HUM = "Mains hum"
FACT_HUM_HOW = "all its harmonics of {mains_hz:g Hz} together"
FACT_GATE = "Noise gate"
FACT_GATE_HOW = "its threshold must lie above the noise’s peaks and below the quietest passage"
GATE = "{low_db:+.0 dBFS} to {high_db:+.0 dBFS}"
NO_GATE = "none fits: the quietest passage is as soft as the noise"
FACT_COMPRESSOR = "Compressor"
FACT_COMPRESSOR_HOW = "one that begins at {at_db:+.0 dBFS}, as is usual, sees this take"
COMPRESSOR = "bites: {by_db:.0 dB} of the loudest passage are above its threshold"
COMPRESSOR_IDLE = "never bites: raise the take first"
FACT_RAISED = "Noise, take raised to its target"
FACT_RAISED_HOW = "what hisses when the take is raised by {by_db:.0 dB} afterwards"

# ── where the noise comes from, measured ──
ROOM_NAME, OTHER_GEAR = "Room", "Other gear"
NOISE_FITS = "It fits what is computed in every third of an octave; most of it is: {part}."
NOISE_ABOVE = "Around {hz:g Hz} it is {by_db:.0 dB} more than computed: {fits}."
NOISE_BELOW = (
    "Around {hz:g Hz} it is {by_db:.0 dB} less than computed: quieter than the session says."
)
BASS_FITS = "that fits rumble, traffic or a fan"
MIDDLE_FITS = "that fits voices, machines or a fan in the room"
TREBLE_FITS = "that fits hiss of the equipment, or a charger"
