"""Finding a way in: for all signals of a pass at once, through what the kit has, the best there is."""

from verve.core.connections._build import build, kept_of
from verve.core.connections._cables import Picked, Run, fits, pick, recabled
from verve.core.connections._find import (
    Alternative,
    Choice,
    Missing,
    NoSuggestion,
    Suggestion,
    buyable,
    problem_of,
    suggest_connections,
)
from verve.core.connections._signals import Signal, distance_of, signals_of
from verve.core.connections._solve import Answer, Problem, cost_of, flaw_weight, kind_of, solve
from verve.core.connections._stock import Box, Sockets, Stock, sockets_of, stock_of
from verve.core.connections._ways import Connection, Rated, connections_of, rate

__all__ = [
    "Alternative",
    "Answer",
    "Box",
    "Choice",
    "Connection",
    "Missing",
    "NoSuggestion",
    "Picked",
    "Problem",
    "Rated",
    "Run",
    "Signal",
    "Sockets",
    "Stock",
    "Suggestion",
    "build",
    "buyable",
    "connections_of",
    "cost_of",
    "distance_of",
    "fits",
    "flaw_weight",
    "kept_of",
    "kind_of",
    "pick",
    "problem_of",
    "rate",
    "recabled",
    "signals_of",
    "sockets_of",
    "solve",
    "stock_of",
    "suggest_connections",
]
