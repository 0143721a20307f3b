"""Whole data sheets: the catalogue's figures come out of one, doubts and assumptions are told."""

from __future__ import annotations

from pathlib import Path

import pytest

from verve.core.catalogue import catalogue
from verve.core.datasheet import (
    OwnGear,
    SheetKind,
    entry_of,
    gear_from_csv,
    gear_from_json,
    gear_to_csv,
    gear_to_json,
    merged,
    read_gear,
    understand,
    with_entry,
    without_entry,
    write_gear,
)
from verve.core.errors import FileError, InputError
from verve.core.gear import (
    ActiveDiFigures,
    InterfaceFigures,
    LineOutputFigures,
    MicrophoneFigures,
    MixerFigures,
    PassiveDiFigures,
    PickupFigures,
    PreampFigures,
    SplitterFigures,
)

DEVICES = catalogue().devices
MICROPHONE = {
    "name": "My dynamic microphone",
    "principle": "moving_coil",
    "sensitivity": "1.9 mV/Pa",
    "impedance": "250 Ω",
    "pattern": "cardioid",
    "response": "31.5 -12, 63 -5, 125 -1, 250 0, 1k 0, 2k 2, 4k 4, 8k 3, 16k -6",
    "foam": "yes",
    "phantom": "tolerates",
}
INTERFACE = {
    "name": "My two inputs",
    "full_scale": "+9 dBu",
    "dynamic_range": "107 dBA",
    "microphone.inputs": "1-2",
    "microphone.gain": "0 to 54 dB",
    "microphone.impedance": "2.4 kΩ",
    "microphone.noise": "−124 dBu, 150 Ω, 20 Hz–20 kHz, unweighted",
    "microphone.max_input": "+9.5 dBu",
    "line.inputs": "1-2",
    "line.gain": "−10 to 26 dB",
    "line.impedance": "10 kΩ",
    "line.noise": "−104 dBu",
    "line.max_input": "+19.5 dBu",
    "instrument.inputs": "1-2",
    "instrument.gain": "−3 to 40 dB",
    "instrument.impedance": "1 MΩ",
    "instrument.noise": "−108 dBu",
    "instrument.max_input": "+12.5 dBu",
    "phantom": "all",
    "budget": "12 mA",
    "supply": "bus",
    "extras": "both",
}
OTHERS: list[tuple[SheetKind, dict[str, str], type]] = [
    ("preamp", {"name": "P", "gain": "25 dB fixed"}, PreampFigures),
    ("active_di", {"name": "A", "input_impedance": "1 M"}, ActiveDiFigures),
    ("passive_di", {"name": "T", "ratio": "12:1"}, PassiveDiFigures),
    ("mixer", {"name": "M", "channels": "1-4", "gain": "0 to 40 dB"}, MixerFigures),
    ("pickup", {"name": "C", "resistance": "7k5", "hardest": "1 V pp"}, PickupFigures),
    ("line_output", {"name": "L", "hardest": "+4 dBu"}, LineOutputFigures),
    ("splitter", {"name": "S", "inductance": "15 H"}, SplitterFigures),
]


def bare(figures: object) -> object:
    """Figures without where they come from."""
    update = {"entry": "", "origin": "typical", "origins": {}, "wordings": {}}
    return figures.model_copy(update=update)  # type: ignore[attr-defined]


def test_a_microphone_by_hand_has_the_catalogues_figures() -> None:
    sheet = understand("microphone", MICROPHONE)
    assert isinstance(sheet.figures, MicrophoneFigures)
    assert bare(sheet.figures) == bare(DEVICES["moving_coil"].figures)
    assert sheet.figures.origin_of("sensitivity_mv_per_pa") == "data_sheet"
    assert sheet.figures.origin_of("foam_db") == "assumed"
    assert sheet.figures.wordings["sensitivity_mv_per_pa"] == "1.9 mV/Pa"


def test_an_interface_by_hand_has_the_catalogues_figures() -> None:
    sheet = understand("interface", INTERFACE)
    assert isinstance(sheet.figures, InterfaceFigures)
    assert bare(sheet.figures) == bare(DEVICES["interface_two"].figures)
    assert sheet.figures.wordings["microphone.ein_dbu"].startswith("−124 dBu")


