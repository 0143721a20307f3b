"""A file that is accepted can be assessed and told; one that is not is refused in words, and quickly."""

from __future__ import annotations

import json
import random
import warnings
from pathlib import Path

import pytest

from tests.core.session.test_snapshots import with_takes
from tests.fuzz import broken
from verve.core.assess import assess
from verve.core.bounds import MOST_ENTRIES, bounds_of, check_bounds
from verve.core.catalogue import catalogue
from verve.core.datasheet import gear_from_csv, gear_from_json
from verve.core.demo import demo_session
from verve.core.errors import InputError, VerveError
from verve.core.forms import body_of
from verve.core.session import (
    from_json,
    kit_from_json,
    kit_to_json,
    to_json,
)
from verve.core.sheets import assessment_text
from verve.core.verify import read_cases

DEMO = to_json(demo_session())
TAKES = to_json(with_takes(demo_session(), 2))


def tried(text: str) -> bool:
    """Whether a file is accepted; one that is can be assessed, and all of it be said."""
    try:
        session = from_json(text, "broken.verve.json")
    except VerveError as error:
        told = str(error)
    else:
        told = ""
    if told:
        assert len(told) < 1000
        return False
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        assessment = assess(session)
        assert assessment_text(assessment)
        for item in assessment.lines:
            assert item.verdict
            item.why()
            item.noise()
    for take in session.takes:
        assert (take.setup is None) == bool(take.snapshot.fault)
    again = from_json(to_json(session), "again.verve.json")
    assert [t.snapshot for t in again.takes] == [t.snapshot for t in session.takes]
    return True


@pytest.mark.parametrize("part", range(8))
def test_a_broken_session_is_refused_or_assessed(part: int) -> None:
    accepted = sum(
        tried(broken(DEMO if n % 4 else TAKES, random.Random(part * 1000 + n))) for n in range(40)
    )
    assert accepted > 2, "some of them must come through, or nothing is tried"


def test_a_broken_kit_is_refused_or_read() -> None:
    text = kit_to_json(demo_session().kit)
    for seed in range(150):
        try:
            kit = kit_from_json(broken(text, random.Random(seed)), "kit.json")
        except VerveError:
            continue
        kit_to_json(kit).encode()


@pytest.mark.parametrize(
    ("path", "value"),
    [
        (("setup", "room", "noise_dba"), 7000.0),
        (("setup", "room", "noise_dba"), -1e300),
        (("setup", "devices", 0, "figures", "gain_max_db"), 1e9),
        (("setup", "devices", 0, "figures", "ein_dbu"), 1e6),
        (("setup", "links", 0, "cable", "length_m"), 1e300),
        (("kit", 0, "quantity"), 2**40),
    ],
)
def test_figures_without_bounds_are_refused_with_their_place(
    path: tuple[str | int, ...], value: float
) -> None:
    data: dict[str, object] = {"x": value}
    for key in reversed(path):
        data = {str(key): data["x"] if list(data) == ["x"] else data}
    with pytest.raises(InputError, match=str(path[-1])):
        check_bounds(data, "file")


def test_a_ratio_of_nothing_is_refused() -> None:
    with pytest.raises(InputError, match="at least"):
        check_bounds({"turns_ratio": 1e-200}, "file")
    with pytest.raises(InputError, match="entries"):
        check_bounds({"pedals": [0] * (MOST_ENTRIES + 1)}, "file")


def test_every_figure_of_the_catalogue_and_the_demo_is_within_bounds() -> None:
    check_bounds(demo_session().model_dump(mode="json"), "demo")
    for device in catalogue().devices.values():
        check_bounds(device.figures.model_dump(mode="json"), device.name)
    for source in catalogue().sources.values():
        check_bounds(source.figures.model_dump(mode="json"), source.name)
    assert bounds_of("max_spl_db") == bounds_of("fader_db")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('{"format": "verve-session", "version": 1, "title": "a", "title": "b"}', "only once"),
        ('{"format": "verve-session", "version": 1, "title": "\\ud800"}', "letters that are none"),
        ('{"format": "verve-session", "version": 1, "x": NaN}', "finite"),
        ('{"format": "verve-session", "version": ' + "9" * 5000 + "}", "breaks off"),
        ("[" * 100_000, "breaks off"),
        ('{"format": "verve-kit", "version": 1}', 'must be "verve-session"'),
    ],
)
def test_what_no_file_may_hold_is_refused(text: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        body_of(text, "it", form="verve-session", newest=2, what="a session file")


def test_a_line_that_begins_behind_a_device_opens() -> None:
    setup = demo_session().setup
    first = setup.lines[0].first_link
    device = next(link.end for link in setup.links if link.id == first).split(":")[0]
    behind = next(link.id for link in setup.links if link.start.split(":")[0] == device)
    text = DEMO.replace(f'"first_link": "{first}"', f'"first_link": "{behind}"')
    assert text != DEMO
    assert tried(text)


@pytest.mark.parametrize(
    "text", ['{"format": "verve-gear", "version": 1, "entries": [{"name": "X"}]}', "{}"]
)
def test_gear_that_is_neither_device_nor_source_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        gear_from_json(text, "gear.json")


def test_an_input_that_can_do_nothing_is_none() -> None:
    data = json.loads(DEMO)
    interface = next(d for d in data["setup"]["devices"] if d["id"] == "interface")
    interface["figures"]["inputs"][7]["modes"] = {}
    with pytest.raises(InputError, match="at least 1"):
        from_json(json.dumps(data), "x")


def test_a_table_whose_first_line_is_too_long_is_refused() -> None:
    with pytest.raises(InputError, match="line 1"):
        gear_from_csv("x" * 131_073 + ",kind,field,as printed\n", "gear.csv")


def test_filters_of_any_order_are_refused(tmp_path: Path) -> None:
    stages = [
        {"stage": "line_source", "peak_dbu": 4, "output_impedance_ohm": 100},
        {
            "stage": "amplifier",
            "input_impedance_ohm": 5000,
            "gain_db": 12,
            "high_pass_hz": 100,
            "high_pass_order": 2**63,
        },
        {"stage": "converter", "full_scale_dbu": 24},
    ]
    case = {"name": "a", "kind": "line", "line": stages, "expect": []}
    file = tmp_path / "cases.json"
    file.write_text(json.dumps({"format": "verve-validation", "version": 1, "cases": [case]}))
    with pytest.raises(VerveError, match="high_pass_order"):
        read_cases(file)
