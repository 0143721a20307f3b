"""Values are values: nothing that cannot be gets in, and nothing can be changed from outside."""

from __future__ import annotations

import inspect
import math
from dataclasses import fields
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core import session as edits
from verve.core import stages
from verve.core.demo import demo_session
from verve.core.errors import EditError, InputError, VerveError
from verve.core.kind import ChannelSettings
from verve.core.session import (
    Room,
    Session,
    from_json,
    set_own_aim,
    set_room,
    to_json,
    with_setup,
)
from verve.core.session._models import VERSION
from verve.core.verify import read_cases

DEMO = demo_session()
NOT_FINITE = st.sampled_from([math.nan, math.inf, -math.inf])


def test_an_edit_does_not_take_what_it_does_not_know() -> None:
    with pytest.raises(EditError, match="rooms"):
        with_setup(DEMO, rooms=Room())


def test_every_edit_refuses_an_unknown_keyword() -> None:
    for name in edits.__all__:
        function = getattr(edits, name)
        if (
            not inspect.isfunction(function)
            or "session" not in inspect.signature(function).parameters
        ):
            continue
        parameters = inspect.signature(function).parameters.values()
        if any(p.kind is p.VAR_KEYWORD for p in parameters):
            continue
        with pytest.raises(TypeError):
            function(DEMO, nonsense=1)


@given(NOT_FINITE, st.sampled_from(["noise_dba", "volume_m3", "reverberation_s"]))
def test_a_room_has_only_finite_figures(value: float, name: str) -> None:
    made = DEMO.setup.room.model_copy(update={name: value})
    for change in (
        lambda: set_room(DEMO, made),
        lambda: with_setup(DEMO, room=made),
    ):
        with pytest.raises(EditError):
            change()


@given(NOT_FINITE)
def test_an_aim_is_a_finite_figure(value: float) -> None:
    with pytest.raises(EditError):
        set_own_aim(DEMO, value)


@given(NOT_FINITE)
def test_a_device_has_only_finite_figures(value: float) -> None:
    device = DEMO.setup.devices[0]
    wrong = device.model_copy(
        update={"settings": {"capsule": ChannelSettings.model_construct(distance_m=value)}}
    )
    with pytest.raises(EditError):
        with_setup(DEMO, devices=(wrong, *DEMO.setup.devices[1:]))


_STAGES: dict[type, dict[str, Any]] = {
    stages.Sound: {"peak_spl_db": 94.0},
    stages.Microphone: {"sensitivity_mv_per_pa": 2.0, "output_impedance_ohm": 150.0},
    stages.Pickup: {"peak_emf_v": 0.1, "dc_resistance_ohm": 6000.0, "inductance_h": 2.0},
    stages.Piezo: {"peak_emf_v": 0.1, "capacitance_f": 1e-9},
    stages.LineSource: {"peak_dbu": 4.0, "output_impedance_ohm": 100.0},
    stages.Cable: {"length_m": 3.0, "capacitance_f_per_m": 1e-10},
    stages.ResistivePad: {"series_ohm": 100.0, "shunt_ohm": 100.0},
    stages.Transformer: {"turns_ratio": 10.0},
    stages.Amplifier: {"input_impedance_ohm": 2000.0},
    stages.Converter: {"full_scale_dbu": 20.0},
}


@pytest.mark.parametrize("kind", list(_STAGES))
def test_a_stage_has_only_finite_figures(kind: type) -> None:
    good = _STAGES[kind]
    kind(**good)
    for field in fields(kind):
        if field.name == "stage" or ("float" not in str(field.type) and field.name not in good):
            continue
        for value in (math.nan, math.inf, -math.inf):
            with pytest.raises(InputError, match=field.name):
                kind(**{**good, field.name: value})


def test_settings_cannot_be_changed_from_outside() -> None:
    device = next(d for d in DEMO.setup.devices if d.settings)
    settings: Any = device.settings
    now = next(iter(settings.values()))
    for change in (
        lambda: settings.__setitem__("in.1", now),
        lambda: settings.pop("in.1"),
        lambda: settings.clear(),
        lambda: settings.update({"x": now}),
        lambda: settings.setdefault("x", now),
        lambda: setattr(now, "gain_db", 3.0),
        lambda: setattr(device, "name", "other"),
    ):
        with pytest.raises((TypeError, AttributeError, ValueError)):
            change()
    assert demo_session() == DEMO


def test_figures_cannot_be_changed_through_their_tables() -> None:
    interface = next(d for d in DEMO.setup.devices if d.figures.records)
    modes: Any = interface.figures.modes("in.1")
    with pytest.raises(TypeError):
        modes["line"] = None
    read = from_json(to_json(DEMO), "x")
    assert read == DEMO
    settings: Any = read.setup.devices[0].settings
    with pytest.raises(TypeError):
        settings["x"] = None


@pytest.mark.parametrize("extra", ["places", "room", "later"])
def test_a_newer_file_is_told_as_newer_whatever_else_is_in_it(extra: str, tmp_path: Any) -> None:
    text = to_json(Session()).replace(
        f'"version": {VERSION}', f'"version": {VERSION + 1}, "{extra}": {{}}'
    )
    with pytest.raises(InputError) as told:
        from_json(text, "a.verve.json")
    assert "newer" in str(told.value)
    assert "not a known key" not in str(told.value)
    path = tmp_path / "cases.json"
    path.write_text(f'{{"format": "verve-validation", "version": 2, "{extra}": [], "cases": []}}')
    with pytest.raises(VerveError) as told_too:
        read_cases(path)
    assert "version" in str(told_too.value)
    assert "not a known key" not in str(told_too.value)
