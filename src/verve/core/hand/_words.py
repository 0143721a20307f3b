"""What is told of gains that were set by hand."""

SAID = "set by hand"
LOST = "Lost: it clips by {over_db:.0 dB} at {where}."
SILENT = "Lost: nothing arrives."
CLOSE = "Kept, with {headroom_db:.0 dB} of headroom: one harder phrase would have clipped."
RIGHT = "Right: {headroom_db:.0 dB} of headroom, and within {worse_db:.0 dB} of the best signal-to-noise ratio."
LOW = "Kept, but {worse_db:.0 dB} nearer to the noise than need be; raised later, the noise comes up with it."
FAR_BELOW = (
    "Kept, {below_db:.0 dB} below the best level. Here that costs only {worse_db:.0 dB}, since the noise of the room "
    "or the gear comes before the gain; a meter that hardly moves hides what goes wrong."
)
BETTER = (
    "Kept, {better_db:.0 dB} further above the noise than with the distance of the sheet: that close it has more "
    "bass, and changes with every move."
)
HARDER = "{player} played {over_db:.0 dB} harder than in the test."
"""The player is a source."""
ALL_KEPT = "Every take is kept."
SOME_LOST = "{lost:n take|takes} of {count} lost."
