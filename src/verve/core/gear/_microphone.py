"""A microphone: sound in, a small voltage out."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Final, Literal

from verve.core.gear._fields import CURRENT, LEAST, NAME, PHANTOM, ohms_field
from verve.core.kind import (
    FLAT_BANDS_DB,
    NEED_WORDS,
    NOTHING_SET,
    Bands,
    Capsule,
    Control,
    DeviceFigures,
    Field,
    Level,
    Mode,
    NotNegative,
    Passage,
    Pattern,
    PhantomDraw,
    PhantomNeed,
    Plug,
    Positive,
    Reader,
    Row,
    Settings,
    SheetForm,
    control_value,
    figure_fact,
    low_cut_control,
    pad_controls,
    range_control,
    switch_control,
)
from verve.core.words import Fact, ohm_text

if TYPE_CHECKING:
    from verve.core.stages import Stage

DEFAULT_DISTANCE_M: Final = 0.3
"""A span and a half: where a microphone without a stated place is assumed to stand."""
PRINCIPLE_WORDS: Final[Mapping[str, str]] = {
    "moving_coil": "dynamic (moving coil)",
    "ribbon": "ribbon",
    "condenser": "condenser",
}


class MicrophoneFigures(DeviceFigures):
    """A microphone. `phantom` says what 48 V does to it.

    Without a `pattern` direction and nearness are left out. Responses are by octave, 31.5 Hz to
    16 kHz: its own on its axis, what its presence switch adds, what a foam over it takes.
    """

    kind: Literal["microphone"] = "microphone"
    principle: Literal["moving_coil", "ribbon", "condenser"]
    sensitivity_mv_per_pa: Positive
    output_impedance_ohm: Positive
    self_noise_dba: float | None = None
    max_spl_db: float | None = None
    pads_db: tuple[Positive, ...] = ()
    high_pass_hz: Positive | None = None
    phantom: PhantomNeed = "tolerates"
    phantom_current_ma: NotNegative = 0.0
    phantom_least_v: Positive | None = None
    pattern: Pattern | None = None
    addressed_from: Literal["end", "side"] = "end"
    response_db: Bands = FLAT_BANDS_DB
    presence_db: Bands | None = None
    foam_db: Bands | None = None

    title = "Microphone"
    job = "microphone"
    group = "microphone"
    search_words = ("mic", "vocal", "moving coil", "condenser", "ribbon", "dynamic")

    def input_ports(self) -> tuple[str, ...]:
        return ("capsule",)

    def input_plug(self, mode: Mode | None = None) -> Plug | None:
        return None

    def input_levels(self, port: str) -> tuple[Level, ...]:
        return ()

    def is_fragile(self) -> bool:
        return self.principle == "ribbon"

    def capsule(self, port: str) -> Capsule | None:
        return self

    def port_controls(self, owner: str, port: str, settings: Settings) -> list[Control]:
        return capsule_controls(self, owner, port, settings)

    def pads_at(self, port: str) -> tuple[float, ...]:
        return self.pads_db

    def stages(self, passage: Passage, bit_depth: int) -> list[tuple[str, Stage]]:
        return [("microphone", self.capsule_stage(passage.controls))]

    def capsule_stage(self, controls: Mapping[str, Control]) -> Stage:
        """The microphone as a stage; what the response makes of the level is counted in the air."""
        from verve.core.stages import Microphone

        cut = controls.get("high_pass")
        return Microphone(
            sensitivity_mv_per_pa=self.sensitivity_mv_per_pa,
            output_impedance_ohm=self.output_impedance_ohm,
            self_noise_dba=self.self_noise_dba,
            max_spl_db=self.max_spl_db,
            pad_db=control_value(controls, "pad_db", 0.0),
            high_pass_hz=self.high_pass_hz if cut is not None and cut.value else None,
        )

    def at_phantom(self, passage: Passage) -> PhantomDraw | None:
        return PhantomDraw(
            need=self.phantom, current_ma=self.phantom_current_ma, least_v=self.phantom_least_v
        )

    def phantom_need(self) -> PhantomNeed:
        return self.phantom

    def drawn_ma(self) -> float:
        return self.phantom_current_ma if self.phantom == "needs" else 0.0

    def says(self, passage: Passage) -> str:
        level = f"{self.sensitivity_mv_per_pa:g} mV/Pa, {ohm_text(self.output_impedance_ohm)}"
        return f"{PRINCIPLE_WORDS[self.principle]}, {level}; {NEED_WORDS[self.phantom]}"

    def facts(self, passage: Passage) -> tuple[Fact, ...]:
        return self.capsule_facts()

    def capsule_facts(self) -> tuple[Fact, ...]:
        """Its figures, also where it is built into something."""
        found = [
            figure_fact(
                self,
                "sensitivity_mv_per_pa",
                "Sensitivity",
                f"{self.sensitivity_mv_per_pa:.3g} mV/Pa",
                "open-circuit volts for a pascal, which is 94 dB SPL",
            ),
            figure_fact(
                self,
                "output_impedance_ohm",
                "Output impedance",
                ohm_text(self.output_impedance_ohm),
                "what it drives its cable and the next input with",
            ),
        ]
        if self.self_noise_dba is not None:
            how = "the sound that would hiss as loud as the microphone itself"
            text = f"{self.self_noise_dba:g} dBA"
            found.append(self.fact("self_noise_dba", "Self-noise", text, how))
        if self.max_spl_db is not None:
            text = f"{self.max_spl_db:g} dB SPL"
            how = "louder sound clips inside it"
            found.append(self.fact("max_spl_db", "Maximum SPL", text, how))
        return tuple(found)

    def notes(self, passage: Passage, role: str) -> tuple[str, ...]:
        return capsule_notes(self, passage)


def capsule_notes(capsule: Capsule, passage: Passage) -> tuple[str, ...]:
    """A microphone in two words: how it works and how far it stands."""
    distance = control_value(passage.controls, "distance_m", 0.0)
    return (PRINCIPLE_WORDS[capsule.principle], f"at {distance * 100:.0f} cm")


def capsule_controls(
    figures: MicrophoneFigures, owner: str, port: str, settings: Settings
) -> list[Control]:
    """What can be set on a microphone, of its own or built into something."""
    now = settings.get(port, NOTHING_SET)
    found = [
        range_control(
            owner, port, "distance_m", "Distance",
            "Half as far is 6 dB louder, with less room and more bass",
            low=0.02, high=10.0, now=now.distance_m, default=DEFAULT_DISTANCE_M,
            unit="m", step=0.01,
        )
    ]  # fmt: skip
    found += pad_controls(owner, port, figures.pads_db, now.pad_db)
    if figures.high_pass_hz is not None:
        found.append(low_cut_control(owner, port, figures.high_pass_hz, now))
    if figures.pattern is not None:
        effect = "Off its axis it hears less, and with other bass; 0 is straight at it"
        found.append(
            range_control(
                owner, port, "angle_deg", "Off-axis angle", effect,
                low=0.0, high=180.0, now=now.angle_deg, default=0.0, unit="°", step=5.0,
            )
        )  # fmt: skip
    for name, there, label, effect in (
        ("presence", figures.presence_db, "Presence", "Lifts the upper middle; check the level"),
        ("foam", figures.foam_db, "Foam", "Softens plosives and takes some treble"),
    ):
        if there is not None:
            found.append(switch_control(owner, port, name, label, effect, now))
    return found


# ── its data sheet ────────────────────────────────────────────────────────────────────────────
_FIELDS: Final = (
    NAME,
    Field(
        key="principle",
        label="Principle",
        choices=tuple(PRINCIPLE_WORDS.items()),
        says="how it turns sound into voltage",
    ),
    Field(
        key="sensitivity",
        label="Sensitivity",
        example="−54 dBV/Pa",
        says="in mV/Pa, dBV/Pa or dB re 1 V/µbar, open circuit",
        is_needed=True,
    ),
    ohms_field("impedance", "Output impedance", "200 Ω"),
    Field(
        key="self_noise",
        label="Self-noise",
        example="16 dBA",
        says="in dBA, or as signal to noise at 94 dB SPL; dynamic ones seldom state it",
    ),
    Field(key="max_spl", label="Maximum SPL", example="130 dB SPL", says="before it distorts"),
    Field(
        key="pattern",
        label="Polar pattern",
        choices=(
            ("", "not stated"),
            ("omni", "omni"),
            ("wide_cardioid", "wide cardioid"),
            ("cardioid", "cardioid"),
            ("supercardioid", "supercardioid"),
            ("figure_eight", "figure-eight"),
        ),
        says="from where it picks up sound",
    ),
    Field(
        key="addressed_from",
        label="Address",
        choices=(("end", "into the end (end-address)"), ("side", "into the side (side-address)")),
        says="which side one sings or plays into",
    ),
    Field(key="pads", label="Pads", example="−10 dB", says="switchable, as −10, −20 dB"),
    Field(key="high_pass", label="Low cut", example="80 Hz", says="the corner of its switch"),
    Field(
        key="response",
        label="Response",
        example="63 Hz −5, 1 kHz 0, 4 kHz +4",
        says="points read off its curve, in dB against 1 kHz",
    ),
    Field(
        key="foam",
        label="Foam",
        choices=(("no", "none"), ("yes", "comes with one")),
        says="a foam cap takes some treble",
    ),
    Field(key="phantom", label="Phantom power", choices=PHANTOM, says="what 48 V does to it"),
    CURRENT,
    LEAST,
)
_TYPICAL_OHM = {"moving_coil": 250.0, "ribbon": 300.0, "condenser": 150.0}
_TYPICAL_PHANTOM: Mapping[str, PhantomNeed] = {
    "moving_coil": "tolerates",
    "ribbon": "never",
    "condenser": "needs",
}
_TYPICAL_FOAM_DB = (0.0,) * 7 + (-1.0, -2.5, -5.0)
_SENSITIVITY_MV = {"moving_coil": (0.5, 5.0), "ribbon": (0.3, 30.0), "condenser": (2.0, 60.0)}
_LOUDEST_OUTPUT_DBU = 30.0
"""More than ±34 V of supply would give: no audio device has it."""


def _make(reader: Reader) -> MicrophoneFigures | None:
    from verve.core.quantities import (
        hertz,
        ohms,
        read_current,
        read_least,
        read_pads,
        read_phantom,
        self_noise,
        sensitivity,
        spl,
    )

    principle = reader.choice("principle")
    spoken = PRINCIPLE_WORDS[principle]
    found = reader.read("sensitivity", sensitivity, "sensitivity_mv_per_pa")
    impedance = reader.read(
        "impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=_TYPICAL_OHM[principle],
        because=f"{_TYPICAL_OHM[principle]:g} Ω, typical of a {spoken}",
        above=0.0,
    )
    quiet = reader.read(
        "self_noise",
        self_noise,
        "self_noise_dba",
        otherwise=18.0 if principle == "condenser" else None,
        because="18 dBA, typical of a condenser"
        if principle == "condenser"
        else "only the hiss of its own resistance, as in every coil",
    )
    loudest = reader.read("max_spl", spl, "max_spl_db", because="no limit of its own")
    cut = reader.read("high_pass", hertz, "high_pass_hz", because="none", above=0.0)
    pads_db = read_pads(reader, "pads", "pads_db")
    response_db = _response(reader)
    foam_db = _TYPICAL_FOAM_DB if reader.choice("foam") == "yes" else None
    if foam_db is not None:
        reader.assume("foam", "foam_db", "takes treble as foam usually does")
    usual = _TYPICAL_PHANTOM[principle]
    words = {"tolerates": "bears it", "never": "must not get it, to be safe", "needs": "needs it"}
    phantom = read_phantom(reader, usual, f"{words[usual]}, as usual with a {spoken}")
    current = read_current(reader, 4.0 if phantom == "needs" else 0.0)
    least = read_least(reader, is_needed=phantom == "needs")
    pattern = reader.choice("pattern") or None
    if pattern is None:
        reader.assume("pattern", "", "direction and proximity effect are left out")
    if found is None or impedance is None:
        return None
    return MicrophoneFigures(
        principle=principle,  # type: ignore[arg-type]
        sensitivity_mv_per_pa=found,
        output_impedance_ohm=impedance,
        self_noise_dba=quiet,
        max_spl_db=loudest,
        pads_db=pads_db,
        high_pass_hz=cut,
        phantom=phantom,
        phantom_current_ma=current,
        phantom_least_v=least,
        pattern=pattern,  # type: ignore[arg-type]
        addressed_from=reader.choice("addressed_from"),  # type: ignore[arg-type]
        response_db=response_db,
        foam_db=foam_db,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _response(reader: Reader) -> tuple[float, ...]:
    from verve.core.quantities import OCTAVES_HZ, plain, response

    found = reader.take("response", response)
    if found is None:
        if "response" not in reader.rows:
            reader.assume("response", "response_db", "flat")
        return (0.0,) * len(OCTAVES_HZ)
    reader.wordings["response_db"] = reader.text("response")
    ends = f"{plain(found[0])} dB at 31.5 Hz, {plain(found[-1])} dB at 16 kHz"
    reader.rows["response"] = Row(said=ends, how="read off its points, octave by octave")
    return found


def _doubts(reader: Reader, figures: MicrophoneFigures) -> None:
    from verve.core.quantities import check_impedance, plain
    from verve.core.units import spl_to_pa_rms, v_rms_to_dbu

    low, high = _SENSITIVITY_MV[figures.principle]
    spoken = PRINCIPLE_WORDS[figures.principle]
    if not low <= figures.sensitivity_mv_per_pa <= high:
        reader.doubt(
            "sensitivity",
            f"a {spoken} microphone gives {low:g} to {high:g} mV/Pa; is the reference right? 1 V/Pa "
            "and 1 V/µbar are 20 dB apart",
        )
    check_impedance(
        reader, "impedance", figures.output_impedance_ohm, 20.0, 2000.0, "a microphone’s"
    )
    quiet = figures.self_noise_dba
    if quiet is not None and not 0.0 <= quiet <= 40.0:
        reader.doubt("self_noise", "microphones make 2 to 35 dBA; is it a signal-to-noise figure?")
    if figures.principle != "condenser" and quiet is not None:
        reader.doubt(
            "self_noise", "coils have only the hiss of their resistance; it is used as stated"
        )
    if figures.max_spl_db is not None:
        if not 90.0 <= figures.max_spl_db <= 170.0:
            reader.doubt("max_spl", "microphones distort somewhere between 100 and 165 dB SPL")
        out_v = figures.sensitivity_mv_per_pa / 1e3 * spl_to_pa_rms(figures.max_spl_db)
        level = v_rms_to_dbu(out_v)
        if level is not None and level > _LOUDEST_OUTPUT_DBU:
            reader.doubt(
                "max_spl", f"it would give {plain(level)} dBu then, more than any output can"
            )
    if figures.principle == "ribbon" and figures.phantom == "tolerates":
        reader.doubt("phantom", "a passive ribbon can be torn by 48 V on a faulty cable")
    if figures.phantom_current_ma > 10.0:
        reader.doubt("current", "the feed of 6.8 kΩ a leg gives at most 14 mA, and no volts then")


MicrophoneFigures.sheet = SheetForm(
    kind="microphone", title="Microphone", fields=_FIELDS, make=_make, doubts=_doubts
)
