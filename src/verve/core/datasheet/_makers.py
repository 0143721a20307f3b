"""From the fields of a data sheet to figures, one maker for each kind."""

from __future__ import annotations

from collections.abc import Callable

from verve.core.datasheet._noise import NoiseUnderstood, noise, self_noise
from verve.core.datasheet._quantities import (
    OCTAVES_HZ,
    Understood,
    amperes,
    decibels,
    farads,
    gain_range,
    henries,
    hertz,
    least_volts,
    level_dbu,
    ohms,
    pads,
    plain,
    ratio,
    response,
    sensitivity,
    spl,
)
from verve.core.datasheet._reader import Reader, Row
from verve.core.session import (
    ActiveDiFigures,
    DeviceFigures,
    MicrophoneFigures,
    PassiveDiFigures,
    PhantomNeed,
    PreampFigures,
    SourceFigures,
    SplitterFigures,
)

Made = DeviceFigures | SourceFigures
_TYPICAL_OHM = {"moving_coil": 250.0, "ribbon": 300.0, "condenser": 150.0}
_TYPICAL_PHANTOM = {"moving_coil": "tolerates", "ribbon": "never", "condenser": "needs"}
_TYPICAL_FOAM_DB = (0.0,) * 7 + (-1.0, -2.5, -5.0)


def read_noise(
    reader: Reader, key: str, figure: str, *, otherwise: float | None, because: str
) -> tuple[float | None, float]:
    """EIN and its source resistance; the assumed figure where none is stated."""

    def how(label: str, text: str) -> NoiseUnderstood:
        return noise(label, text)

    found = reader.take(key, how)
    if found is None:
        if key not in reader.rows:
            reader.assume(key, figure, because)
        return otherwise, 150.0
    reader.wordings[figure] = reader.text(key)
    reader.rows[key] = Row(said=found.said, how=found.how, assumed=found.assumed)
    return found.ein_dbu, found.source_ohm


def read_pads(reader: Reader, key: str, figure: str) -> tuple[float, ...]:
    """Pads; none where nothing is stated."""
    found = reader.take(key, pads)
    if found is None:
        if key not in reader.rows:
            reader.assume(key, "", "none")
        return ()
    reader.wordings[figure] = reader.text(key)
    said = ", ".join(f"−{plain(value)} dB" for value in found) or "none"
    reader.rows[key] = Row(said=said)
    return found


def read_gain(
    reader: Reader, key: str, figure: str, *, lowest_db: float | None, because: str
) -> tuple[float, float] | None:
    """Lowest and highest gain. A bare width starts at `lowest_db`, and `because` says whence that is."""
    found = reader.take(key, gain_range)
    if found is None:
        return None
    reader.wordings[figure] = reader.text(key)
    if found.low_db is not None:
        reader.rows[key] = Row(said=found.said)
        return found.low_db, found.high_db
    low = 0.0 if lowest_db is None else lowest_db
    low_said, high_said = plain(low), plain(low + found.high_db)
    reader.rows[key] = Row(said=f"{low_said} to {high_said} dB", assumed=because)
    reader.origins[f"{figure}.lowest"] = "assumed"
    return low, low + found.high_db


def _milliamperes(label: str, text: str) -> Understood:
    found = amperes(label, text)
    return Understood(value=found.value * 1e3, said=found.said)


def output_phantom(reader: Reader) -> PhantomNeed:
    """What phantom power does to an output; one whose sheet says nothing must not get it."""
    return _phantom(reader, "never", "must not get it, to be safe")  # type: ignore[return-value]


def _phantom(reader: Reader, otherwise: str, because: str) -> str:
    chosen = reader.choice("phantom")
    if chosen:
        return chosen
    reader.assume("phantom", "phantom", because)
    return otherwise


def microphone(reader: Reader) -> MicrophoneFigures | None:
    """A microphone."""
    principle = reader.choice("principle")
    spoken = principle.replace("_", " ")
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
    phantom = _phantom(reader, usual, f"{words[usual]}, as usual with a {spoken}")
    current = _current(reader, 4.0 if phantom == "needs" else 0.0)
    least = _least(reader, is_needed=phantom == "needs")
    pattern = reader.choice("pattern") or None
    if pattern is None:
        reader.assume("pattern", "", "direction and nearness are left out")
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
        phantom=phantom,  # type: ignore[arg-type]
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
    found = reader.take("response", response)
    if found is None:
        if "response" not in reader.rows:
            reader.assume("response", "response_db", "flat")
        return (0.0,) * len(OCTAVES_HZ)
    reader.wordings["response_db"] = reader.text("response")
    ends = f"{plain(found[0])} dB at 31.5 Hz, {plain(found[-1])} dB at 16 kHz"
    reader.rows["response"] = Row(said=ends, how="read off its points, octave by octave")
    return found


