"""Audio devices behind one small interface: the simulated one that ships."""

from verve.devices._deliver import delivered_peak_dbfs
from verve.devices._record import (
    LONGEST_S,
    SHORTEST_S,
    ListenRequest,
    Progress,
    RecordRequest,
    free_folder,
    listen,
    record,
)
from verve.devices._simulated import Block, SimulatedInterface

__all__ = [
    "LONGEST_S",
    "SHORTEST_S",
    "Block",
    "ListenRequest",
    "Progress",
    "RecordRequest",
    "SimulatedInterface",
    "delivered_peak_dbfs",
    "free_folder",
    "listen",
    "record",
]
