"""What is asked and told in the listening drills."""

CAUTION = (
    "Turn your headphones down first, and up only until the first example is comfortable. Listen for ten minutes at "
    "most, then rest: ears get tired before one notices, and what rings afterwards was too loud."
)

FLAT_TOPS, PEAK_OVER, PAUSES, HUM, BASS, TREBLE, AGAIN, LATER = (
    "Flat tops", "Peak over average", "In the pauses, below the average", "Hum",
    "Below 250 Hz, against the middle", "Above 4 kHz, against the middle", "Comes again", "Right behind left",
)  # fmt: skip
TOPS = "{share:.1%} of it, at {level_dbfs:.1 dBFS}"
DB, MS, NONE, AT = (
    "{value:.1 dB}",
    "{value:.1 ms}",
    "none",
    "{hz:.1 Hz}, {below_db:.0 dB} below the average",
)
AGAIN_AT = "after {value:.1 ms}, {strength:.0%}"
RIGHT = "Right: it was {letter}. {what}"
WRONG = "No, it was {letter}. {what}"
FROM, DOWN_TO = "You tell it from {value} on.", "You tell it down to {value}."
NOT_YET = "Too few turns for a figure."
MEANS = "What that means: {means}"
