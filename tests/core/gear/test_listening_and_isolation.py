"""Four kinds of gear that nobody but their modules, the catalogue and this test knows."""

from __future__ import annotations

import pytest

from verve.core.assess import LineAssessment, assess
from verve.core.catalogue import catalogue
from verve.core.datasheet import entry_of, understand
from verve.core.gear import DEVICE_KINDS
from verve.core.kind import CableFigures, ChannelSettings, DeviceFigures
from verve.core.session import Change as Put
from verve.core.session import (
    Device,
    Line,
    Link,
    Session,
    Source,
    add_parts,
    from_json,
    insert_device,
    set_control,
    to_json,
)

ENTRIES = catalogue()
CABLE = CableFigures(length_m=3.0, capacitance_f_per_m=1e-10, plugs=("jack_6", "jack_6"))


def keyboard_into(*, mode: str = "line", port: str = "in.1") -> Session:
    """A keyboard straight into an interface with two inputs."""
    return add_parts(
        Session(),
        sources=(
            Source(id="keys", name="Keys", figures=ENTRIES.sources["keyboard_output"].figures),
        ),
        devices=(
            Device(
                id="io",
                name="Interface",
                figures=ENTRIES.devices["interface_eight"].figures,
                settings={port: ChannelSettings(mode=mode)},  # type: ignore[arg-type]
            ),
        ),
        links=(Link(id="cable", start="keys:out", end=f"io:{port}", cable=CABLE),),
        lines=(Line(id="line", name="Keys", first_link="cable"),),
    )


def only_line(session: Session) -> LineAssessment:
    (found,) = assess(session).lines
    return found


@pytest.mark.parametrize(
    "key", ["isolation_transformer", "stereo_di", "monitor_controller", "powered_loudspeaker"]
)
def test_a_new_kind_is_there_with_all_that_is_asked_of_one(key: str) -> None:
    figures = ENTRIES.devices[key].figures
    assert isinstance(figures, DEVICE_KINDS[key])
    device = Device(id="box", name="Box", figures=figures)
    assert device.figures.ports()
    for control in figures.controls("box", {}):
        assert control.accepts(control.value), control
        if control.kind == "range":
            changed = set_control(
                add_parts(Session(), devices=(device,)),
                Put(owner="box", channel=control.channel, name=control.name, value=control.minimum),
            )
            assert from_json(to_json(changed), "x") == changed


def test_a_keyboard_through_an_isolation_transformer_is_still_at_line_level() -> None:
    session = keyboard_into()
    gain = next(
        c for c in only_line(session).state.recorder_controls().values() if c.name == "gain_db"
    )
    session = set_control(
        session, Put(owner="io", channel="in.1", name="gain_db", value=gain.minimum)
    )
    figures = ENTRIES.devices["isolation_transformer"].figures
    before = only_line(session)
    after = only_line(insert_device(session, "cable", figures, "Isolation transformer"))
    assert [f.rule for f in after.findings if f.rule == "wrong_mode"] == []
    assert before.state.peak_dbfs is not None
    assert after.state.peak_dbfs is not None
    # Its windings, 60 Ω each, and the output before it into the input's 10 kΩ: a fraction of a decibel.
    assert before.state.peak_dbfs - 0.5 < after.state.peak_dbfs < before.state.peak_dbfs


def stereo_session(battery: bool | None = None, pad_db: float | None = None) -> Session:
    sources = tuple(
        Source(
            id=f"keys_{side}",
            name=f"Keys {side}",
            figures=ENTRIES.sources["keyboard_output"].figures,
        )
        for side in ("left", "right")
    )
    now = ChannelSettings(battery=battery, pad_db=pad_db)
    figures = ENTRIES.devices["stereo_di"].figures.model_copy(update={"has_battery": True})
    return add_parts(
        Session(),
        sources=sources,
        devices=(
            Device(
                id="di", name="Stereo DI box", figures=figures,
                settings={"in.left": now, "in.right": now},
            ),
            Device(id="io", name="Interface", figures=ENTRIES.devices["interface_eight"].figures),
        ),
        links=tuple(
            link
            for number, side in enumerate(("left", "right"), 1)
            for link in (
                Link(id=f"in_{side}", start=f"keys_{side}:out", end=f"di:in.{side}", cable=CABLE),
                Link(id=f"out_{side}", start=f"di:out.{side}", end=f"io:in.{number}", cable=CABLE),
            )
        ),
        lines=tuple(
            Line(id=side, name=side.capitalize(), first_link=f"in_{side}", pair="keys")
            for side in ("left", "right")
        ),
    )  # fmt: skip


