"""The kinds of gear, one module each; `verve.core.kind` says what a kind is asked."""

from verve.core.gear._acoustic import AcousticFigures
from verve.core.gear._active_di import ActiveDiFigures
from verve.core.gear._interface import MODES, InputFigures, InterfaceFigures
from verve.core.gear._line_output import LineOutputFigures
from verve.core.gear._microphone import DEFAULT_DISTANCE_M, PRINCIPLE_WORDS, MicrophoneFigures
from verve.core.gear._mixer import MixerChannelFigures, MixerFigures, pan_gain_db
from verve.core.gear._passive_di import PassiveDiFigures
from verve.core.gear._pedal import PedalFigures
from verve.core.gear._pickup import PickupFigures
from verve.core.gear._piezo import PiezoFigures
from verve.core.gear._preamp import PreampFigures
from verve.core.gear._registry import DEVICE_KINDS, SOURCE_KINDS, sheet_forms
from verve.core.gear._splitter import SplitterFigures

__all__ = [
    "DEFAULT_DISTANCE_M",
    "DEVICE_KINDS",
    "MODES",
    "PRINCIPLE_WORDS",
    "SOURCE_KINDS",
    "AcousticFigures",
    "ActiveDiFigures",
    "InputFigures",
    "InterfaceFigures",
    "LineOutputFigures",
    "MicrophoneFigures",
    "MixerChannelFigures",
    "MixerFigures",
    "PassiveDiFigures",
    "PedalFigures",
    "PickupFigures",
    "PiezoFigures",
    "PreampFigures",
    "SplitterFigures",
    "pan_gain_db",
    "sheet_forms",
]
