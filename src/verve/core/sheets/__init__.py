"""What goes out of the application as text or data: assessments, measurements, verifications."""

from verve.core.sheets._assessment import assessment_data, assessment_text
from verve.core.sheets._causes import causes_data, causes_text
from verve.core.sheets._comparisons import (
    alignment_data,
    alignment_text,
    loopback_data,
    loopback_text,
    pitch_data,
    pitch_text,
)
from verve.core.sheets._derivation import derivation_text
from verve.core.sheets._gains import gains_data, gains_text, sheet_data, sheet_text
from verve.core.sheets._influences import influence_facts
from verve.core.sheets._kits import (
    connections_data,
    connections_text,
    item_rows,
    kits_data,
    kits_text,
    missing_cables_text,
    offer_rows,
    offer_says,
)
from verve.core.sheets._measurement import measurement_data, measurement_text
from verve.core.sheets._patch import (
    TRACK_HEAD,
    BoxUse,
    InputUse,
    Leg,
    PatchRow,
    box_uses,
    cable_words,
    patch_csv,
    patch_html,
    patch_rows,
    track_rows,
    tracks_csv,
)
from verve.core.sheets._run import (
    run_sheet_csv,
    run_sheet_html,
)
from verve.core.sheets._shopping import shopping_csv, shopping_html
from verve.core.sheets._takes import (
    NOT_YET,
    advice_after,
    ending_text,
    moment_text,
    place_text,
    seconds_text,
    take_path,
    take_rows,
    track_facts,
    unreadable_takes_text,
    unreadable_text,
)
from verve.core.sheets._verification import verification_data, verification_text
from verve.core.sheets._ways import WAY_COLUMNS, way_rows, way_says

__all__ = [
    "NOT_YET",
    "TRACK_HEAD",
    "WAY_COLUMNS",
    "BoxUse",
    "InputUse",
    "Leg",
    "PatchRow",
    "advice_after",
    "alignment_data",
    "alignment_text",
    "assessment_data",
    "assessment_text",
    "box_uses",
    "cable_words",
    "causes_data",
    "causes_text",
    "connections_data",
    "connections_text",
    "derivation_text",
    "ending_text",
    "gains_data",
    "gains_text",
    "influence_facts",
    "item_rows",
    "kits_data",
    "kits_text",
    "loopback_data",
    "loopback_text",
    "measurement_data",
    "measurement_text",
    "missing_cables_text",
    "moment_text",
    "offer_rows",
    "offer_says",
    "patch_csv",
    "patch_html",
    "patch_rows",
    "pitch_data",
    "pitch_text",
    "place_text",
    "run_sheet_csv",
    "run_sheet_html",
    "seconds_text",
    "sheet_data",
    "sheet_text",
    "shopping_csv",
    "shopping_html",
    "take_path",
    "take_rows",
    "track_facts",
    "track_rows",
    "tracks_csv",
    "unreadable_takes_text",
    "unreadable_text",
    "verification_data",
    "verification_text",
    "way_rows",
    "way_says",
]