@pytest.mark.parametrize(("kind", "texts", "made"), OTHERS)
def test_the_least_a_sheet_must_say(kind: SheetKind, texts: dict[str, str], made: type) -> None:
    assert isinstance(understand(kind, texts).figures, made)
    for key in texts:
        without = {k: v for k, v in texts.items() if k != key}
        sheet = understand(kind, without)
        if key == "hardest" and kind == "pickup":
            assert sheet.figures is not None
        else:
            assert sheet.figures is None
            assert sheet.rows[key].is_missing


def test_a_range_alone_begins_where_the_loudest_input_fills_the_converter() -> None:
    texts = {**INTERFACE, "microphone.gain": "54 dB range"}
    figures = understand("interface", texts).figures
    assert isinstance(figures, InterfaceFigures)
    mode = figures.inputs[0].modes["microphone"]
    assert (mode.gain_min_db, mode.gain_max_db) == (9.0 - 9.5, 9.0 - 9.5 + 54.0)


def test_full_scale_comes_from_an_inputs_ceiling_where_it_is_not_stated() -> None:
    texts = {k: v for k, v in INTERFACE.items() if k != "full_scale"}
    sheet = understand("interface", {**texts, "microphone.gain": "3 to 54 dB"})
    assert isinstance(sheet.figures, InterfaceFigures)
    assert sheet.figures.full_scale_dbu == 9.5 + 3.0
    assert sheet.figures.origin_of("full_scale_dbu") == "assumed"
    assert "clip at once" in sheet.rows["full_scale"].assumed


def test_phantom_switches_by_pairs() -> None:
    texts = {**INTERFACE, "microphone.inputs": "1-3", "phantom": "pairs"}
    figures = understand("interface", texts).figures
    assert isinstance(figures, InterfaceFigures)
    assert [item.phantom_switch for item in figures.inputs] == ["1-2", "1-2", "3"]


@pytest.mark.parametrize(
    ("kind", "texts", "key", "says"),
    [
        ("microphone", MICROPHONE | {"sensitivity": "-54 dB re 1 V/µbar"}, "sensitivity", "20 dB"),
        ("microphone", MICROPHONE | {"self_noise": "76 dBA"}, "self_noise", "signal-to-noise"),
        ("interface", INTERFACE | {"microphone.noise": "-133 dBu"}, "microphone.noise", "−130.9"),
        ("interface", INTERFACE | {"dynamic_range": "150 dBA"}, "dynamic_range", "144"),
        ("interface", INTERFACE | {"instrument.impedance": "10k"}, "instrument.impedance", "kΩ"),
        (
            "interface",
            INTERFACE | {"microphone.max_input": "-4 dBu"},
            "microphone.max_input",
            "+?9",
        ),
        ("pickup", OTHERS[4][1] | {"inductance": "4000 H"}, "inductance", "mH"),
        ("mixer", OTHERS[3][1] | {"max_output": "+60 dBu"}, "max_output", "28"),
    ],
)
def test_the_implausible_is_doubted_with_its_reason(
    kind: SheetKind, texts: dict[str, str], key: str, says: str
) -> None:
    sheet = understand(kind, texts)
    assert sheet.figures is not None, "a doubt is no refusal"
    assert says.removeprefix("+?") in sheet.rows[key].doubt
    assert sheet.doubts >= 1


def test_sound_sheets_raise_no_doubt() -> None:
    assert understand("microphone", MICROPHONE).doubts == 0
    assert understand("interface", INTERFACE).doubts == 0


@pytest.fixture
def gear() -> OwnGear:
    gear = OwnGear()
    for kind, texts in (("microphone", MICROPHONE), ("interface", INTERFACE)):
        gear = with_entry(gear, entry_of(kind, texts))
    for kind, texts, _ in OTHERS:
        gear = with_entry(gear, entry_of(kind, texts))
    return gear


def test_own_gear_goes_out_and_comes_in_as_json_and_csv(gear: OwnGear, tmp_path: Path) -> None:
    for name in ("gear.json", "gear.csv"):
        write_gear(tmp_path / name, gear)
        assert read_gear(tmp_path / name) == gear
    assert gear_from_csv(gear_to_csv(gear).replace(",", "§").replace("§", ","), "x") == gear
    assert read_gear(tmp_path / "none.json") == OwnGear()


