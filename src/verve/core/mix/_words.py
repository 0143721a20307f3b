"""What is said of a mix and of what was bounced."""

TOO_SHORT = (
    "It is too short or too quiet for a loudness: its level stays as it is, under the ceiling."
)
NOT_SO_LOUD = (
    "{asked_lufs:.0 LUFS} would go over the ceiling of {ceiling_dbtp:.1 dBTP}: without a limiter {lufs:.1 LUFS} are "
    "possible, and that is what was written."
)
NOT_SO_LOUD_LIMITED = (
    "{asked_lufs:.0 LUFS} would take more than {most_db:.0 dB} of limiting: {lufs:.1 LUFS} are possible, and that is "
    "what was written."
)

# ── the take sheet ──
WHOLE_SONG = "Whole song"
CLEAN = "clean"
CLIPPED = "clipped, {count} samples"
SILENT = "silent"
NOISY = "{by_db:.0 dB} more noise than computed"
LATE, EARLY = "{by_ms:.0 ms} behind the beat", "{by_ms:.0 ms} ahead of the beat"
PEAK = ", peak {peak_dbfs:.1 dBFS}"
PITCH = ", {cents:+.0 cents} off its notes"
RATED = ", {rating} of 5"
