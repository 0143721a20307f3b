"""What is said of where things stand, apart from how it is computed."""

from verve.core.findings import RuleWords

BLEED_INTO = RuleWords(
    title="Bleed from {source} in {microphone}, {below}",
    brief="bleed from {source}",
    cost="{wanted} cannot be mixed or corrected apart from {source}, and their sum is hollow.",
)
BELOW_WANTED = "{db:.0 dB} below {wanted}"
ABOVE_WANTED = "{db:.0 dB} louder than {wanted}"
CLOSER = "Put {microphone} {distance_cm:.0 cm} away from {wanted}{turned}: the bleed falls by {gain_db:.0 dB}."
TURN = "Turn {microphone} by {turn_deg:.0}° {side}: the bleed falls by {gain_db:.0 dB}."
AND_TURNED = ", turned {turn_deg:.0}° {side}"
TO_LEFT, TO_RIGHT = "to the left", "to the right"
FARTHER = (
    "Let {source} stand {metres:.1 m} farther from {wanted}: the bleed falls by {gain_db:.0 dB}."
)
MOVE_SOURCE = "Move {source}"
MOVE_MICROPHONE = "Move the microphone"
MOVE_BOTH = "Move both microphones"
TURN_MICROPHONE = "Turn the microphone"
APART = "Let {source} stand farther from {wanted}, or put something soft and heavy between them."
PAIR_ARRIVAL = RuleWords(
    title="Unequal distances of {first} and {second}, {apart_cm:.0 cm} apart",
    brief="cancels in mono",
    cost=(
        "{wanted} arrives {delay_ms:.1 ms} apart: in mono a dip at {null_hz:.0 Hz}, and the image leans to one side."
    ),
    advice="Put {further} as near as its partner, {distance_cm:.0 cm} from {wanted}.",
    button="Put it at {distance_cm:.0 cm}",
)
MAY_HOWL = RuleWords(
    title="Feedback between {loudspeaker} and {microphone}: {margin_db:.0 dB} of margin",
    brief="{chance}",
    cost=(
        "{loudspeaker} comes back into {microphone} {margin_db:.0 dB} below {wanted}. Single frequencies stand up to "
        "10 dB above that mean: a slow test, hand on the fader, decides."
    ),
    advice="Turn {microphone} away from {loudspeaker}, bring {wanted} closer, or play it {less_db:.0 dB} softer.",
    caution="Howling hurts ears: begin low, and never point a microphone at the loudspeaker that plays it.",
)
WRONG_SIDE = RuleWords(
    title="{microphone} does not look at {wanted}",
    brief="wrong side",
    cost=(
        "Turned by {angle_deg:.0}° it hears {wanted} {below_db:.0 dB} softer than from its front; the room and the "
        "others stay as loud."
    ),
    advice="Turn {microphone} to {wanted}. {side}",
    button="Turn it to its source",
)
PLOSIVES = RuleWords(
    title="{wanted} breathes straight into {microphone}",
    brief="breath at {distance_cm:.0} cm",
    cost="At {distance_cm:.0} cm, p, b and t thump: low bursts of air that clip early and cannot be taken out later.",
)
PLOSIVES_ADVICE = (
    "Hang a pop shield a hand’s breadth before {microphone}, put foam on, or let it stand 30° beside the "
    "mouth."
)
SHIELD_IS_UP = "The pop shield is up"
LEAK = RuleWords(
    title="{headphones} leak into {microphone}",
    brief="headphones leak",
    cost=(
        "Click and backing stand {below_db:.0 dB} below {wanted} and {above_db:.0 dB} above the noise: heard in "
        "every pause once the take is raised."
    ),
    caution="Loud headphones harm hearing: rather turn down what covers than the wanted part up.",
)
LEAK_TIGHTER = "Let {others} be worn instead of “{headphones}”: they hold more back."
LEAK_SOFTER = "Turn “{headphones}” down by {less_db:.0 dB}, and see that they sit well."
TAKE_OTHERS, TURN_DOWN = "Take {others}", "Turn them down"
WILL_HOWL, MIGHT_RING = "will probably howl", "may ring"
FAR_IN_ROOM = RuleWords(
    title="More of the room than of {wanted} in {microphone}",
    brief="more room than source",
    cost="At {distance_cm:.0 cm} the room is {over_db:.0 dB} above the direct sound; that cannot be taken out later.",
    advice="From {half_cm:.0 cm} on it is the other way round.",
)