def test_semicolons_of_a_spreadsheet_are_understood(gear: OwnGear) -> None:
    text = "name;kind;field;as printed\nT;passive_di;ratio;12:1\nT;passive_di;pads;−20 dB\n"
    (entry,) = gear_from_csv(text, "x.csv").entries
    assert entry.name == "T"
    assert entry.device is not None


def test_two_pieces_of_one_name_are_told_apart_and_equal_ones_come_once(gear: OwnGear) -> None:
    twice = with_entry(gear, gear.entries[0].model_copy(update={"sheet": {"sensitivity": "x"}}))
    assert twice.entries[-1].name == "My dynamic microphone 2"
    assert merged(gear, gear) == gear
    assert without_entry(twice, "My dynamic microphone 2") == gear
    changed = with_entry(gear, gear.entries[1], instead_of="My dynamic microphone")
    assert [entry.name for entry in changed.entries][:2] == ["My two inputs 2", "My two inputs"]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "columns"),
        ("name,kind\nx,y\n", "columns"),
        ("name,kind,field,as printed\nA,boat,gain,1\n", "line 2, kind"),
        ("name,kind,field,as printed\nA,preamp,colour,1\n", "line 2, field"),
        ("name,kind,field,as printed\n,preamp,gain,1\n", "line 2, name"),
        ("name,kind,field,as printed\nA,preamp,gain,many\n", "from line 2, A, Gain"),
        ("name,kind,field,as printed\nA,preamp,noise,\nA,mixer,gain,1\n", "line 3, kind"),
    ],
)
def test_a_table_that_is_no_gear_says_where_and_why(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        gear_from_csv(text, "x.csv")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "JSON breaks off"),
        ("[]", "format"),
        ('{"format": "verve-gear", "version": 9}', "newer"),
        ('{"format": "verve-gear", "version": 0}', "from 1"),
        ('{"format": "verve-gear", "version": 1, "entries": [{}]}', "entries"),
    ],
)
def test_a_file_that_is_no_gear_says_where_and_why(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        gear_from_json(text, "x.json")


def test_gear_survives_its_json(gear: OwnGear) -> None:
    assert gear_from_json(gear_to_json(gear), "x") == gear


def test_a_file_of_something_else_is_told(tmp_path: Path) -> None:
    path = tmp_path / "gear.json"
    path.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FileError, match="not text"):
        read_gear(path)


@pytest.mark.parametrize(
    ("kind", "texts"),
    [
        ("mixer", {"name": "M", "channels": "1-4", "gain": "0 to 40 dB"}),
        ("line_output", {"name": "L", "hardest": "+4 dBu"}),
    ],
)
def test_what_an_output_bears_is_what_its_sheet_says(
    kind: SheetKind, texts: dict[str, str]
) -> None:
    silent = understand(kind, texts)
    assert isinstance(silent.figures, MixerFigures | LineOutputFigures)
    assert silent.figures.phantom == "never"
    assert silent.rows["phantom"].assumed
    bears = understand(kind, {**texts, "phantom": "tolerates"}).figures
    assert isinstance(bears, MixerFigures | LineOutputFigures)
    assert bears.phantom == "tolerates"


@pytest.mark.parametrize(
    ("chosen", "drives", "valves"),
    [("no", False, False), ("yes", True, False), ("valves", True, True)],
)
def test_an_amplifier_says_what_it_drives(chosen: str, drives: bool, valves: bool) -> None:
    texts = {"name": "A", "hardest": "+34 dBu", "drives": chosen}
    figures = understand("line_output", texts).figures
    assert isinstance(figures, LineOutputFigures)
    assert (figures.drives_loudspeaker, figures.has_valves) == (drives, valves)


def test_a_splitter_by_hand_has_the_catalogues_figures() -> None:
    texts = {
        "name": "Splitter",
        "primary": "40 Ω",
        "secondary": "45 Ω",
        "inductance": "15 H",
        "other": "2.4 kΩ",
    }
    assert bare(understand("splitter", texts).figures) == bare(DEVICES["splitter"].figures)
