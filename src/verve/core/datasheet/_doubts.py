"""What is possible on a data sheet but hardly true, each with the reason."""

from __future__ import annotations

from verve.core.datasheet._makers import Made
from verve.core.datasheet._quantities import plain, si_text
from verve.core.datasheet._reader import Reader
from verve.core.session import (
    ActiveDiFigures,
    InterfaceFigures,
    LineOutputFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PickupFigures,
    PreampFigures,
)
from verve.core.units import (
    BAND_HZ,
    spl_to_pa_rms,
    thermal_noise_v2_per_hz,
    v2_to_dbu,
    v_rms_to_dbu,
)

_SENSITIVITY_MV = {"moving_coil": (0.5, 5.0), "ribbon": (0.3, 30.0), "condenser": (2.0, 60.0)}
_LOUDEST_OUTPUT_DBU = 30.0
"""More than ±34 V of supply would give: no audio device has it."""


def quietest_ein_dbu(source_ohm: float) -> float | None:
    """What the source resistance alone makes; no amplifier measured with it is quieter.

    source: Nyquist 1928, 4kTR over 20 Hz to 20 kHz
    """
    return v2_to_dbu(float(thermal_noise_v2_per_hz(source_ohm)) * BAND_HZ)


def _noise(reader: Reader, key: str, ein_dbu: float | None, source_ohm: float) -> None:
    if ein_dbu is None:
        return
    limit = quietest_ein_dbu(source_ohm)
    if limit is not None and ein_dbu < limit - 0.05:
        reader.doubt(
            key,
            f"{source_ohm:g} Ω alone make {plain(limit)} dBu: nothing measured with them is quieter. "
            "Is it A-weighted, or measured with a shorted input?",
        )
    elif ein_dbu > -60.0:
        reader.doubt(key, "louder than the hiss of any working input; is the sign right?")


def _impedance(reader: Reader, key: str, ohm: float, low: float, high: float, of: str) -> None:
    if not low <= ohm <= high:
        reader.doubt(key, f"{of} lies between {si_text(low, 'Ω')} and {si_text(high, 'Ω')}")


def _microphone(reader: Reader, figures: MicrophoneFigures) -> None:
    low, high = _SENSITIVITY_MV[figures.principle]
    spoken = figures.principle.replace("_", " ")
    if not low <= figures.sensitivity_mv_per_pa <= high:
        reader.doubt(
            "sensitivity",
            f"a {spoken} microphone gives {low:g} to {high:g} mV/Pa; is the reference right? 1 V/Pa "
            "and 1 V/µbar are 20 dB apart",
        )
    _impedance(reader, "impedance", figures.output_impedance_ohm, 20.0, 2000.0, "a microphone’s")
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


def _interface(reader: Reader, figures: InterfaceFigures) -> None:
    quality = figures.dynamic_range_dba
    if quality is not None and not 80.0 <= quality <= 132.0:
        reader.doubt("dynamic_range", "converters have 90 to 130 dBA; 24 bits alone end at 144")
    if not -12.0 <= figures.full_scale_dbu <= 27.0:
        reader.doubt("full_scale", "converters are full between −10 and +26 dBu")
    ranges = {"microphone": (500.0, 50e3), "line": (2e3, 100e3), "instrument": (2e5, 2e7)}
    for item in figures.inputs:
        for mode, found in item.modes.items():
            low, high = ranges[mode]
            key = f"{mode}.impedance"
            name = f"{'an' if mode[0] == 'i' else 'a'} {mode} input’s"
            _impedance(reader, key, found.input_impedance_ohm, low, high, name)
            _noise(reader, f"{mode}.noise", found.ein_dbu, found.ein_source_ohm)
            if found.gain_max_db > 90.0:
                reader.doubt(f"{mode}.gain", "no preamp goes beyond 85 dB")
            if found.max_input_dbu is not None:
                full = figures.full_scale_dbu - found.gain_min_db
                if found.max_input_dbu < full - 6.0:
                    reader.doubt(
                        f"{mode}.max_input",
                        f"at lowest gain the converter is full at {plain(full)} dBu: the input "
                        "would clip unseen before it",
                    )


def doubts(reader: Reader, figures: Made) -> None:
    """Add a warning to every row whose figure is hardly true."""
    if isinstance(figures, MicrophoneFigures):
        _microphone(reader, figures)
    elif isinstance(figures, InterfaceFigures):
        _interface(reader, figures)
    elif isinstance(figures, PreampFigures):
        _impedance(reader, "input_impedance", figures.input_impedance_ohm, 500.0, 5e4, "a preamp’s")
        _noise(reader, "noise", figures.ein_dbu, figures.ein_source_ohm)
        if figures.gain_max_db > 90.0:
            reader.doubt("gain", "no preamp goes beyond 85 dB")
    elif isinstance(figures, ActiveDiFigures):
        _impedance(
            reader, "input_impedance", figures.input_impedance_ohm, 1e5, 1e8, "an active box’s"
        )
        _noise(reader, "noise", figures.ein_dbu, 150.0)
    elif isinstance(figures, PassiveDiFigures):
        if not 1.0 <= figures.turns_ratio <= 20.0:
            reader.doubt("ratio", "passive boxes have 1:1 (line) to 15:1 (instruments)")
    elif isinstance(figures, MixerFigures):
        for item in figures.channels:
            _noise(reader, "noise", item.ein_dbu, item.ein_source_ohm)
        if not 6.0 <= figures.max_output_dbu <= 30.0:
            reader.doubt("max_output", "mixers give at most +10 to +28 dBu")
    elif isinstance(figures, PickupFigures):
        _impedance(reader, "resistance", figures.dc_resistance_ohm, 100.0, 3e4, "a coil’s")
        if figures.inductance_h > 15.0:
            reader.doubt("inductance", "coils have 1 to 10 H; is it in mH?")
    elif (
        isinstance(figures, LineOutputFigures) and figures.peak_dbu.hardest_db > _LOUDEST_OUTPUT_DBU
    ):
        reader.doubt("hardest", "more than any line output gives")
