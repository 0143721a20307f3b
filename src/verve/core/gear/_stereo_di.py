"""A stereo DI box: two channels alike in one case, for keyboards and stereo pickups."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any, Final, Literal

from verve.core.gear._active_di import FIELDS, ActiveDiFigures, read_box
from verve.core.kind import (
    NEED_WORDS,
    Passage,
    Reader,
    Settings,
    SheetForm,
)
from verve.core.words import ohm_text

if TYPE_CHECKING:
    from collections.abc import Mapping

    from verve.core.kind import Control

SIDES: Final = ("left", "right")


class StereoDiFigures(ActiveDiFigures):
    """Two active DI boxes in one case; its battery feeds both channels, a pad is one switch for both."""

    kind: Literal["stereo_di"] = "stereo_di"  # type: ignore[assignment]

    title = "Stereo DI box"
    group = "stereo_di"
    is_between = False
    search_words = ("direct box", "di", "keyboard", "two channels")

    def input_ports(self) -> tuple[str, ...]:
        return tuple(f"in.{side}" for side in SIDES)

    def output_ports(self) -> tuple[str, ...]:
        return tuple(f"out.{side}" for side in SIDES)

    def outputs_reached(self, in_port: str, settings: Settings) -> tuple[str, ...]:
        return (in_port.replace("in.", "out."),)

    def port_name(self, port: str) -> str:
        return f"{port.partition('.')[2]} channel"

    def turned_together(self, channel: str, name: str) -> tuple[str, ...]:
        if name in {"battery", "pad_db"}:
            return self.input_ports()
        return (channel,)

    def lines_kept_apart(self) -> int:
        return len(SIDES)

    def says(self, passage: Passage) -> str:
        side = self.port_name(passage.in_port)
        return f"{side}, input {ohm_text(self.input_impedance_ohm)}; {NEED_WORDS[self.phantom]}"

    def controls_at(self, role: str, controls: Mapping[str, Control]) -> Mapping[str, Control]:
        return controls

    def settings_for(
        self, port: str, *, distance_m: float | None, use_battery: bool = False
    ) -> dict[str, Any]:
        return {"battery": True} if use_battery and self.has_battery else {}


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = tuple(
    replace(one, says="switchable, for both channels") if one.key == "pads" else one
    for one in FIELDS
    if one.key not in {"capacitance", "gain"}
)


def _make(reader: Reader) -> StereoDiFigures | None:
    box = read_box(reader)
    return None if box is None else StereoDiFigures(**box)


StereoDiFigures.sheet = SheetForm(
    kind="stereo_di", title="Stereo DI box", fields=_FIELDS, make=_make
)
