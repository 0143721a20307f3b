"""What is heard of all takes: chosen, cross-faded, balanced roughly, bounced."""

from verve.core.mix._bounce import FORMATS, MOST_LIMITED_DB, NEAR_LU, Aim, Bounced, bounce
from verve.core.mix._cue import (
    CuePlan,
    cue_plan,
    cue_span,
    whole_song_s,
    write_cue,
    write_in_place,
    write_mix,
)
from verve.core.mix._heard import (
    Heard,
    backings,
    chosen_take,
    heard_of,
    heard_under,
    name_of,
    recorded_lines,
    start_of,
    takes_of,
    track_of,
)
from verve.core.mix._render import Plan, Voice, files_of, line_span, plan_of_mix, rendered
from verve.core.mix._sheet import LOOSE_MS, SheetMark, SheetRow, first_line_of, state_of, take_sheet
from verve.core.mix._standing import Stand, is_voice, standing_of

__all__ = [
    "FORMATS",
    "LOOSE_MS",
    "MOST_LIMITED_DB",
    "NEAR_LU",
    "Aim",
    "Bounced",
    "CuePlan",
    "Heard",
    "Plan",
    "SheetMark",
    "SheetRow",
    "Stand",
    "Voice",
    "backings",
    "bounce",
    "chosen_take",
    "cue_plan",
    "cue_span",
    "files_of",
    "first_line_of",
    "heard_of",
    "heard_under",
    "is_voice",
    "line_span",
    "name_of",
    "plan_of_mix",
    "recorded_lines",
    "rendered",
    "standing_of",
    "start_of",
    "state_of",
    "take_sheet",
    "takes_of",
    "track_of",
    "whole_song_s",
    "write_cue",
    "write_in_place",
    "write_mix",
]
