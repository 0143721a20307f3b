"""The figures of a piece of gear as numbers with an origin, in the words of its data sheet."""

from __future__ import annotations

from verve.core.chain import LineState
from verve.core.findings import Fact, level_text
from verve.core.session import (
    ActiveDiFigures,
    CableFigures,
    DeviceFigures,
    Hop,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PedalFigures,
    PreampFigures,
    SourceFigures,
    SplitterFigures,
    mode_figures,
    playing_range,
)

_Sheet = DeviceFigures | SourceFigures | CableFigures


def wording(figures: _Sheet, figure: str) -> str:
    """What the data sheet says of a figure, as the end of a sentence; empty where nothing is kept."""
    said = figures.wordings.get(figure)
    return f"; the data sheet says “{said}”" if said else ""


def figure_fact(figures: _Sheet, figure: str, label: str, text: str, how: str = "") -> Fact:
    """One figure of a sheet with its own origin and wording."""
    return Fact(
        label=label,
        text=text,
        origin=figures.origin_of(figure),
        how=(how + wording(figures, figure)).removeprefix("; "),
    )


def ohm_text(value: float) -> str:
    """An impedance with the prefix that fits."""
    if value >= 1e6:
        return f"{value / 1e6:g} MΩ"
    return f"{value / 1e3:g} kΩ" if value >= 1e3 else f"{value:g} Ω"


def _ein_fact(
    figures: _Sheet, figure: str, ein_dbu: float | None, source_ohm: float
) -> tuple[Fact, ...]:
    if ein_dbu is None:
        return ()
    how = f"its own hiss as if at its input, with {source_ohm:g} Ω there, 20 Hz to 20 kHz"
    return (figure_fact(figures, figure, "Input noise", level_text(ein_dbu, "dBu"), how),)


def _limit(figures: _Sheet, figure: str, label: str, value: float | None) -> tuple[Fact, ...]:
    if value is None:
        return ()
    how = "peaks above it are cut off"
    return (figure_fact(figures, figure, label, level_text(value, "dBu"), how),)


def _microphone(figures: MicrophoneFigures) -> tuple[Fact, ...]:
    found = [
        figure_fact(
            figures,
            "sensitivity_mv_per_pa",
            "Sensitivity",
            f"{figures.sensitivity_mv_per_pa:.3g} mV/Pa",
            "open-circuit volts for a pascal, which is 94 dB SPL",
        ),
        figure_fact(
            figures,
            "output_impedance_ohm",
            "Output impedance",
            ohm_text(figures.output_impedance_ohm),
            "what it drives its cable and the next input with",
        ),
    ]
    if figures.self_noise_dba is not None:
        how = "the sound that would hiss as loud as the microphone itself"
        text = f"{figures.self_noise_dba:g} dBA"
        found.append(figure_fact(figures, "self_noise_dba", "Self-noise", text, how))
    if figures.max_spl_db is not None:
        text = f"{figures.max_spl_db:g} dB SPL"
        how = "louder sound clips inside it"
        found.append(figure_fact(figures, "max_spl_db", "Loudest sound", text, how))
    return tuple(found)


def _input(hop: Hop, figures: InterfaceFigures) -> tuple[Fact, ...]:
    mode = mode_figures(hop.device, hop.in_port)
    control = hop.controls.get("mode")
    name = str(control.value) if control is not None else "microphone"
    prefix = f"{name}."
    text = f"{mode.gain_min_db:g} to {mode.gain_max_db:g} dB".replace("-", "−")
    found = [
        figure_fact(
            figures,
            f"{prefix}input_impedance_ohm",
            "Input impedance",
            ohm_text(mode.input_impedance_ohm),
            "what it loads the line with",
        ),
        figure_fact(figures, f"{prefix}gain_db", "Gain range", text, "from input to converter"),
        *_ein_fact(figures, f"{prefix}ein_dbu", mode.ein_dbu, mode.ein_source_ohm),
        *_limit(figures, f"{prefix}max_input_dbu", "Loudest input", mode.max_input_dbu),
        figure_fact(
            figures,
            "full_scale_dbu",
            "Full scale",
            level_text(figures.full_scale_dbu, "dBu"),
            "the level at the converter that is 0 dBFS",
        ),
    ]
    if figures.dynamic_range_dba is not None:
        text = f"{figures.dynamic_range_dba:g} dBA"
        how = "from full scale down to the converter’s own noise, A-weighted"
        found.append(figure_fact(figures, "dynamic_range_dba", "Dynamic range", text, how))
    return tuple(found)


