"""What goes out of the application as text or data: assessments, measurements, verifications."""

from verve.core.sheets._assessment import assessment_data, assessment_text
from verve.core.sheets._derivation import derivation_text
from verve.core.sheets._influences import influence_facts
from verve.core.sheets._measurement import measurement_data, measurement_text
from verve.core.sheets._takes import moment_text, place_text, take_path, take_rows, track_facts
from verve.core.sheets._verification import verification_data, verification_text

__all__ = [
    "assessment_data",
    "assessment_text",
    "derivation_text",
    "influence_facts",
    "measurement_data",
    "measurement_text",
    "moment_text",
    "place_text",
    "take_path",
    "take_rows",
    "track_facts",
    "verification_data",
    "verification_text",
]
