"""Check: levels as they come, the guided check, who is who, predicted against measured, and what is learnt of it."""

from verve.core.check._answer import (
    TURN_FIRST_DB,
    Answer,
    Silence,
    answers_of,
    measured_session,
    turn_first,
)
from verve.core.check._compare import (
    LONGEST_S,
    Ballot,
    Candidate,
    Matched,
    candidates_of,
    matched,
    tally_text,
)
from verve.core.check._explain import (
    CLOSE_DB,
    Explanation,
    Measured,
    accepted,
    explanations,
    with_hum,
)
from verve.core.check._guide import EASY_S, SILENCE_S, Guide, Passage, Phase, Signal
from verve.core.check._learn import (
    KnobPoint,
    calibrated,
    dial_from,
    goes_over_db,
    hour_now,
    knob_points,
    louder_by_db,
    remember_over_test,
    with_learnt_dial,
)
from verve.core.check._moments import MOMENTS_PER_S, Heard, Levels, Moment
from verve.core.check._noise import NoisePicture, noise_fits, noise_picture
from verve.core.check._signals import expected_of, groups_of, signals_of
from verve.core.check._watch import Mark, Watch, mark_text, reference_of
from verve.core.check._who import Expected, Proof, Who, channels_after

__all__ = [
    "CLOSE_DB",
    "EASY_S",
    "LONGEST_S",
    "MOMENTS_PER_S",
    "SILENCE_S",
    "TURN_FIRST_DB",
    "Answer",
    "Ballot",
    "Candidate",
    "Expected",
    "Explanation",
    "Guide",
    "Heard",
    "KnobPoint",
    "Levels",
    "Mark",
    "Matched",
    "Measured",
    "Moment",
    "NoisePicture",
    "Passage",
    "Phase",
    "Proof",
    "Signal",
    "Silence",
    "Watch",
    "Who",
    "accepted",
    "answers_of",
    "calibrated",
    "candidates_of",
    "channels_after",
    "dial_from",
    "expected_of",
    "explanations",
    "goes_over_db",
    "groups_of",
    "hour_now",
    "knob_points",
    "louder_by_db",
    "mark_text",
    "matched",
    "measured_session",
    "noise_fits",
    "noise_picture",
    "reference_of",
    "remember_over_test",
    "signals_of",
    "tally_text",
    "turn_first",
    "with_hum",
    "with_learnt_dial",
]
