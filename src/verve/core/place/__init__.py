"""Place: where players and microphones stand, moved and judged."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from verve.core.place._findings import BLEED_LIMIT_DB, findings
from verve.core.place._moves import (
    Key,
    Number,
    brought,
    keys_of,
    moved,
    name_of,
    numbers_of,
    placed,
    put,
    switched,
    turned,
    with_number,
)
from verve.core.place._table import (
    BAD,
    Cell,
    Grade,
    cell_of,
    chosen_microphone,
    colours_of,
    drawn_sum,
    faults_of,
    grade_of,
    mixed,
    own_microphone,
    path_facts,
    path_title,
    room_text,
    said_beside,
    said_of,
)
from verve.core.place._words import CLAP_HOW, NOTHING_HERE, ONE_SOURCE, TECHNIQUES, THING_NAMES

if TYPE_CHECKING:
    from verve.core.place._claps import clap_facts, clap_in, clap_text, usable_s
    from verve.core.place._marks import (
        Mark,
        StandNeeded,
        faces_words,
        marks_of,
        stands_of,
        turn_words,
    )
    from verve.core.place._pickups import (
        DirectPartner,
        direct_partners,
        line_of,
        measured_text,
        pickup_text,
        recorded_pair,
    )
    from verve.core.place._starting import (
        StartingPoint,
        put_at_start,
        start_text,
        starting_facts,
        starting_point,
        starting_points,
    )
    from verve.core.place._stereo import (
        ARRANGEMENTS,
        arranged,
        as_pair,
        covered_deg,
        pair_with,
        pairs_of,
        stereo_facts,
    )

_LATER = {
    "clap_facts": "_claps",
    "clap_in": "_claps",
    "clap_text": "_claps",
    "usable_s": "_claps",
    "Mark": "_marks",
    "StandNeeded": "_marks",
    "faces_words": "_marks",
    "marks_of": "_marks",
    "stands_of": "_marks",
    "turn_words": "_marks",
    "DirectPartner": "_pickups",
    "direct_partners": "_pickups",
    "line_of": "_pickups",
    "measured_text": "_pickups",
    "pickup_text": "_pickups",
    "recorded_pair": "_pickups",
    "StartingPoint": "_starting",
    "put_at_start": "_starting",
    "start_text": "_starting",
    "starting_facts": "_starting",
    "starting_point": "_starting",
    "starting_points": "_starting",
    "ARRANGEMENTS": "_stereo",
    "arranged": "_stereo",
    "as_pair": "_stereo",
    "covered_deg": "_stereo",
    "pair_with": "_stereo",
    "pairs_of": "_stereo",
    "stereo_facts": "_stereo",
}
"""What only the step itself needs, and its module: a first look at a session judges without loading it."""

__all__ = [
    "ARRANGEMENTS",
    "BAD",
    "BLEED_LIMIT_DB",
    "CLAP_HOW",
    "NOTHING_HERE",
    "ONE_SOURCE",
    "TECHNIQUES",
    "THING_NAMES",
    "Cell",
    "DirectPartner",
    "Grade",
    "Key",
    "Mark",
    "Number",
    "StandNeeded",
    "StartingPoint",
    "arranged",
    "as_pair",
    "brought",
    "cell_of",
    "chosen_microphone",
    "clap_facts",
    "clap_in",
    "clap_text",
    "colours_of",
    "covered_deg",
    "direct_partners",
    "drawn_sum",
    "faces_words",
    "faults_of",
    "findings",
    "grade_of",
    "keys_of",
    "line_of",
    "marks_of",
    "measured_text",
    "mixed",
    "moved",
    "name_of",
    "numbers_of",
    "own_microphone",
    "pair_with",
    "pairs_of",
    "path_facts",
    "path_title",
    "pickup_text",
    "placed",
    "put",
    "put_at_start",
    "recorded_pair",
    "room_text",
    "said_beside",
    "said_of",
    "stands_of",
    "start_text",
    "starting_facts",
    "starting_point",
    "starting_points",
    "stereo_facts",
    "switched",
    "turn_words",
    "turned",
    "usable_s",
    "with_number",
]


def __getattr__(name: str) -> Any:
    """Names of what is loaded when it is first asked for."""
    if name not in _LATER:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f"{__name__}.{_LATER[name]}"), name)
