"""A stereo DI box: two channels alike in one case, for keyboards and stereo pickups."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Final, Literal

from verve.core.gear._active_di import ActiveDiFigures
from verve.core.gear._fields import CURRENT, LEAST, NAME, level_field, noise_field, ohms_field
from verve.core.kind import (
    NEED_WORDS,
    Field,
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
_FIELDS: Final = (
    NAME,
    ohms_field("input_impedance", "Input impedance", "1 MΩ", is_needed=True),
    ohms_field("output_impedance", "Output impedance", "600 Ω"),
    noise_field("−107 dBu"),
    level_field("max_input", "Loudest input", "+12 dBu"),
    Field(key="pads", label="Pads", example="−20 dB", says="switchable, for both channels"),
    Field(
        key="battery",
        label="Battery",
        choices=(("no", "none"), ("yes", "runs on one")),
        says="whether it works without phantom power",
    ),
    CURRENT,
    LEAST,
)


def _make(reader: Reader) -> StereoDiFigures | None:
    from verve.core.quantities import (
        level_dbu,
        ohms,
        read_current,
        read_least,
        read_noise,
        read_pads,
    )

    enters = reader.read("input_impedance", ohms, "input_impedance_ohm", above=0.0)
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=600.0,
        because="600 Ω, typical",
        above=0.0,
    )
    ein, _ = read_noise(reader, "noise", "ein_dbu", otherwise=-106.0, because="−106 dBu, typical")
    max_input = reader.read("max_input", level_dbu, "max_input_dbu", because="no limit of its own")
    pads_db = read_pads(reader, "pads", "pads_db")
    current = read_current(reader, 5.0)
    least = read_least(reader, is_needed=True)
    if enters is None or leaves is None:
        return None
    return StereoDiFigures(
        input_impedance_ohm=enters,
        output_impedance_ohm=leaves,
        ein_dbu=ein,
        current_noise_a_per_rthz=1e-14,
        max_input_dbu=max_input,
        pads_db=pads_db,
        phantom_current_ma=current,
        phantom_least_v=least,
        has_battery=reader.choice("battery") == "yes",
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


StereoDiFigures.sheet = SheetForm(
    kind="stereo_di", title="Stereo DI box", fields=_FIELDS, make=_make
)