def test_the_channels_of_a_stereo_di_box_do_not_meet_and_share_battery_and_pad() -> None:
    session = stereo_session()
    left, right = assess(session).lines
    assert left.state.peak_dbfs == pytest.approx(right.state.peak_dbfs)
    assert left.state.composed is None, "nothing meets"
    assert left.route.steps[0].place == "Stereo DI box, left channel"
    powered = set_control(session, Put(owner="di", channel="in.left", name="battery", value=True))
    assert all(item.is_alive for item in assess(powered).lines), "one battery for both"
    padded = set_control(powered, Put(owner="di", channel="in.right", name="pad_db", value=20.0))
    lowered = [item.state.peak_dbfs or 0.0 for item in assess(padded).lines]
    whole = [item.state.peak_dbfs or 0.0 for item in assess(powered).lines]
    assert [a - b for a, b in zip(whole, lowered, strict=True)] == pytest.approx([20.0, 20.0])


def test_a_stereo_di_box_without_power_is_told_on_both_lines() -> None:
    rules = {(f.rule, f.line) for f in assess(stereo_session()).findings}
    assert {("phantom_missing", "left"), ("phantom_missing", "right")} <= rules


def test_the_volume_of_a_monitor_controller_is_one_knob_for_all_its_outputs() -> None:
    figures = ENTRIES.devices["monitor_controller"].figures
    session = add_parts(
        keyboard_into(port="in.2"),
        devices=(Device(id="ctl", name="Monitor controller", figures=figures),),
    )
    links = (
        Link(id="cable", start="keys:out", end="ctl:in.left", cable=CABLE),
        Link(id="on", start="ctl:speakers_2.left", end="io:in.2", cable=CABLE),
    )
    setup = session.setup.model_copy(update={"links": links})
    session = session.model_copy(update={"setup": setup})
    loud = only_line(session)
    lower = set_control(session, Put(owner="ctl", channel="volume", name="fader_db", value=-12.0))
    assert only_line(lower).state.peak_dbfs == pytest.approx((loud.state.peak_dbfs or 0.0) - 12.0)
    assert [span.title for span in loud.spans][1] == "Monitor controller"


def test_a_signal_that_ends_in_a_loudspeaker_is_not_recorded_and_says_so() -> None:
    figures = ENTRIES.devices["powered_loudspeaker"].figures
    session = add_parts(
        Session(),
        sources=(
            Source(id="keys", name="Keys", figures=ENTRIES.sources["keyboard_output"].figures),
        ),
        devices=(Device(id="speaker", name="Loudspeaker", figures=figures),),
        links=(Link(id="cable", start="keys:out", end="speaker:in", cable=CABLE),),
        lines=(Line(id="line", name="Keys", first_link="cable"),),
    )
    item = only_line(session)
    assert not item.route.is_complete
    assert [f.rule for f in item.findings] == ["not_connected"]
    assert figures.mains_rank is not None, "it is switched on last"
    assert figures.mains_rank > max(
        kind.mains_rank or 0 for name, kind in DEVICE_KINDS.items() if name != "powered_loudspeaker"
    )


def test_their_data_sheets_are_understood() -> None:
    made = entry_of("isolation_transformer", {"name": "Iso", "ratio": "1:1", "primary": "80 Ω"})
    assert made.figures.origin_of("primary_resistance_ohm") == "data_sheet"
    assert made.figures.origin_of("primary_inductance_h") == "assumed"
    doubted = understand("isolation_transformer", {"name": "Iso", "ratio": "12:1"})
    assert doubted.doubts == 1
    stereo = entry_of("stereo_di", {"name": "Two", "input_impedance": "1 MΩ", "battery": "yes"})
    assert isinstance(stereo.figures, DeviceFigures)
    assert stereo.figures.runs_without_phantom()
    assert stereo.figures.lines_kept_apart() == 2
