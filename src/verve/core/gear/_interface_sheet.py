"""The data sheet of an interface: what it is asked for, and what comes of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from verve.core.gear._fields import GAIN_SAYS, LEVEL_SAYS, NAME, NOISE_SAYS, OHM_SAYS
from verve.core.gear._interface import MODES, Extra, InputFigures, InterfaceFigures
from verve.core.kind import (
    Field,
    Mode,
    ModeFigures,
    Reader,
    Row,
    SheetForm,
    Understood,
    numbers_of,
)
from verve.core.words import ohm_text, plural

_TYPICAL_OHM: Mapping[Mode, float] = {"microphone": 2400.0, "line": 10_000.0, "instrument": 1e6}
_TYPICAL_EIN_DBU: Mapping[Mode, float] = {
    "microphone": -124.0,
    "line": -104.0,
    "instrument": -108.0,
}
_TYPICAL_FULL_SCALE_DBU = 9.0
_TYPICAL_CHANNELS_IN_PAIR = 2


def _mode_fields(
    mode: str, called: str, impedance: str, gain: str, noise: str, level: str
) -> tuple[Field, ...]:
    return (
        Field(
            key=f"{mode}.inputs",
            label=f"{called} inputs",
            example="1-2",
            says="their numbers, as 1-2 or 1, 3, 5-8; empty for none",
        ),
        Field(key=f"{mode}.gain", label="… gain", example=gain, says=GAIN_SAYS),
        Field(key=f"{mode}.impedance", label="… impedance", example=impedance, says=OHM_SAYS),
        Field(key=f"{mode}.noise", label="… noise", example=noise, says=NOISE_SAYS),
        Field(
            key=f"{mode}.noise_least",
            label="… noise at least gain",
            example="−105 dBu",
            says=NOISE_SAYS,
        ),
        Field(
            key=f"{mode}.max_input",
            label="… maximum level",
            example=level,
            says=f"at lowest gain; {LEVEL_SAYS}",
        ),
    )


_FIELDS: Final = (
    NAME,
    Field(
        key="full_scale",
        label="Full scale",
        example="+9 dBu",
        says=f"what a line at 0 dB of gain reaches 0 dBFS with; {LEVEL_SAYS}",
    ),
    Field(
        key="dynamic_range",
        label="Dynamic range",
        example="110 dBA",
        says="of its converter, A-weighted unless you say so",
    ),
    *_mode_fields(
        "microphone", "Microphone", "2.4 kΩ", "0 to 54 dB", "−124 dBu, 150 Ω", "+9.5 dBu"
    ),
    Field(
        key="microphone.dial",
        label="… knob",
        example="7: 0 dB, 12: 27 dB, 5: 54 dB",
        says="what you measured at hours of the knob; without, it is taken as even",
    ),
    *_mode_fields("line", "Line", "10 kΩ", "−10 to 26 dB", "−104 dBu", "+19.5 dBu"),
    *_mode_fields("instrument", "Instrument", "1 MΩ", "−3 to 40 dB", "−108 dBu", "+12.5 dBu"),
    Field(key="pads", label="Pads", example="none", says="on the microphone inputs"),
    Field(key="high_pass", label="Low cut", example="none", says="on the microphone inputs"),
    Field(
        key="phantom",
        label="Phantom switches",
        choices=(
            ("all", "one for all"),
            ("each", "one for each"),
            ("pairs", "one for each two"),
            ("none", "no phantom power"),
        ),
        says="which microphone inputs get 48 V together",
    ),
    Field(
        key="budget",
        label="Phantom current",
        example="12 mA",
        says="in all; a supply from the computer gives little",
    ),
    Field(
        key="host_plug",
        label="Plug at the computer",
        choices=(("usb_c", "USB C"), ("usb_a", "USB A")),
        says="what its cable ends in",
    ),
    Field(
        key="supply",
        label="Powered by",
        choices=(("own", "a supply of its own"), ("bus", "the computer")),
        says="a USB port gives little, and phantom power takes much of it",
    ),
    Field(
        key="feeds",
        label="Headphone outputs",
        choices=(("1", "one"), ("2", "two"), ("4", "four"), ("0", "none")),
        says="how many can listen without a splitter",
    ),
    Field(
        key="extras",
        label="Switches that are recorded",
        choices=(
            ("none", "none"),
            ("effect", "its effect"),
            ("tone", "a tone extra"),
            ("both", "an effect and a tone extra"),
        ),
        says="what it can add to the recording itself, not only to what is heard",
    ),
)
_EXTRAS: Final[Mapping[str, tuple[Extra, ...]]] = {
    "none": (),
    "effect": ("effect_recorded",),
    "tone": ("tone_extra",),
    "both": ("effect_recorded", "tone_extra"),
}


def _full_scale(reader: Reader) -> float:
    """The converter's full scale: stated, or what the ceiling of an input and its lowest gain say.

    source: derivation, at lowest gain an input clips where the converter is full
    """
    from verve.core.quantities import gain_range, level_dbu, plain

    found = reader.read("full_scale", level_dbu, "full_scale_dbu")
    if found is not None:
        return found
    for mode in MODES:
        if not reader.text(f"{mode}.gain") or not reader.text(f"{mode}.max_input"):
            continue
        ends = reader.take(f"{mode}.gain", lambda label, text: gain_range(label, text).low_db)
        level = reader.take(f"{mode}.max_input", level_dbu)
        if ends is not None and level is not None:
            value = level.value + ends
            reader.rows["full_scale"] = Row(
                said=f"{plain(value)} dBu",
                how=f"maximum level of the {mode} input {plain(level.value)} dBu at its lowest gain {plain(ends)} dB",
                assumed="the input and the converter clip at once",
            )
            reader.origins["full_scale_dbu"] = "assumed"
            return value
    if "full_scale" not in reader.rows:
        reader.assume("full_scale", "full_scale_dbu", f"+{_TYPICAL_FULL_SCALE_DBU:g} dBu, typical")
    return _TYPICAL_FULL_SCALE_DBU


def _mode(reader: Reader, mode: Mode, full_scale_dbu: float) -> ModeFigures | None:
    """One way in, as all inputs that have it share it; None where the sheet's fields do not allow it."""
    from verve.core.quantities import level_dbu, ohms, read_gain, read_noise

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
        else "lowest where its maximum input level reaches 0 dBFS",
    )
    if gain is None and f"{mode}.gain" not in reader.rows:
        reader.refuse(f"{mode}.gain", "is needed where there are such inputs")
    typical = _TYPICAL_OHM[mode]
    impedance = reader.read(
        f"{mode}.impedance",
        ohms,
        f"{mode}.input_impedance_ohm",
        otherwise=typical,
        because=f"{ohm_text(typical)}, typical",
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
    least_ein, _ = read_noise(
        reader,
        f"{mode}.noise_least",
        f"{mode}.ein_least_dbu",
        otherwise=None,
        because="by the dynamic range",
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
        ein_least_dbu=least_ein,
        ein_source_ohm=source_ohm,
        max_input_dbu=ceiling,
        dial=knob,
    )


def _knob(reader: Reader) -> tuple[tuple[float, float], ...] | None:
    from verve.core.quantities import dial

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
        return {item: str(item) for item in numbers}
    size = len(numbers) if chosen == "all" else _TYPICAL_CHANNELS_IN_PAIR
    found: dict[int, str] = {}
    for start in range(0, len(numbers), size):
        group = numbers[start : start + size]
        name = str(group[0]) if len(group) == 1 else f"{group[0]}-{group[-1]}"
        found |= dict.fromkeys(group, name)
    return found


def _maybe_hertz(label: str, text: str) -> Understood:
    from verve.core.quantities import hertz

    if text.lower() in {"none", "no"}:
        return Understood(value=0.0, said="none")
    return hertz(label, text)


def _ways(
    reader: Reader, full_scale_dbu: float
) -> tuple[dict[Mode, tuple[int, ...]], dict[Mode, ModeFigures]]:
    """By mode, which inputs have it, and what it is."""
    numbers: dict[Mode, tuple[int, ...]] = {}
    modes: dict[Mode, ModeFigures] = {}
    for mode in MODES:
        key = f"{mode}.inputs"
        found = reader.take(key, numbers_of)
        numbers[mode] = found or ()
        if found:
            made = _mode(reader, mode, full_scale_dbu)
            if made is not None:
                modes[mode] = made
            listed = ", ".join(map(str, found))
            reader.rows[key] = Row(said=f"{plural(len(found), 'input')}: {listed}")
        elif key not in reader.rows:
            reader.assume(key, "", "none")
    return numbers, modes


def _make(reader: Reader) -> InterfaceFigures | None:
    from verve.core.quantities import dynamic_range, milliamperes, read_pads

    full_scale = _full_scale(reader)
    quality = reader.read(
        "dynamic_range",
        dynamic_range,
        "dynamic_range_dba",
        otherwise=105.0,
        because="105 dBA, typical of simple ones",
    )
    numbers, modes = _ways(reader, full_scale)
    every = sorted({item for found in numbers.values() for item in found})
    if not every and "microphone.inputs" in reader.rows:
        reader.refuse("microphone.inputs", "an interface needs an input of some kind")
    pads_db = read_pads(reader, "pads", "pads_db")
    cut = reader.read("high_pass", _maybe_hertz, "high_pass_hz", because="none")
    budget = reader.read(
        "budget", milliamperes, "phantom_budget_ma", because="no limit known", above=0.0
    )
    switches = _switches(reader, numbers["microphone"])
    if not every or any(mode not in modes for mode in MODES if numbers[mode]):
        return None
    extras = _EXTRAS[reader.choice("extras")]
    inputs = tuple(
        InputFigures(
            name=str(item),
            modes={mode: modes[mode] for mode in MODES if item in numbers[mode]},
            pads_db=pads_db if item in numbers["microphone"] else (),
            high_pass_hz=(cut or None) if item in numbers["microphone"] else None,
            phantom_switch=switches.get(item),
            extras=extras,
        )
        for item in every
    )
    plug: Any = reader.choice("host_plug")
    return InterfaceFigures(
        inputs=inputs,
        full_scale_dbu=full_scale,
        dynamic_range_dba=quality,
        phantom_budget_ma=budget,
        host_plug=plug,
        is_bus_powered=reader.choice("supply") == "bus",
        headphone_feeds=int(reader.choice("feeds")),
        origin="data_sheet",
        origins=reader.origins,
        wordings=reader.wordings,
    )


def _doubts(reader: Reader, figures: InterfaceFigures) -> None:
    from verve.core.quantities import check_impedance, check_noise, plain

    quality = figures.dynamic_range_dba
    if quality is not None and not 80.0 <= quality <= 132.0:
        reader.doubt("dynamic_range", "converters have 90 to 130 dBA; 24 bits alone end at 144")
    if not -12.0 <= figures.full_scale_dbu <= 27.0:
        reader.doubt("full_scale", "converters are full between −10 and +26 dBu")
    ranges = {"microphone": (500.0, 50e3), "line": (2e3, 100e3), "instrument": (2e5, 2e7)}
    for item in figures.inputs:
        for mode, found in item.modes.items():
            low, high = ranges[mode]
            name = f"{'an' if mode[0] == 'i' else 'a'} {mode} input’s"
            ohm = found.input_impedance_ohm
            check_impedance(reader, f"{mode}.impedance", ohm, low, high, name)
            check_noise(reader, f"{mode}.noise", found.ein_dbu, found.ein_source_ohm)
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


InterfaceFigures.sheet = SheetForm(
    kind="interface", title="Interface", fields=_FIELDS, make=_make, doubts=_doubts
)
