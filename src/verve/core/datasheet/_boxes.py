"""From the fields of a data sheet to figures: boxes with several inputs."""

from __future__ import annotations

from collections.abc import Mapping

from verve.core.datasheet._makers import output_phantom, read_gain, read_noise, read_pads
from verve.core.datasheet._noise import dynamic_range
from verve.core.datasheet._quantities import (
    Understood,
    amperes,
    dial,
    gain_range,
    hertz,
    level_dbu,
    ohms,
    plain,
)
from verve.core.datasheet._reader import Reader, Row, numbers_of
from verve.core.session import (
    InputFigures,
    InterfaceFigures,
    MixerChannelFigures,
    MixerFigures,
    Mode,
    ModeFigures,
)

_TYPICAL_OHM: Mapping[Mode, float] = {"microphone": 2400.0, "line": 10_000.0, "instrument": 1e6}
_TYPICAL_EIN_DBU: Mapping[Mode, float] = {
    "microphone": -124.0,
    "line": -104.0,
    "instrument": -108.0,
}
_TYPICAL_FULL_SCALE_DBU = 9.0
_TYPICAL_CHANNELS_IN_PAIR = 2
MODES: tuple[Mode, ...] = ("microphone", "line", "instrument")


def _ohm_words(value: float) -> str:
    return f"{value / 1e6:g} MΩ" if value >= 1e6 else f"{value / 1e3:g} kΩ"


def _full_scale(reader: Reader) -> float:
    """The converter's full scale: stated, or what the ceiling of an input and its lowest gain say.

    source: derivation, at lowest gain an input clips where the converter is full
    """
    found = reader.read("full_scale", level_dbu, "full_scale_dbu")
    if found is not None:
        return found
    for mode in MODES:
        if not reader.text(f"{mode}.gain") or not reader.text(f"{mode}.max_input"):
            continue
        ends = reader.take(f"{mode}.gain", _lowest_db)
        level = reader.take(f"{mode}.max_input", level_dbu)
        if ends is not None and level is not None:
            value = level.value + ends
            reader.rows["full_scale"] = Row(
                said=f"{plain(value)} dBu",
                how=f"loudest {mode} input {plain(level.value)} dBu at its lowest gain {plain(ends)} dB",
                assumed="the input and the converter clip at once",
            )
            reader.origins["full_scale_dbu"] = "assumed"
            return value
    if "full_scale" not in reader.rows:
        reader.assume("full_scale", "full_scale_dbu", f"+{_TYPICAL_FULL_SCALE_DBU:g} dBu, typical")
    return _TYPICAL_FULL_SCALE_DBU


def _lowest_db(label: str, text: str) -> float | None:
    return gain_range(label, text).low_db


def _mode(reader: Reader, mode: Mode, full_scale_dbu: float) -> ModeFigures | None:
    """One way in, as all inputs that have it share it; None where the sheet's fields do not allow it."""
    ceiling = reader.read(
        f"{mode}.max_input", level_dbu, f"{mode}.max_input_dbu", because="clips with the converter"
    )
    lowest = None if ceiling is None else full_scale_dbu - ceiling
    gain = read_gain(
        reader,
        f"{mode}.gain",
        f"{mode}.gain_db",
        lowest_db=lowest,
        because="from 0 dB"
        if ceiling is None
        else "lowest where its loudest input fills the converter",
    )
    if gain is None and f"{mode}.gain" not in reader.rows:
        reader.refuse(f"{mode}.gain", "is needed where there are such inputs")
    typical = _TYPICAL_OHM[mode]
    impedance = reader.read(
        f"{mode}.impedance",
        ohms,
        f"{mode}.input_impedance_ohm",
        otherwise=typical,
        because=f"{_ohm_words(typical)}, typical",
        above=0.0,
    )
    usual = _TYPICAL_EIN_DBU[mode]
    ein, source_ohm = read_noise(
        reader,
        f"{mode}.noise",
        f"{mode}.ein_dbu",
        otherwise=usual,
        because=f"−{-usual:g} dBu, typical of simple ones",
    )
    if gain is None or impedance is None:
        return None
    is_high = mode == "instrument"
    knob = _knob(reader) if mode == "microphone" else None
    return ModeFigures(
        input_impedance_ohm=impedance,
        # Hardly ever stated; both are typical of a transistor input (assumed, said at the sheet's end).
        input_capacitance_f=8e-11 if is_high else 0.0,
        current_noise_a_per_rthz=1e-14 if is_high else 0.0,
        gain_min_db=gain[0],
        gain_max_db=gain[1],
        ein_dbu=ein,
        ein_source_ohm=source_ohm,
        max_input_dbu=ceiling,
        dial=knob,
    )


def _knob(reader: Reader) -> tuple[tuple[float, float], ...] | None:
    found = reader.take("microphone.dial", dial)
    if found is None:
        if "microphone.dial" not in reader.rows:
            reader.assume("microphone.dial", "", "even from 7 o’clock to 5")
        return None
    reader.wordings["microphone.dial"] = reader.text("microphone.dial")
    reader.origins["microphone.dial"] = "measured"
    reader.rows["microphone.dial"] = Row(said=f"{len(found)} points, straight between them")
    return found


