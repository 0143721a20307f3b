"""What is seen, heard and said while somebody looks for a fault."""

INPUT, ARMED, CHANNELS = "Input", "Armed", "Channels"
EFFECTS, SOFTWARE = "Effects into the recording", "Monitoring through the software"
ARMED_BESIDE = "Armed beside yours"
INPUT_DEVICE, OUTPUT_DEVICE, BUFFER, RATES = (
    "Input device",
    "Output device",
    "Buffer",
    "Sample rates",
)
PHONES_LEVEL, PHONES_PLUG = "Headphone level", "Headphone plug"
BALANCE, DIRECT = "Balance of the headphone mix", "Direct monitoring"
TEST_PEAK = "Hardest peak of the test"
FANS, WINDOWS, LOUDSPEAKERS = "Fans and heaters", "Windows and doors", "Loudspeakers"
SCREENS, CHARGER = "Screens near the player", "Charger of the computer"
PLUGS, PLUGGED_HERE, SHIELD = "Plugs", "Plugged in here", "Pop shield"

INPUT_OF = "input {input}"
OWN_INPUT, FRAMES, OWN_CABLE = "{input}", "{frames} samples", "the cable that belongs here"
YES, OFF, MONO, AS_WANTED, BOTH_ALIKE = "yes", "off", "mono", "as wanted", "both alike"
IN, MIDDLE, SHUT, DOWN, NONE, PULLED, THERE = (
    "all the way in", "in the middle", "shut", "down", "none", "pulled out", "there",
)  # fmt: skip

METER = {
    "nothing": "The meter of the track shows nothing.",
    "far below": "The meter of the track reaches {peak_dbfs:.0 dBFS}: far too low.",
    "below": "The meter of the track reaches {peak_dbfs:.0 dBFS}: too low.",
    "right": "The meter of the track reaches {peak_dbfs:.0 dBFS}, as it should.",
    "above": "The meter of the track reaches {peak_dbfs:.0 dBFS}: too high.",
    "over": "The meter of the track goes over: it clips.",
    "others": "The meter of the track does not move with you; it moves when somebody else plays.",
    "room": "The meter of the track moves a little with everything in the room.",
}
MOVES = "The meter of an older track moves along."
LIVE = "In the headphones while you play: {sounds}."
BACK = "Played back: {sounds}."
PAUSE = {
    "quiet": "Nobody plays: the meter rests where it should.",
    "louder": "Nobody plays: the noise is higher than it should be, at {noise_dbfs:.0 dBFS}.",
    "hum": "Nobody plays: hum, at {noise_dbfs:.0 dBFS}.",
    "rumble": "Nobody plays: a rushing noise, at {noise_dbfs:.0 dBFS}.",
    "others": "You are silent: what the others play is on the track, at {noise_dbfs:.0 dBFS}.",
    "nothing": "Nobody plays: the meter of the track shows nothing at all.",
}
SOUNDS = {
    "unheard": "nothing, since you wear none",
    "nothing": "nothing",
    "soft": "softer than usual",
    "loud": "louder than usual",
    "dull": "dull",
    "thin": "thin",
    "boomy": "too much bass",
    "sharp": "sharp",
    "hiss": "hiss",
    "hum": "hum",
    "rumble": "a rushing noise",
    "distorted": "distorted",
    "pops": "thumps on p and b",
    "crackles": "crackling, with short gaps",
    "others": "what the others play as well",
    "somebody else": "somebody else instead of you",
    "room": "the room from afar",
    "one ear": "in one ear only",
    "echo": "everything twice, as an echo",
    "late": "late",
    "effect": "with an effect that was meant for the ears only",
    "slow": "too slow and too low",
    "hollow": "hollow and without bass, together with its partner",
}
AS_USUAL = "as it should be"

PLAY_LIVE = "Play, and listen in the headphones"
PLAY_PAUSE = "Be silent and watch the meter"
PLAY_BACK = "Record five seconds and play them back"
LOOK_TRACK = "Look at the track: its input, whether it is armed, mono, effects"
LOOK_TRACKS = "Look at the other tracks"
LOOK_PREFERENCES = "Look at the audio settings of the recording software: devices, buffer, rate"
LOOK_PHONES = "Look at the headphones: plug, level, direct monitoring"
LOOK_NOTES = "Look up what the test gave"
LOOK_ROOM = "Walk through the room: fans, windows, loudspeakers, screens, chargers"
LOOK_AT = "Look at {device}"
LOOK_CABLE = "Look whether the cable to {device} is in at both ends"
SWAP_CABLE = "Swap the cable to {device} for one that is known to be good"
SWAP_BATTERY = "Put a new battery into {device}"
TURN = "Turn the instrument a quarter away"
LAPTOP = "Run the computer on its battery"
STRIP = "Put all mains plugs into one strip"
LIFT = "Lift the ground at a DI box, never at the mains"
QUIET = "Switch off fans and heaters, and listen"
TURN_DOWN = "Turn the loudspeakers down"
MUTE = "Mute the monitoring through the software"
ROW, ROW_WITH_SHEET = "{row}: {said}", "{row}: {said} (sheet: {sheet})"
NO_DIFFERENCE = "No difference."
NOW_IT_IS = "Now it is otherwise: {meter} {live}"
NAMED_RIGHT = "That was it: {title}."
NAMED_WRONG = "No: {title} was not it. Everything is as before."

CAUTION = (
    "In a real room: monitors and headphones down before anything is plugged, gain down before phantom power is "
    "switched. Never lift a mains safety earth; mains work is for a licensed electrician."
)
