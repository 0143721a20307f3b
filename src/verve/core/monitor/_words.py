"""What is said of hearing oneself, apart from how it is judged."""

from verve.core.findings import RuleWords

BUFFER_LARGE = RuleWords(
    title="The headphones are late",
    brief="late in the headphones",
    cost="What is played comes back {delay_ms:.0 ms} later, and throws the player off.",
    advice="Record with {better_frames} frames; go back up for mixing.",
    button="Use {better_frames} frames",
)
SIXTEEN_BITS = RuleWords(
    title="The recorder writes 16 bits",
    brief="16 bits",
    cost="A quiet take raised later brings up the recorder’s own noise, 98 dB down.",
    advice="Record with 24 bits; the files grow by half.",
    button="Use 24 bits",
)
ROUND_TRIP = "Round trip"
ROUND_TRIP_HOW = (
    "2 × {buffer_frames} frames ÷ {sample_rate_hz} Hz, converters and driver not counted"
)
