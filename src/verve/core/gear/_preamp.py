"""An amplifier between two cables, inline or beside the interface."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import (
    CURRENT,
    GAIN,
    LEAST,
    NAME,
    PHANTOM,
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
    Level,
    Mode,
    NotNegative,
    Passage,
    PhantomDraw,
    PhantomNeed,
    Plug,
    Positive,
    Reader,
    Settings,
    SheetForm,
    Use,
    control_value,
    driven_control,
    gain_control,
    phantom_control,
)
from verve.core.words import Fact, ohm_text, range_text

if TYPE_CHECKING:
    from verve.core.stages import Stage


_MAINS_RANK = 5
_INSIDE_OHM = 10_000.0
"""Typical resistance that one part of a box drives in the next."""
_SWITCH = "input"
"""What its only phantom switch is called."""


class PreampFigures(DeviceFigures):
    """An amplifier between two cables; an inline preamp has one gain and lives on phantom power.

    One with a supply of its own can give phantom power at its input: `gives_phantom`. `ein_least_dbu` is the
    input noise at least gain, where it is known. One with valves `may_be_driven` on purpose; then its gain is part
    of the sound, and nobody sets it for the level.
    """

    kind: Literal["preamp"] = "preamp"
    input_impedance_ohm: Positive
    output_impedance_ohm: Positive
    gain_min_db: float
    gain_max_db: float
    ein_dbu: float | None = None
    ein_least_dbu: float | None = None
    ein_source_ohm: NotNegative = 150.0
    max_input_dbu: float | None = None
    max_output_dbu: float | None = None
    phantom: PhantomNeed = "needs"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    passes_phantom: bool = False
    gain_step_db: NotNegative = 0.0
    gives_phantom: bool = False
    may_be_driven: bool = False

    title = "Preamp"
    job = "preamp"
    group = "box"
    is_between = True
    search_words = ("amplifier", "booster", "inline", "mic preamp")

    @property
    def is_inline(self) -> bool:
        """Whether it has one gain and stands in the cable."""
        return self.gain_min_db == self.gain_max_db

    @property
    def use(self) -> Use:
        return "inline_preamp" if self.is_inline else "preamp"

    def rank_at_mains(self) -> int | None:
        return None if self.is_inline or self.phantom == "needs" else _MAINS_RANK

    def input_plug(self, mode: Mode | None = None) -> Plug | None:
        return "xlr"

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ("microphone",)

    def output_level(self) -> Level:
        return "microphone" if self.is_inline else "line"

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        if self.is_inline:
            return []
        found = [
            gain_control(
                owner, port, "Gain", "Raises the signal before the next box",
                low_db=self.gain_min_db, high_db=self.gain_max_db,
                now_db=settings.get(port, NOTHING_SET).gain_db, step_db=self.gain_step_db,
            )
        ]  # fmt: skip
        if self.may_be_driven:
            found.append(driven_control(owner, port, settings.get(port, NOTHING_SET)))
        if self.gives_phantom:
            is_on = self.has_phantom_on(port, settings)
            found.append(phantom_control(owner, _SWITCH, is_on=is_on))
        return found

    def phantom_switch(self, port: str) -> str | None:
        return _SWITCH if self.gives_phantom else None

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        from verve.core.stages import Amplifier, noise_behind_gain_dbu

        behind_dbu = noise_behind_gain_dbu(self.ein_dbu, self.ein_least_dbu, self.gain_min_db)
        has_output = behind_dbu is not None
        stage = Amplifier(
            input_impedance_ohm=self.input_impedance_ohm,
            gain_db=control_value(passage.controls, "gain_db", self.gain_min_db),
            output_impedance_ohm=0.0 if has_output else self.output_impedance_ohm,
            ein_dbu=self.ein_dbu,
            ein_source_ohm=self.ein_source_ohm,
            max_input_dbu=self.max_input_dbu,
            max_output_dbu=self.max_output_dbu,
        )
        role = "box" if self.is_driven(passage) else "preamp"
        if not has_output:
            return [(role, stage)]
        output = Amplifier(
            input_impedance_ohm=_INSIDE_OHM,
            output_impedance_ohm=self.output_impedance_ohm,
            ein_dbu=behind_dbu,
            ein_source_ohm=0.0,
        )
        return [(role, stage), ("output", output)]

    def can_be_driven(self) -> bool:
        return self.may_be_driven

    def is_driven(self, passage: Passage) -> bool:
        control = passage.controls.get("driven")
        return control is not None and bool(control.value)

    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        return PhantomDraw(
            need=self.phantom, current_ma=self.phantom_current_ma, least_v=self.phantom_least_v
        )

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def drawn_ma(self) -> float:
        return self.phantom_current_ma if self.phantom == "needs" else 0.0

    def lets_phantom_through(self, passage: Passage) -> bool:
        return self.passes_phantom

    def says(self, passage: Passage) -> str:
        gain = range_text(self.gain_min_db, self.gain_max_db, "dB")
        gain = f"fixed gain of {gain}" if self.is_inline else gain
        keeps = "" if self.passes_phantom else " and blocks it to the microphone"
        return f"{gain}; {NEED_WORDS[self.phantom]}{keeps}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return (
            self.fact(
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(self.input_impedance_ohm),
                "what it loads the microphone with",
            ),
            *self.ein_facts("ein_dbu", self.ein_dbu, self.ein_source_ohm),
            *self.ein_facts(
                "ein_least_dbu", self.ein_least_dbu, self.ein_source_ohm, at_least=True
            ),
            *self.limit_facts("max_input_dbu", "Maximum input level", self.max_input_dbu),
            *self.limit_facts("max_output_dbu", "Maximum output level", self.max_output_dbu),
        )


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    GAIN,
    ohms_field("input_impedance", "Input impedance", "3 kΩ"),
    ohms_field("output_impedance", "Output impedance", "150 Ω"),
    noise_field("−127 dBu A, 150 Ω"),
    noise_field("−102 dBu", "noise_least", "Input noise at least gain"),
    level_field("max_input", "Maximum input level", "+10 dBu"),
    level_field("max_output", "Maximum output level", "+20 dBu"),
    Field(key="phantom", label="Phantom power", choices=PHANTOM, says="whether it needs 48 V"),
    CURRENT,
    LEAST,
    Field(
        key="passes",
        label="Lets phantom through",
        choices=(("no", "no, blocks it"), ("yes", "yes, to its input")),
        says="whether a microphone before it gets 48 V",
    ),
)


def _make(reader: Reader) -> PreampFigures | None:
    from verve.core.quantities import (
        level_dbu,
        ohms,
        read_current,
        read_gain,
        read_least,
        read_noise,
        read_phantom,
    )

    gain = read_gain(reader, "gain", "gain_db", lowest_db=None, because="from 0 dB")
    enters = reader.read(
        "input_impedance",
        ohms,
        "input_impedance_ohm",
        otherwise=2400.0,
        because="2.4 kΩ, typical",
        above=0.0,
    )
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=150.0,
        because="150 Ω, typical",
        above=0.0,
    )
    ein, source_ohm = read_noise(
        reader, "noise", "ein_dbu", otherwise=-125.0, because="−125 dBu at 150 Ω, typical"
    )
    least_ein, _ = read_noise(
        reader, "noise_least", "ein_least_dbu", otherwise=None, because="as at most gain"
    )
    max_input = reader.read("max_input", level_dbu, "max_input_dbu", because="no limit of its own")
    max_output = reader.read(
        "max_output", level_dbu, "max_output_dbu", otherwise=18.0, because="+18 dBu, typical"
    )
    is_inline = gain is not None and gain[0] == gain[1]
    phantom = read_phantom(
        reader,
        "needs" if is_inline else "tolerates",
        "lives on it, as inline preamps do" if is_inline else "has its own supply and bears it",
    )
    current = read_current(reader, 4.0 if phantom == "needs" else 0.0)
    least = read_least(reader, is_needed=phantom == "needs")
    if gain is None or enters is None or leaves is None:
        return None
    return PreampFigures(
        input_impedance_ohm=enters,
        output_impedance_ohm=leaves,
        gain_min_db=gain[0],
        gain_max_db=gain[1],
        ein_dbu=ein,
        ein_least_dbu=least_ein,
        ein_source_ohm=source_ohm,
        max_input_dbu=max_input,
        max_output_dbu=max_output,
        phantom=phantom,
        phantom_current_ma=current,
        phantom_least_v=least,
        passes_phantom=reader.choice("passes") == "yes",
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: PreampFigures) -> None:
    from verve.core.quantities import check_impedance, check_noise

    check_impedance(
        reader, "input_impedance", figures.input_impedance_ohm, 500.0, 5e4, "a preamp’s"
    )
    check_noise(reader, "noise", figures.ein_dbu, figures.ein_source_ohm)
    if figures.gain_max_db > 90.0:
        reader.doubt("gain", "no preamp goes beyond 85 dB")


PreampFigures.sheet = SheetForm(
    kind="preamp", title="Preamp", fields=_FIELDS, make=_make, doubts=_doubts
)
