"""Sound files of a session: analysed, assigned to signals, looked at place by place, matched in level, logged."""

from verve.core.recordings._analysis import Analysed, analyse, sound_of
from verve.core.recordings._bring_in import BroughtIn, brought_in
from verve.core.recordings._collected import (
    Collected,
    collect,
    files_of_session,
    missing_files,
    takes_found_again,
    with_files,
)
from verve.core.recordings._match import (
    LoudnessOf,
    loudness_of,
    matched_gain_db,
    playback_gain_db,
    raised_gain_db,
)
from verve.core.recordings._picture import Column, columns_of, loudness_columns
from verve.core.recordings._places import MOST_PLACES, Place, PlaceKind, places_of
from verve.core.recordings._signals import Guess, Heard, guess_role, guess_signals, names_signal
from verve.core.recordings._takes import (
    sounds_of_take,
    sounds_without_take,
    take_from,
    with_takes,
)
from verve.core.recordings._tunings import (
    Tuning,
    TuningString,
    nearest_string,
    tuning_of_source,
    tunings,
)

__all__ = [
    "MOST_PLACES",
    "Analysed",
    "BroughtIn",
    "Collected",
    "Column",
    "Guess",
    "Heard",
    "LoudnessOf",
    "Place",
    "PlaceKind",
    "Tuning",
    "TuningString",
    "analyse",
    "brought_in",
    "collect",
    "columns_of",
    "files_of_session",
    "guess_role",
    "guess_signals",
    "loudness_columns",
    "loudness_of",
    "matched_gain_db",
    "missing_files",
    "names_signal",
    "nearest_string",
    "places_of",
    "playback_gain_db",
    "raised_gain_db",
    "sound_of",
    "sounds_of_take",
    "sounds_without_take",
    "take_from",
    "takes_found_again",
    "tuning_of_source",
    "tunings",
    "with_files",
    "with_takes",
]
