"""Finding a way in: for all signals of a pass at once, through what the kit has, the best there is."""

from verve.core.connections._build import build, locked_of, side_channel
from verve.core.connections._cables import Picked, Run, fits, pick, recabled, recabled_beside
from verve.core.connections._find import (
    Alternative,
    Choice,
    Missing,
    NoSuggestion,
    Suggestion,
    buyable,
    problem_of,
    suggest_connections,
    suggestion_of,
)
from verve.core.connections._identities import Identities, Place, root_of
from verve.core.connections._possible import Connection, Rated, connections_of, rate
from verve.core.connections._signals import Signal, distance_of, signals_of
from verve.core.connections._solve import (
    Answer,
    Problem,
    cost_of,
    flaw_weight,
    kind_of,
    quality_cost,
    solve,
)
from verve.core.connections._stock import (
    Box,
    InputGroup,
    Stock,
    channels_for,
    input_groups_of,
    stock_of,
)

__all__ = [
    "Alternative",
    "Answer",
    "Box",
    "Choice",
    "Connection",
    "Identities",
    "InputGroup",
    "Missing",
    "NoSuggestion",
    "Picked",
    "Place",
    "Problem",
    "Rated",
    "Run",
    "Signal",
    "Stock",
    "Suggestion",
    "build",
    "buyable",
    "channels_for",
    "connections_of",
    "cost_of",
    "distance_of",
    "fits",
    "flaw_weight",
    "input_groups_of",
    "kind_of",
    "locked_of",
    "pick",
    "problem_of",
    "quality_cost",
    "rate",
    "recabled",
    "recabled_beside",
    "root_of",
    "side_channel",
    "signals_of",
    "solve",
    "stock_of",
    "suggest_connections",
    "suggestion_of",
]
