"""The day in time: layers that share inputs, microphones and cables, and what is plugged between them."""

from verve.core.day._plan import DayPlan, day_replugs, identities_of, plan_day, roots_of
from verve.core.day._plugs import Fixed, Option, Plug, named_plugs, options_of, replugs, stay
from verve.core.day._solve import (
    WORTH_DB,
    DayAnswer,
    DayProblem,
    admissible,
    layer_options,
    solve_day,
)

__all__ = [
    "WORTH_DB",
    "DayAnswer",
    "DayPlan",
    "DayProblem",
    "Fixed",
    "Option",
    "Plug",
    "admissible",
    "day_replugs",
    "identities_of",
    "layer_options",
    "named_plugs",
    "options_of",
    "plan_day",
    "replugs",
    "roots_of",
    "solve_day",
    "stay",
]
