"""Audio devices behind one small interface: the simulated one that ships."""

from verve.devices._check import CheckRequest, CheckState, Command, Commands, check
from verve.devices._day import DayFault, day_faults
from verve.devices._deliver import delivered_peak_dbfs
from verve.devices._device import Arrival, AudioDevice, Block, arrivals
from verve.devices._heard import HeardPart, heard_sound, late_by, write_heard
from verve.devices._hunted import hunted_sound, write_hunted
from verve.devices._log import Unfinished, forget_log, taken_up, unfinished
from verve.devices._loop import (
    SIMULATED_FIXED_MS,
    LoopResult,
    live_loop,
    loop_of_file,
    simulated_loop,
    write_loop_signal,
)
from verve.devices._pedal import NO_MIDI, NO_PEDAL, Pedal, pedals, press_of
from verve.devices._record import (
    LONGEST_LIVE_S,
    LONGEST_S,
    SHORTEST_S,
    ListenRequest,
    Live,
    Progress,
    RecordRequest,
    free_folder,
    listen,
    record,
)
from verve.devices._simulated import SimulatedInterface
from verve.devices._spot import SpotRequest, spot_sound, write_noted, write_spot
from verve.devices._stand import (
    Begun,
    Order,
    Orders,
    Recorded,
    Standing,
    StandRequest,
    stand,
)
from verve.devices._system import (
    BROKEN,
    NO_DEVICE,
    NO_LIBRARY,
    DeviceError,
    SystemDevice,
    SystemInterface,
    recording_devices,
    system_devices,
)
from verve.devices._tune import TuneRequest, tune
from verve.devices._watching import WatchRequest, WatchState, holds_text, watch
from verve.devices._who import WhoRequest, who_is_it

__all__ = [
    "BROKEN",
    "LONGEST_LIVE_S",
    "LONGEST_S",
    "NO_DEVICE",
    "NO_LIBRARY",
    "NO_MIDI",
    "NO_PEDAL",
    "SHORTEST_S",
    "SIMULATED_FIXED_MS",
    "Arrival",
    "AudioDevice",
    "Begun",
    "Block",
    "CheckRequest",
    "CheckState",
    "Command",
    "Commands",
    "DayFault",
    "DeviceError",
    "HeardPart",
    "ListenRequest",
    "Live",
    "LoopResult",
    "Order",
    "Orders",
    "Pedal",
    "Progress",
    "RecordRequest",
    "Recorded",
    "SimulatedInterface",
    "SpotRequest",
    "StandRequest",
    "Standing",
    "SystemDevice",
    "SystemInterface",
    "TuneRequest",
    "Unfinished",
    "WatchRequest",
    "WatchState",
    "WhoRequest",
    "arrivals",
    "check",
    "day_faults",
    "delivered_peak_dbfs",
    "forget_log",
    "free_folder",
    "heard_sound",
    "holds_text",
    "hunted_sound",
    "late_by",
    "listen",
    "live_loop",
    "loop_of_file",
    "pedals",
    "press_of",
    "record",
    "recording_devices",
    "simulated_loop",
    "spot_sound",
    "stand",
    "system_devices",
    "taken_up",
    "tune",
    "unfinished",
    "watch",
    "who_is_it",
    "write_heard",
    "write_hunted",
    "write_loop_signal",
    "write_noted",
    "write_spot",
]
