"""A pass of many sources and a kit of forty pieces: for measuring how long finding a way in takes."""

from __future__ import annotations

from verve.core.catalogue import catalogue
from verve.core.gear import AcousticFigures, InterfaceFigures
from verve.core.session import Brief, KitItem, Part, Pass, Session

_SOUNDS = (
    "voice_singing",
    "voice_low",
    "voice_high",
    "violin",
    "viola",
    "cello",
    "flute",
    "oboe",
    "clarinet",
    "trumpet",
    "harp",
    "accordion",
    "hand_drum",
    "grand_piano",
)
_PLUGS = ("bass_pickup", "double_coil")
_KIT = {
    "moving_coil_low": 3,
    "moving_coil": 4,
    "moving_coil_super": 3,
    "moving_coil_instrument": 2,
    "ribbon": 2,
    "condenser_small": 4,
    "condenser_large": 2,
    "condenser_small_omni": 2,
    "condenser_large_budget": 2,
    "condenser_valve": 1,
    "inline_preamp": 2,
    "inline_preamp_low": 1,
    "active_di": 2,
    "passive_di": 2,
    "piezo_di": 1,
    "preamp_transistor": 3,
    "small_mixer": 1,
    "interface_eight": 1,
    "interface_four": 1,
    "interface_sixteen": 1,
}


def big_pass(sources: int) -> Session:
    """A session with one pass of so many sources (2 to 16), every one another, and 40 pieces of kit."""
    entries = catalogue()
    parts = []
    for key in (*_PLUGS, *_SOUNDS)[:sources]:
        figures = entries.sources[key].figures
        is_air = isinstance(figures, AcousticFigures)
        parts.append(
            Part(
                id=key,
                name=entries.sources[key].name,
                sound=figures if isinstance(figures, AcousticFigures) else None,
                plug=None if isinstance(figures, AcousticFigures) else figures,
                capture="microphone" if is_air else "plug",
            )
        )
    kit = tuple(
        KitItem(
            id=key,
            name=entries.devices[key].name,
            quantity=count,
            device=entries.devices[key].figures,
        )
        for key, count in _KIT.items()
    )
    assert any(isinstance(item.device, InterfaceFigures) for item in kit)
    one = Pass(id="all", name="All at once", parts=tuple(part.id for part in parts))
    return Session(brief=Brief(parts=tuple(parts), passes=(one,)), kit=kit)
