"""Find the fault: mistakes hidden in a copy of a session, what shows of them, and the quickest search."""

from verve.core.hunt._actions import Action, actions_of, outcome, shown
from verve.core.hunt._faults import Fault, faults_of
from verve.core.hunt._hunt import (
    Debrief,
    Hunt,
    Step,
    Told,
    cases_of,
    debrief,
    grade_of,
    how_many,
    hunt_of,
    practice_session,
    searcher_of,
)
from verve.core.hunt._kinds import Kind
from verve.core.hunt._oddity import NOBODY, NOTHING_ODD, ROOM, Oddity, together
from verve.core.hunt._others import KINDS
from verve.core.hunt._search import EXACT, Plan, Searcher, Trial, classes_of
from verve.core.hunt._words import CAUTION
from verve.core.hunt._world import Case, Signs, World, case_of, looked_at, signs_of

__all__ = [
    "CAUTION",
    "EXACT",
    "KINDS",
    "NOBODY",
    "NOTHING_ODD",
    "ROOM",
    "Action",
    "Case",
    "Debrief",
    "Fault",
    "Hunt",
    "Kind",
    "Oddity",
    "Plan",
    "Searcher",
    "Signs",
    "Step",
    "Told",
    "Trial",
    "World",
    "actions_of",
    "case_of",
    "cases_of",
    "classes_of",
    "debrief",
    "faults_of",
    "grade_of",
    "how_many",
    "hunt_of",
    "looked_at",
    "outcome",
    "practice_session",
    "searcher_of",
    "shown",
    "signs_of",
    "together",
]
