"""What is said of hearing oneself, apart from how it is judged."""

from verve.core.findings import RuleWords

BUFFER_LARGE = RuleWords(
    title="High monitoring latency",
    brief="high monitoring latency",
    cost="What is played comes back {delay_ms:.0 ms} later, and disturbs the player.",
    advice="Record with {better_frames} samples; go back up for mixing.",
    button="Use {better_frames} samples",
)
SIXTEEN_BITS = RuleWords(
    title="16-bit recording",
    brief="16 bits",
    cost="A quiet take raised later brings up the 16-bit noise, 98 dB down.",
    advice="Record with 24 bits; the files grow by half.",
    button="Use 24 bits",
)
ROUND_TRIP = "Round trip"
ROUND_TRIP_HOW = (
    "2 × {buffer_frames} samples ÷ {sample_rate_hz} Hz, converters and driver not counted"
)