def _current(reader: Reader, otherwise: float) -> float:
    because = f"{otherwise:g} mA, typical" if otherwise else "none"
    figure = "phantom_current_ma"
    found = reader.read("current", _milliamperes, figure, otherwise=otherwise, because=because)
    return otherwise if found is None else found


def _least(reader: Reader, *, is_needed: bool) -> float | None:
    because = "30 V is taken for enough, typical" if is_needed else "none: it lives without"
    return reader.read("least", least_volts, "phantom_least_v", because=because, above=0.0)


def preamp(reader: Reader) -> PreampFigures | None:
    """A preamp of its own, inline or beside the interface."""
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
    max_input = reader.read("max_input", level_dbu, "max_input_dbu", because="no limit of its own")
    max_output = reader.read(
        "max_output", level_dbu, "max_output_dbu", otherwise=18.0, because="+18 dBu, typical"
    )
    is_inline = gain is not None and gain[0] == gain[1]
    phantom = _phantom(
        reader,
        "needs" if is_inline else "tolerates",
        "lives on it, as inline preamps do" if is_inline else "has its own supply and bears it",
    )
    current = _current(reader, 4.0 if phantom == "needs" else 0.0)
    least = _least(reader, is_needed=phantom == "needs")
    if gain is None or enters is None or leaves is None:
        return None
    return PreampFigures(
        input_impedance_ohm=enters,
        output_impedance_ohm=leaves,
        gain_min_db=gain[0],
        gain_max_db=gain[1],
        ein_dbu=ein,
        ein_source_ohm=source_ohm,
        max_input_dbu=max_input,
        max_output_dbu=max_output,
        phantom=phantom,  # type: ignore[arg-type]
        phantom_current_ma=current,
        phantom_least_v=least,
        passes_phantom=reader.choice("passes") == "yes",
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def passive_di(reader: Reader) -> PassiveDiFigures | None:
    """A passive DI box."""
    turns = reader.read("ratio", ratio, "turns_ratio")
    primary = reader.read(
        "primary", ohms, "primary_resistance_ohm", otherwise=1000.0, because="1 kΩ, typical"
    )
    secondary = reader.read(
        "secondary", ohms, "secondary_resistance_ohm", otherwise=20.0, because="20 Ω, typical"
    )
    inductance = reader.read(
        "inductance",
        henries,
        "primary_inductance_h",
        otherwise=200.0,
        because="200 H, typical",
        above=0.0,
    )
    pads_db = read_pads(reader, "pads", "pads_db")
    if turns is None or primary is None or secondary is None or inductance is None:
        return None
    return PassiveDiFigures(
        turns_ratio=turns,
        primary_resistance_ohm=primary,
        secondary_resistance_ohm=secondary,
        primary_inductance_h=inductance,
        pads_db=pads_db,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def splitter(reader: Reader) -> SplitterFigures | None:
    """A splitter with one transformer, 1:1."""
    primary = reader.read(
        "primary", ohms, "primary_resistance_ohm", otherwise=40.0, because="40 Ω, typical"
    )
    secondary = reader.read(
        "secondary", ohms, "secondary_resistance_ohm", otherwise=45.0, because="45 Ω, typical"
    )
    inductance = reader.read("inductance", henries, "primary_inductance_h", above=0.0)
    other = reader.read(
        "other",
        ohms,
        "other_input_ohm",
        otherwise=2400.0,
        because="2.4 kΩ, as microphone inputs have",
        above=0.0,
    )
    if primary is None or secondary is None or inductance is None or other is None:
        return None
    return SplitterFigures(
        primary_resistance_ohm=primary,
        secondary_resistance_ohm=secondary,
        primary_inductance_h=inductance,
        other_input_ohm=other,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def active_di(reader: Reader) -> ActiveDiFigures | None:
    """An active DI box."""
    enters = reader.read("input_impedance", ohms, "input_impedance_ohm", above=0.0)
    capacitance = reader.read(
        "capacitance",
        farads,
        "input_capacitance_f",
        otherwise=5e-11,
        because="50 pF, typical",
    )
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=600.0,
        because="600 Ω, typical",
        above=0.0,
    )
    gain = reader.read("gain", decibels, "gain_db", otherwise=0.0, because="0 dB")
    ein, _ = read_noise(reader, "noise", "ein_dbu", otherwise=-106.0, because="−106 dBu, typical")
    max_input = reader.read("max_input", level_dbu, "max_input_dbu", because="no limit of its own")
    pads_db = read_pads(reader, "pads", "pads_db")
    current = _current(reader, 5.0)
    least = _least(reader, is_needed=True)
    if enters is None or leaves is None or gain is None:
        return None
    return ActiveDiFigures(
        input_impedance_ohm=enters,
        input_capacitance_f=capacitance or 0.0,
        output_impedance_ohm=leaves,
        gain_db=gain,
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


Maker = Callable[[Reader], Made | None]