def device_facts(hop: Hop) -> tuple[Fact, ...]:
    """Every figure of a device that counts where the line passes it."""
    figures = hop.device.figures
    if isinstance(figures, MicrophoneFigures):
        return _microphone(figures)
    if isinstance(figures, InterfaceFigures):
        own = () if hop.capsule is None else _microphone(hop.capsule)
        return own + _input(hop, figures)
    if isinstance(figures, PedalFigures):
        return (
            figure_fact(
                figures,
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(figures.input_impedance_ohm),
                "what it loads the instrument with",
            ),
            *_ein_fact(figures, "ein_dbu", figures.ein_dbu, 150.0),
            *_limit(figures, "max_output_dbu", "Loudest output", figures.max_output_dbu),
        )
    if isinstance(figures, PreampFigures):
        return (
            figure_fact(
                figures,
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(figures.input_impedance_ohm),
                "what it loads the microphone with",
            ),
            *_ein_fact(figures, "ein_dbu", figures.ein_dbu, figures.ein_source_ohm),
            *_limit(figures, "max_input_dbu", "Loudest input", figures.max_input_dbu),
            *_limit(figures, "max_output_dbu", "Loudest output", figures.max_output_dbu),
        )
    if isinstance(figures, PassiveDiFigures):
        text = f"{figures.turns_ratio:g} : 1"
        how = "the voltage falls by this, the impedance by its square"
        return (figure_fact(figures, "turns_ratio", "Turns ratio", text, how),)
    if isinstance(figures, SplitterFigures):
        return (
            figure_fact(
                figures,
                "other_input_ohm",
                "The other desk",
                ohm_text(figures.other_input_ohm),
                "its input lies across the microphone beside this one",
            ),
        )
    if isinstance(figures, ActiveDiFigures):
        return (
            figure_fact(
                figures,
                "input_impedance_ohm",
                "Input impedance",
                ohm_text(figures.input_impedance_ohm),
                "what it loads the instrument with",
            ),
            *_ein_fact(figures, "ein_dbu", figures.ein_dbu, 150.0),
            *_limit(figures, "max_input_dbu", "Loudest input", figures.max_input_dbu),
        )
    assert isinstance(figures, MixerFigures)
    item = figures.channel_at(hop.in_port)
    return (
        figure_fact(
            figures,
            "input_impedance_ohm",
            "Input impedance",
            ohm_text(item.input_impedance_ohm),
            "what its channel loads the line with",
        ),
        *_ein_fact(figures, "ein_dbu", item.ein_dbu, item.ein_source_ohm),
        *_limit(figures, "max_input_dbu", "Loudest input", item.max_input_dbu),
        *_limit(figures, "max_output_dbu", "Loudest output", figures.max_output_dbu),
    )


def source_facts(state: LineState) -> tuple[Fact, ...]:
    """How loud a source is played, softest to hardest."""
    figures = state.route.source.figures
    playing = playing_range(figures)
    unit = {"acoustic": "dB SPL", "line_output": "dBu"}.get(figures.kind, "dBV")
    key = {"acoustic": "peak_spl", "line_output": "peak_dbu"}.get(figures.kind, "peak_emf_dbv")
    return tuple(
        figure_fact(
            figures,
            key,
            f"{name} peak",
            f"{value:g} {unit}".replace("-", "−"),
            "the highest peak of such playing"
            + (" a metre away" if figures.kind == "acoustic" else ""),
        )
        for name, value in (
            ("Softest", playing.softest_db),
            ("Typical", playing.typical_db),
            ("Hardest", playing.hardest_db),
        )
    )


def cable_facts(cable: CableFigures) -> tuple[Fact, ...]:
    """A cable's length and what it puts across the line."""
    farads = cable.capacitance_f_per_m
    return (
        figure_fact(cable, "length_m", "Length", f"{cable.length_m:g} m"),
        figure_fact(
            cable,
            "capacitance_f_per_m",
            "Capacitance",
            f"{farads * cable.length_m * 1e12:.0f} pF",
            f"{farads * 1e12:g} pF per metre × {cable.length_m:g} m",
        ),
    )


def junction_facts(state: LineState, index: int) -> tuple[Fact, ...]:
    """The levels behind one stage of a line: what its picture shows there.

    source: see the whole calculation; every level is through the impedances of both sides
    """
    levels, staged = state.levels, state.staged
    if levels is None or staged is None:
        return ()
    found: list[Fact] = []
    loaded, opened = levels.peak_dbu[index], levels.open_peak_dbu[index]
    if loaded is not None:
        how = "hardest playing, over the source’s spectrum"
        if opened is not None and abs(opened - loaded) >= 0.05:
            how += f"; {level_text(opened, 'dBu')} open, less what the next input takes"
        text = level_text(loaded, "dBu")
        found.append(Fact(label="Hardest peak", text=text, origin="computed", how=how))
    noise = levels.noise_dba[index]
    if noise is not None:
        how = "everything before it and its own, A-weighted, 20 Hz to 20 kHz"
        text = level_text(noise, "dBu A")
        found.append(Fact(label="Noise", text=text, origin="computed", how=how))
    room = levels.headroom_db[index]
    if room is not None:
        how = "its ceiling less the hardest peak there"
        text = f"{room:.1f} dB".replace("-", "−")
        found.append(Fact(label="Room to its ceiling", text=text, origin="computed", how=how))
    share = levels.noise_shares[index]
    how = "of the A-weighted noise power at the end of the line"
    found.append(
        Fact(label="Its share of the noise", text=f"{share:.0%}", origin="computed", how=how)
    )
    return tuple(found)
