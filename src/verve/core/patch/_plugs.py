"""What fits into what: plugs of outputs and sockets, levels, and what a mismatch would do."""

from __future__ import annotations

from verve.core.session import (
    ActiveDiFigures,
    DeviceFigures,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    Mode,
    PassiveDiFigures,
    PedalFigures,
    Plug,
    PreampFigures,
    SourceFigures,
)

PLUG_WORDS = {"xlr": "XLR", "jack_6": "6.3 mm jack", "jack_3": "3.5 mm jack", "phono": "phono"}


def output_plug(figures: DeviceFigures | SourceFigures) -> Plug | None:
    """What comes out of a device or source; None where it is sound, or goes to the computer."""
    if isinstance(figures, MicrophoneFigures | PreampFigures | PassiveDiFigures | ActiveDiFigures):
        return "xlr"
    if isinstance(figures, MixerFigures | PedalFigures):
        return "jack_6"
    if isinstance(figures, InterfaceFigures) or figures.kind == "acoustic":
        return None
    return figures.plug


def input_plug(figures: DeviceFigures, mode: Mode | None = None) -> Plug | None:
    """What goes into a device, for an interface in a mode; None where sound does."""
    if isinstance(figures, MicrophoneFigures):
        return None
    if isinstance(figures, PreampFigures):
        return "xlr"
    if isinstance(figures, InterfaceFigures):
        return "xlr" if mode == "microphone" else "jack_6"
    return "jack_6"