def _switches(reader: Reader, numbers: tuple[int, ...]) -> dict[int, str]:
    """By microphone input, the name of its phantom switch."""
    chosen = reader.choice("phantom")
    if chosen == "none" or not numbers:
        return {}
    if chosen == "each":
        return {number: str(number) for number in numbers}
    size = len(numbers) if chosen == "all" else _TYPICAL_CHANNELS_IN_PAIR
    found: dict[int, str] = {}
    for start in range(0, len(numbers), size):
        group = numbers[start : start + size]
        name = str(group[0]) if len(group) == 1 else f"{group[0]}-{group[-1]}"
        found |= dict.fromkeys(group, name)
    return found


def _milliamperes(label: str, text: str) -> Understood:
    found = amperes(label, text)
    return Understood(value=found.value * 1e3, said=found.said)


def interface(reader: Reader) -> InterfaceFigures | None:
    """An interface: which inputs can do what, and its converter."""
    full_scale = _full_scale(reader)
    quality = reader.read(
        "dynamic_range",
        dynamic_range,
        "dynamic_range_dba",
        otherwise=105.0,
        because="105 dBA, typical of simple ones",
    )
    numbers: dict[Mode, tuple[int, ...]] = {}
    modes: dict[Mode, ModeFigures] = {}
    for mode in MODES:
        key = f"{mode}.inputs"
        found = reader.take(key, numbers_of)
        numbers[mode] = found or ()
        if found:
            made = _mode(reader, mode, full_scale)
            if made is not None:
                modes[mode] = made
            listed = ", ".join(map(str, found))
            count = f"{len(found)} {'input' if len(found) == 1 else 'inputs'}"
            reader.rows[key] = Row(said=f"{count}: {listed}")
        elif key not in reader.rows:
            reader.assume(key, "", "none")
    every = sorted({number for found in numbers.values() for number in found})
    if not every and "microphone.inputs" in reader.rows:
        reader.refuse("microphone.inputs", "an interface needs an input of some kind")
    pads_db = read_pads(reader, "pads", "pads_db")
    cut = reader.read("high_pass", _maybe_hertz, "high_pass_hz", because="none")
    budget = reader.read(
        "budget", _milliamperes, "phantom_budget_ma", because="no limit known", above=0.0
    )
    switches = _switches(reader, numbers["microphone"])
    if not every or any(mode not in modes for mode in MODES if numbers[mode]):
        return None
    inputs = tuple(
        InputFigures(
            name=str(number),
            modes={mode: modes[mode] for mode in MODES if number in numbers[mode]},
            pads_db=pads_db if number in numbers["microphone"] else (),
            high_pass_hz=(cut or None) if number in numbers["microphone"] else None,
            phantom_switch=switches.get(number),
        )
        for number in every
    )
    return InterfaceFigures(
        inputs=inputs,
        full_scale_dbu=full_scale,
        dynamic_range_dba=quality,
        phantom_budget_ma=budget,
        host_plug=reader.choice("host_plug"),  # type: ignore[arg-type]
        is_bus_powered=reader.choice("supply") == "bus",
        headphone_feeds=int(reader.choice("feeds")),
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _maybe_hertz(label: str, text: str) -> Understood:
    if text.lower() in {"none", "no"}:
        return Understood(value=0.0, said="none")
    return hertz(label, text)


def mixer(reader: Reader) -> MixerFigures | None:
    """A small mixer: channels alike, and a stereo mix."""
    numbers = reader.take("channels", numbers_of)
    if numbers is not None:
        reader.rows["channels"] = Row(said=f"{len(numbers)} channels")
        if not numbers:
            reader.refuse("channels", "a mixer needs a channel")
    gain = read_gain(reader, "gain", "trim_db", lowest_db=None, because="from 0 dB")
    impedance = reader.read(
        "impedance",
        ohms,
        "input_impedance_ohm",
        otherwise=10_000.0,
        because="10 kΩ, typical",
        above=0.0,
    )
    ein, source_ohm = read_noise(
        reader, "noise", "ein_dbu", otherwise=-98.0, because="−98 dBu, typical"
    )
    ceiling = reader.read(
        "max_input", level_dbu, "max_input_dbu", otherwise=22.0, because="+22 dBu, typical"
    )
    bus, _ = read_noise(
        reader, "bus_noise", "bus_ein_dbu", otherwise=-92.0, because="−92 dBu, typical"
    )
    leaves = reader.read(
        "output_impedance",
        ohms,
        "output_impedance_ohm",
        otherwise=120.0,
        because="120 Ω, typical",
        above=0.0,
    )
    top = reader.read(
        "max_output", level_dbu, "max_output_dbu", otherwise=20.0, because="+20 dBu, typical"
    )
    zero = reader.read(
        "meter_zero", level_dbu, "meter_zero_dbu", otherwise=4.0, because="+4 dBu, typical"
    )
    phantom = output_phantom(reader)
    if not numbers or gain is None:
        return None
    assert impedance is not None
    assert leaves is not None
    assert top is not None
    assert zero is not None
    return MixerFigures(
        channels=tuple(
            MixerChannelFigures(
                name=str(number),
                input_impedance_ohm=impedance,
                trim_min_db=gain[0],
                trim_max_db=gain[1],
                ein_dbu=ein,
                ein_source_ohm=source_ohm,
                max_input_dbu=ceiling,
            )
            for number in numbers
        ),
        bus_ein_dbu=bus,
        output_impedance_ohm=leaves,
        max_output_dbu=top,
        meter_zero_dbu=zero,
        phantom=phantom,
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )
