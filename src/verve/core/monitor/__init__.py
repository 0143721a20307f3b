"""Monitoring: who hears what, by which way, how late, how loud; what is known of the computer's delays."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from verve.core.monitor._ears import (
    LIMITS,
    AtEar,
    Headphones,
    at_ear,
    drive_of,
    over_own_db,
    own_level_dba,
    under_headphones_dba,
)
from verve.core.monitor._findings import (
    double_of,
    findings,
    line_of_who,
    monitoring_ms,
    round_trip_facts,
)
from verve.core.monitor._hearing import (
    Dose,
    HeadphoneDrive,
    Span,
    allowed_hours,
    headphone_spl_db,
)
from verve.core.monitor._latency import RoundTrip, fitted_round_trip_ms, round_trip_ms
from verve.core.monitor._learned import TYPICAL_FIXED_MS, Learned, learned
from verve.core.monitor._ledger import Delay, Ledger, ledger_of, of_computer, sources_of
from verve.core.monitor._tasks import (
    BANDS,
    Band,
    Feel,
    against_own_voice,
    band_of,
    is_in_the_head,
    player_of,
)
from verve.core.monitor._whatif import (
    SIZES,
    Option,
    load_share,
    option,
    options,
    recommended,
    strictest_ms,
)
from verve.core.monitor._words import WAYS_BEGIN as WAY_NAMES

if TYPE_CHECKING:
    from verve.core.monitor._loop import (
        SafePoint,
        dropouts_told,
        loop_points,
        loop_told,
        phantom_on,
    )
    from verve.core.monitor._told import (
        buffer_text,
        computer_text,
        drive_facts,
        ears_text,
        ledger_facts,
        offset_text,
        sentence_of,
        total_text,
        usable_offset_frames,
        ways_of,
    )
    from verve.core.monitor._trouble import (
        DAY_BY_HAND,
        DAY_RIGHT,
        TROUBLE_NAMES,
        EarCause,
        Trouble,
        day_words,
        ear_causes,
    )

_LATER = {
    "SafePoint": "_loop",
    "dropouts_told": "_loop",
    "loop_points": "_loop",
    "loop_told": "_loop",
    "phantom_on": "_loop",
    "buffer_text": "_told",
    "computer_text": "_told",
    "drive_facts": "_told",
    "ears_text": "_told",
    "ledger_facts": "_told",
    "offset_text": "_told",
    "sentence_of": "_told",
    "total_text": "_told",
    "usable_offset_frames": "_told",
    "ways_of": "_told",
    "DAY_BY_HAND": "_trouble",
    "DAY_RIGHT": "_trouble",
    "TROUBLE_NAMES": "_trouble",
    "EarCause": "_trouble",
    "Trouble": "_trouble",
    "day_words": "_trouble",
    "ear_causes": "_trouble",
}
"""What only the step itself needs, and its module: a first look at a session judges without loading it."""

__all__ = [
    "BANDS",
    "DAY_BY_HAND",
    "DAY_RIGHT",
    "LIMITS",
    "SIZES",
    "TROUBLE_NAMES",
    "TYPICAL_FIXED_MS",
    "WAY_NAMES",
    "AtEar",
    "Band",
    "Delay",
    "Dose",
    "EarCause",
    "Feel",
    "HeadphoneDrive",
    "Headphones",
    "Learned",
    "Ledger",
    "Option",
    "RoundTrip",
    "SafePoint",
    "Span",
    "Trouble",
    "against_own_voice",
    "allowed_hours",
    "at_ear",
    "band_of",
    "buffer_text",
    "computer_text",
    "day_words",
    "double_of",
    "drive_facts",
    "drive_of",
    "dropouts_told",
    "ear_causes",
    "ears_text",
    "findings",
    "fitted_round_trip_ms",
    "headphone_spl_db",
    "is_in_the_head",
    "learned",
    "ledger_facts",
    "ledger_of",
    "line_of_who",
    "load_share",
    "loop_points",
    "loop_told",
    "monitoring_ms",
    "of_computer",
    "offset_text",
    "option",
    "options",
    "over_own_db",
    "own_level_dba",
    "phantom_on",
    "player_of",
    "recommended",
    "round_trip_facts",
    "round_trip_ms",
    "sentence_of",
    "sources_of",
    "strictest_ms",
    "total_text",
    "under_headphones_dba",
    "usable_offset_frames",
    "ways_of",
]


def __getattr__(name: str) -> Any:
    """Names of what is loaded when it is first asked for."""
    if name not in _LATER:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f"{__name__}.{_LATER[name]}"), name)