ROOM = "{length_m:.1} × {width_m:.1} × {height_m:.1} m, {volume_m3:.0 m³}; {decay}."
DECAY_KNOWN = "it rings for {rt60_s:.1 s}"
DECAY_GUESSED = (
    "it rings for about {rt60_s:.1 s} (estimated: between {least_s:.1} and {most_s:.1 s})"
)
SIZE_GUESSED = "Size not known; computed as a medium room. "
ROOM_SHARE = (
    "From {critical_m:.1 m} on a microphone that hears all around takes in as much room as direct sound, a cardioid "
    "from {cardioid_m:.1 m}. Below {schroeder_hz:.0 Hz} single room modes stand out: try spots by ear."
)
WRONG = {
    "reverberation": "The reverberation time of this room cannot be; it is estimated from the furnishing instead.",
    "lengths": "A room needs lengths of at least 1 m; a medium room is assumed.",
    "volume": "A room needs at least 1 m³; a medium room is assumed.",
}
OUTSIDE = "{name} stands outside the walls."
TOGETHER = "{first} and {second} stand in one place."
INSIDE = "{microphone} stands inside what it records: {source} is about {size_cm:.0 cm} from its middle to its edge."
SAID_OF_SOURCE = (
    "{name}: {x_m:.2} m from the left wall, {y_m:.2} m from the front wall, {height_m:.2} m high."
)
SAID_OF_MICROPHONE = (
    "{name}: {distance_m:.2 m} from {source}, {height_m:.2} m high, {angle_deg:.0}° off its axis."
)
NOTHING_HERE = (
    "No acoustic source meets a microphone yet. Add one in Patch, and its place in the room is drawn here; "
    "direct signals need none."
)
ONE_SOURCE = "One source in the room: nothing else bleeds into its microphone but the room itself."
# ── the bleed table ──
OFF = "off"
WANTED = "wanted"
LOUDER = "{db:.0 dB} louder"
BELOW = "{db:.0 dB}"
BELOW_IT = "{db:.0 dB} below"
GRADES = {
    "louder": "louder than the wanted source",
    "strong": "as present as a second source: it cannot be mixed separately",
    "audible": "heard behind every pause",
    "faint": "heard only where the wanted source is silent",
    "clean": "hardly heard",
}
SAID = {
    "louder": "{db:.0 dB} louder than the wanted source",
    "strong": "{db:.0 dB} below the wanted source, " + GRADES["strong"],
    "audible": "{db:.0 dB} below the wanted source, " + GRADES["audible"],
    "faint": "{db:.0 dB} below the wanted source, " + GRADES["faint"],
    "clean": "{db:.0 dB} below the wanted source, " + GRADES["clean"],
}
GRADE_NAMES = {
    "louder": "louder", "strong": "strong", "audible": "audible", "faint": "faint", "clean": "clean",
}  # fmt: skip
# ── one cell ──
PATH_TITLE = "{source} in {microphone}"
DISTANCE = "Distance"
DISTANCE_HOW = "from the two places in the room; sound takes {delay_ms:.1 ms}, {frames:.0} frames at {rate_hz:.0 Hz}"
OFF_AXIS = "Off the microphone’s axis"
OFF_AXIS_HOW = "between where it is aimed and the source; {pattern}"
BESIDE = "Beside where the source faces"
BESIDE_HOW = "sources send less treble to their sides and back: typical directivity by octave"
DIRECT = "Direct sound"
DIRECT_HOW = (
    "level at 1 m less 20·log₁₀ of the distance, its directivity, the pattern with proximity; octaves added as "
    "powers"
)
FROM_ROOM = "From the room"
FROM_ROOM_HOW = (
    "the same everywhere: the source’s power over an absorption of {absorbing_m2:.0 m²}, through the pattern from "
    "all around"
)
BLEED = "Below the wanted source"
BLEED_HOW = (
    "{wanted} arrives with {own_db:.1 dB}, {other} with {other_db:.1 dB}; both at typical playing"
)
BALANCE = "Balance with {wanted}"
BALANCE_HOW = "both are recorded on purpose with this microphone"
HOW_DIRECT = "How direct it sounds"
HOW_DIRECT_HOW = "direct sound over room sound: 0 dB is as much room as source"
SUM = "Mixed with its own microphone"
SUM_TEXT = "ripple {ripple_db:.1 dB}, first dip at {null_hz:.0 Hz}"
SUM_NONE = "no ripple"
AS_SENTENCE = "{label}: {text:later}."
SUM_HOW = (
    "{delay_ms:.2 ms} and {difference_db:.1 dB} apart when both microphones are raised to one level; "
    "20·log₁₀((1 + g) ÷ (1 − g))"
)
THREE_TO_ONE = "Three to one"
THREE_TO_ONE_TEXT = "{between:.1} between microphones, {far:.1} far against near"
THREE_TO_ONE_HOW = (
    "distance between both microphones over that to the source, and far over near distance. Either habit wants 3, "
    "for sources with a microphone each: 9.5 dB apart, and at equal gain the sum still ripples by +2.5 and −3.5 dB. "
    "Raised to equal level that is gone: what counts is the bleed computed here"
)
PATTERN = {
    "omni": "it hears alike all around",
    "wide_cardioid": "wide cardioid: 8 dB less behind",
    "cardioid": "cardioid: nothing from behind, 6 dB less beside",
    "supercardioid": "supercardioid: nothing at 126 degrees",
    "figure_eight": "figure-of-eight: nothing from beside",
}
NO_PATTERN = "its pattern is not known; computed as one that hears all around"
# ── things that sound ──
THING_NAMES = {
    "loudspeaker": "Loudspeaker", "wedge": "Wedge monitor", "fan": "Fan", "heater": "Heater", "fridge": "Fridge",
    "computer": "Computer", "projector": "Projector", "window": "Window to the street", "other": "Other noise",
    "desk": "Desk", "music_stand": "Music stand", "open_headphones": "Open headphones",
    "closed_headphones": "Closed headphones", "in_ears": "In-ear phones",
}  # fmt: skip
# ── first reflections ──
REFLECTION = "Reflection from the {surface}"
REFLECTION_TEXT = "{down_db:.0 dB} down, {late_ms:.1 ms} late: ripple {ripple_db:.1 dB}, first dip at {null_hz:.0 Hz}"
REFLECTION_HOW = (
    "the way over its mirror image is {extra_cm:.0 cm} longer; 20 cm less between microphone and source, or a towel "
    "over the surface (about 8 dB), changes that at once. Floor and walls take {taken:.0%} (typical), a desk 5%"
)
SURFACES = {"floor": "floor", "ceiling": "ceiling", "wall": "nearest wall"}
# ── on paper ──
LEFT_WALL, FRONT_WALL, FLOOR = "left wall", "front wall", "floor"
BACK, RIGHT, FRONT, LEFT = "the back wall", "the right wall", "the front wall", "the left wall"
LOW_STAND, STRAIGHT_STAND, BOOM_STAND, TALL_STAND = (
    "low stand",
    "straight stand",
    "boom stand",
    "tall boom stand",
)
WITH_BAR = "{stand} with a stereo bar"
SEATED, STANDING = "a seated player", "a standing player"
LOW_WHY = "it is {height_cm:.0 cm} above the floor"
STRAIGHT_WHY = "it stands before {player}, far enough away"
BOOM_WHY = "its foot must be beside {player}, not between player and microphone"
TALL_WHY = "{height_m:.1 m} is higher than a usual stand; weigh its foot down, it hangs over people"
AIMED_AT = "aimed straight at it"
AIMED_PAST = "turned {angle_deg:.0}° past it, {side}"
# ── stereo ──
TECHNIQUES = {
    "coincident": (
        "XY",
        "Both in one point, crossed at 90°: no differences in time, nothing is lost in mono. One stand, one bar.",
    ),
    "near_coincident": (
        "110°, 17 cm",
        "Near-coincident: level and time together, wide and natural. One stand, one bar.",
    ),
    "spaced": (
        "Spaced (AB)",
        "50 cm apart, side by side: time alone, spacious; mono loses some. Two stands, or a wide bar.",
    ),
    "middle_side": (
        "Mid/side (MS)",
        "One to the front, a figure-of-eight across it; the width is set later. One stand, one bar.",
    ),
}
COVERED = "Covers"
COVERED_NEVER = "more than 180°"
COVERED_HOW = (
    "what stands at its edge is heard wholly from one side: {level_db:.0 dB} between both, or {time_ms:.1 ms}, or "
    "both together in proportion (typical)"
)
SOURCE_WIDTH = "The source is seen under"
SOURCE_WIDTH_HOW = "about {size_cm:.0 cm} wide at {distance_cm:.0 cm}"
AT_EDGE = "At the edge of the source"
AT_EDGE_TEXT = "{level_db:.1 dB} and {time_ms:.2 ms} between both"
AT_EDGE_HOW = "patterns, axes and ways to both microphones"
MONO = "Left in mono at the edge"
MONO_HOW = "sum of both sides against a source in front, delays aside; delays add the dips of the response above"
# ── starting points ──
START, CLOSER_IS, FARTHER_IS, ASIDE_IS, AVOID = "Begin", "Closer", "Farther", "To the side", "Avoid"
START_AT = "{distance_cm:.0 cm}, {aim}"
LIVE_SIDE = "Live side"
LIVE = {
    "end": "it is spoken into from its end",
    "side": "it is spoken into from its side, the one with the mark; its end hears little",
}
SHIELD = "Pop shield"
SHIELD_TEXT = "half-way, 8 to 10 cm before the capsule; a stocking over a wire ring does it, and costs no treble"
FOAM = "Foam instead"
FOAM_TEXT = "thin foam takes {treble_db:.1 dB} at 8 kHz and stops less; thick foam takes more; check the level again"
# ── a clap ──
CLAP_HOW = (
    "Clap once at arm’s length from the microphone and from your ears, gain low, half a second of silence before it "
    "and two after. Mind your ears: a clap near them is loud."
)
CLAP_MIDDLE = "It rings for {rt60_s:.2 s} in the middle"
CLAP_NONE = "The clap does not stand 35 dB above the noise in any octave from 500 Hz to 2 kHz"
CLAP_BAND = "{hz:.0 Hz} {rt60_s:.2 s}"
CLAP_UNREAD = "Not measurable with a clap: {bands}"
CLAP_FLUTTER = (
    "Flutter every {flutter_ms:.0 ms}: two bare walls face one another, about {metres:.1 m} apart. Hang something "
    "soft on one of them"
)
CLAP_CLIPPED = "The clap is clipped: turn the gain down, and clap again"
CLAP_CHANGE = "{percent:.0}% of the first one, {first_s:.2 s}"
# ── microphone and pickup ──
PICKUP = (
    "{microphone} hears it {late_ms:.2 ms} after {direct}, {frames:.1} frames at {rate_hz:.0 Hz}: shift the track of "
    "{direct} later by that before mixing both, or the sum is hollow."
)
PICKUP_MEASURED = (
    "Measured: {first} and {second} are {late_ms:.2 ms} apart, {frames:.1} frames. Shift the track of {later} later "
    "by that (confidence {confidence:.2})."
)
PICKUP_INVERTED = "They have opposite polarity: invert one."
PICKUP_NOT_FOUND = "Not found: {reason}."
# ── one microphone for two sources ──
BALANCED = (
    "{first} and {second} are equally loud at {distance_cm:.0 cm}, {rise_deg:.0}° above {first}"
)
NOT_BALANCED = "{microphone}: hears {second} nowhere as loud as {first}, 20 cm to 3 m away"
# ── noise of takes ──
NOISE_OF = "{take}: noise {noise_dbfs_a:.1 dBFS A}, {running}"
NOTHING_RUNS = "nothing running"
RUNS = "with {things}"
NOISE_FALLS = "{by_db:.1 dB} less noise than in {take}"
NOISE_RISES = "{by_db:.1 dB} more noise than in {take}"
NOISE_SAME = "as much noise as in {take}"
THINGS = "things running"
# ── spots ──
SPOT_AT = "{name}: {distance_cm:.0 cm} away, {bearing_deg:.0}° around, {rise_deg:.0}° up"
SPOT_LEVEL = "direct sound {level_db:.0} dB SPL"
SPOT_DIRECT = "{over_db:+.0 dB} against its room"
SPOT_BLEED = "{name} {below_db:+.0 dB} against it"
SPOT_RECORDED = "recorded in {name}"
SPOT_LOUDNESS = "{lufs:.1} LUFS"
SPOT_NOISE = "noise {noise_dbfs_a:.1 dBFS A}"
SPOT_CHOSEN = "chosen {at}"
SPOT_JOIN = ", "
SPOT_GONE = "{name}: {why}"
SPOT_UNUSED = "nothing is led into this microphone"
# ── one source in the room ──
ALONE_TITLE = "Where to put {microphone} for {source}"
ALONE_START = "Where to begin"
ALONE_SOUND = "As it stands now"
ALONE_REFLECTIONS = "First reflections"
ALONE_TAPE = "With a tape"
FROM_TO = "{first} to {second}"
TAPE = "{metric}, {feet}"
HOW_IT_SOUNDS = (DISTANCE, DIRECT, FROM_ROOM, HOW_DIRECT)
# ── hollow instruments ──
HOLLOW = (
    "{loudspeaker} is heard by the body of {instrument} too: keep some metres between them, or damp the body; it "
    "howls as a microphone does."
)
