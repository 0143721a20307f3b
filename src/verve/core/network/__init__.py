"""The network: sources, cables, boxes, mixers and the air as one computation, and what is read off it."""

from verve.core.network._buses import BusLevel
from verve.core.network._colour import Tilt, octaves_dbu, tilt
from verve.core.network._compose import (
    Composed,
    StrandState,
    compose,
    join_shares,
    power_of,
    strand_noise,
)
from verve.core.network._ends import GIBBS_DB, PeakRange, end_range, overshoot_db
from verve.core.network._graph import Graph, graph_of
from verve.core.network._origins import Origin
from verve.core.network._phantom import (
    PhantomConsumer,
    devices_in_need,
    devices_in_reach,
    devices_reached,
    devices_unfed,
    is_alive,
    is_fed,
    is_used,
    keeper_from,
    leg_to,
    legs,
    powered,
    splitter_of,
    supplier_of,
    switch_of,
)
from verve.core.network._staging import (
    CapsuleResponse,
    NodeKey,
    Part,
    StagedLine,
    capsule_response_of,
    is_physical,
    microphone_response_db,
    stage_line,
)
from verve.core.network._state import LineState, Network, line_states, network_of
from verve.core.network._strands import Strand, strands_of

__all__ = [
    "GIBBS_DB",
    "BusLevel",
    "CapsuleResponse",
    "Composed",
    "Graph",
    "LineState",
    "Network",
    "NodeKey",
    "Origin",
    "Part",
    "PeakRange",
    "PhantomConsumer",
    "StagedLine",
    "Strand",
    "StrandState",
    "Tilt",
    "capsule_response_of",
    "compose",
    "devices_in_need",
    "devices_in_reach",
    "devices_reached",
    "devices_unfed",
    "end_range",
    "graph_of",
    "is_alive",
    "is_fed",
    "is_physical",
    "is_used",
    "join_shares",
    "keeper_from",
    "leg_to",
    "legs",
    "line_states",
    "microphone_response_db",
    "network_of",
    "octaves_dbu",
    "overshoot_db",
    "power_of",
    "powered",
    "splitter_of",
    "stage_line",
    "strand_noise",
    "strands_of",
    "supplier_of",
    "switch_of",
    "tilt",
]
