"""An active DI box: a very high input impedance, living on phantom power or a battery."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Final, Literal

from verve.core.gear._fields import (
    CURRENT,
    LEAST,
    NAME,
    level_field,
    noise_field,
    ohms_field,
)
from verve.core.kind import (
    NEED_WORDS,
    NOTHING_SET,
    Control,
    DeviceFigures,
    Field,
    NotNegative,
    Passage,
    PhantomDraw,
    PhantomNeed,
    Positive,
    Reader,
    Settings,
    SheetForm,
    control_value,
    pad_controls,
    switch_control,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


class ActiveDiFigures(DeviceFigures):
    """An active box: very high input impedance, lives on phantom power or on a battery."""

    kind: Literal["active_di"] = "active_di"
    input_impedance_ohm: Positive
    input_capacitance_f: NotNegative = 0.0
    output_impedance_ohm: Positive
    gain_db: float = 0.0
    ein_dbu: float | None = None
    current_noise_a_per_rthz: NotNegative = 0.0
    max_input_dbu: float | None = None
    pads_db: tuple[Positive, ...] = ()
    phantom: PhantomNeed = "needs"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    has_battery: bool = False

    title = "Active DI box"
    job = "di_box"
    group = "box"
    is_between = True
    search_words = ("direct box", "di", "piezo di", "acoustic preamp")

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        now = settings.get(port, NOTHING_SET)
        found = pad_controls(owner, port, self.pads_db, now.pad_db)
        if self.has_battery:
            says = "Runs the box without phantom power; take it out when the box is not used"
            found.append(switch_control(owner, port, "battery", "Battery", says, now))
        return found

    def pads_at(self, port: str) -> tuple[float, ...]:
        return self.pads_db

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier, padded_ein_dbu, raised_dbu

        pad_db = control_value(passage.controls, "pad_db", 0.0)
        stage = Amplifier(
            input_impedance_ohm=self.input_impedance_ohm,
            input_capacitance_f=self.input_capacitance_f,
            gain_db=self.gain_db - pad_db,
            output_impedance_ohm=self.output_impedance_ohm,
            ein_dbu=padded_ein_dbu(self.ein_dbu, 150.0, pad_db),
            current_noise_a_per_rthz=self.current_noise_a_per_rthz,
            max_input_dbu=raised_dbu(self.max_input_dbu, pad_db),
        )
        return [("box", stage)]

    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        battery = passage.controls.get("battery")
        if battery is not None and battery.value:
            return PhantomDraw(need="tolerates")
        return PhantomDraw(
            need=self.phantom, current_ma=self.phantom_current_ma, least_v=self.phantom_least_v
        )

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def runs_without_phantom(self) -> bool:
        return self.has_battery or self.phantom != "needs"

    def drawn_ma(self) -> float:
        return self.phantom_current_ma if self.phantom == "needs" else 0.0

    def settings_for(
        self,
        port: str,
        *,
        distance_m: float | None,
        use_battery: bool = False,
    ) -> dict[str, Any]:
        return {"battery": True} if use_battery and self.has_battery else {}

    def says(self, passage: Passage) -> str:
        return f"input {ohm_text(self.input_impedance_ohm)}; {NEED_WORDS[self.phantom]}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(self.input_impedance_ohm),
                "what it loads the instrument with",
            ),
            *self.ein_facts("ein_dbu", self.ein_dbu, 150.0),
            *self.limit_facts("max_input_dbu", "Maximum input level", self.max_input_dbu),
        )

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        return ("active box",)


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
FIELDS: Final = (
    NAME,
    ohms_field("input_impedance", "Input impedance", "1 MΩ", is_needed=True),
    Field(key="capacitance", label="Input capacitance", example="50 pF", says="seldom stated"),
    ohms_field("output_impedance", "Output impedance", "600 Ω"),
    Field(key="gain", label="Gain", example="0 dB", says="negative where it lowers the level"),
    noise_field("−107 dBu"),
    level_field("max_input", "Maximum input level", "+12 dBu"),
    Field(key="pads", label="Pads", example="−20 dB", says="switchable"),
    Field(
        key="battery",
        label="Battery",
        choices=(("no", "none"), ("yes", "runs on one")),
        says="whether it works without phantom power",
    ),
    CURRENT,
    LEAST,
)


def read_box(reader: Reader) -> dict[str, Any] | None:
    """What one channel and two have in common; None where something needed is missing."""
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
    found = {
        "input_impedance_ohm": enters,
        "output_impedance_ohm": leaves,
        "ein_dbu": ein,
        "current_noise_a_per_rthz": 1e-14,
        "max_input_dbu": max_input,
        "pads_db": read_pads(reader, "pads", "pads_db"),
        "phantom_current_ma": read_current(reader, 5.0),
        "phantom_least_v": read_least(reader, is_needed=True),
        "has_battery": reader.choice("battery") == "yes",
        "origin": "data_sheet",
        "origins": reader.origins,
        "wordings": reader.wordings,
    }
    return None if enters is None or leaves is None else found


def _make(reader: Reader) -> ActiveDiFigures | None:
    from verve.core.quantities import decibels, farads

    capacitance = reader.read(
        "capacitance", farads, "input_capacitance_f", otherwise=5e-11, because="50 pF, typical"
    )
    gain = reader.read("gain", decibels, "gain_db", otherwise=0.0, because="0 dB")
    box = read_box(reader)
    if box is None or gain is None:
        return None
    return ActiveDiFigures(**box, input_capacitance_f=capacitance or 0.0, gain_db=gain)


def _doubts(reader: Reader, figures: ActiveDiFigures) -> None:
    from verve.core.quantities import check_impedance, check_noise

    ohm = figures.input_impedance_ohm
    check_impedance(reader, "input_impedance", ohm, 1e5, 1e8, "an active box’s")
    check_noise(reader, "noise", figures.ein_dbu, 150.0)


ActiveDiFigures.sheet = SheetForm(
    kind="active_di", title="Active DI box", fields=FIELDS, make=_make, doubts=_doubts
)
