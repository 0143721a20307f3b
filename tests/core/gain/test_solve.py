"""Lines that have a knob, a switch or a bus in common: as good as assessing every combination."""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Callable, Mapping, Sequence

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import follow, inputs_changed
from tests.core.connections.builders import ENTRIES
from tests.core.gain.situations import SITUATIONS, session_of
from tests.core.gain.test_optimum import coarse, gains_down, line
from verve.core.assess import assess
from verve.core.catalogue import Chain, ChainLine, add_chain
from verve.core.certificates import Certificate, certificates
from verve.core.demo import demo_session
from verve.core.engine import Engine
from verve.core.gain import LIMIT_S, MARGIN_DB, all_changes, optimum
from verve.core.gear import MixerFigures
from verve.core.network import LineState, network_of
from verve.core.session import (
    Change,
    KitItem,
    LevelTarget,
    Session,
    add_kit,
    apply_changes,
    find_control,
    fix_line,
    lock_control,
    set_control,
    set_level_target,
    set_line_level_target,
    take_out_device,
    with_setup,
)

Put = Callable[..., Session]
Place = Mapping[tuple[str, str, str], float]


def sharing(session: Session, inputs: Sequence[str], **names: str) -> Session:
    """The demo's interface with one knob or one switch for several inputs."""
    return inputs_changed(
        session,
        lambda socket: socket.model_copy(update=names) if socket.name in inputs else socket,
    )


def put_all(session: Session, place: Place) -> Session:
    """Every control of a place where the place says."""
    changes = [
        Change(owner=owner, channel=channel, name=name, value=value)
        for (owner, channel, name), value in place.items()
    ]
    return apply_changes(session, changes)


def room_of(state: LineState, share_db: float) -> float:
    """Least room at any stage before the recorder; where other lines join in, less their share."""
    assert state.staged is not None
    assert state.levels is not None
    joins = next((i for i, part in enumerate(state.staged.parts) if part.role == "bus"), 99)
    return min(
        room - (share_db if index >= joins else 0.0)
        for index, room in enumerate(state.levels.headroom_db[:-1])
        if room is not None
    )


_REMEMBERED = Engine()
Merit = tuple[tuple[float, ...], tuple[float, ...]]


def merit(before: Session, place: Place, lines: Mapping[str, tuple[float, float]]) -> Merit:
    """The order of aims by a full assessment, less is better, and the peaks of the lines.

    Lines with their aim and bus share; room, above the aim, below it, noise, pads, nearness, moves, turning.
    """
    # All of the physics, without what is said of it: thousands of combinations are tried.
    found = network_of(put_all(before, place).setup, _REMEMBERED)
    score = [0.0] * 8
    peaks = []
    for line_id, (aim, share_db) in lines.items():
        item, old = found.line(line_id), network_of(before.setup, _REMEMBERED).line(line_id)
        assert item is not None
        assert old is not None
        assert item.levels is not None
        peak, noise = item.peak_dbfs, item.levels.noise_dbfs_a
        assert peak is not None
        assert noise is not None
        peaks.append(peak)
        moved = [
            (name, float(control.value or 0.0), float(was.controls[name].value or 0.0))
            for step, was in zip(item.route.steps, old.route.steps, strict=True)
            for name, control in step.controls.items()
            if name in {"gain_db", "pad_db"}
        ]
        gains = [abs(now - was) for name, now, was in moved if name == "gain_db"]
        parts = (
            max(0, math.ceil(round((MARGIN_DB - room_of(item, share_db)) / 0.5, 6))),
            max(0, round((peak - aim) / 0.01)),
            max(0, math.floor(round((aim - peak) / 0.5, 4))),
            math.floor((noise - peak) / 0.05 + 1e-6),
            sum(now > 0.0 for name, now, _ in moved if name == "pad_db"),
            max(0, round((aim - peak) / 0.01)),
            sum(by_db > 1e-9 for by_db in gains),
            round(sum(gains) / 0.01),
        )
        score = [a + b for a, b in zip(score, parts, strict=True)]
    return tuple(score), tuple(peaks)


def brute(
    before: Session,
    options: Mapping[tuple[tuple[str, str, str], ...], Sequence[float]],
    lines: Mapping[str, tuple[float, float]],
) -> Merit:
    """The best of all combinations; controls of one key stand alike."""
    places = (
        {
            control: value
            for controls, value in zip(options, values, strict=True)
            for control in controls
        }
        for values in itertools.product(*options.values())
    )
    return min(merit(before, place, lines) for place in places)


def check(
    session: Session,
    options: Mapping[tuple[tuple[str, str, str], ...], Sequence[float]],
    wanted: Sequence[str],
    share_db: float = 0.0,
) -> None:
    """That the solver's settings are those of the best of all combinations."""
    best = optimum(session, wanted)
    assert {one.line for one in best} == set(wanted)
    lines = {one.line: (one.target.target_dbfs - share_db, share_db) for one in best}
    changed = {(c.owner, c.channel, c.name): float(c.value or 0.0) for c in all_changes(best)}
    assert set(changed) <= {control for controls in options for control in controls}
    mine, ideal = merit(session, changed, lines), brute(session, options, lines)
    assert mine[0] == ideal[0]
    assert mine[1] == pytest.approx(ideal[1], abs=0.01)
    after = apply_changes(session, all_changes(best))
    for one in best:
        item = line(after, one.line)
        assert item.state.peak_dbfs == pytest.approx(one.peak_dbfs, abs=0.01)
        assert item.noise_dbfs_a == pytest.approx(one.noise_dbfs_a, abs=0.02)
        assert one.within_db == 0.0


def gain(owner: str, channel: str) -> tuple[str, str, str]:
    """A gain by its place."""
    return owner, channel, "gain_db"


def steps(session: Session, control: tuple[str, str, str], step_db: float) -> list[float]:
    """All positions of a gain."""
    found = find_control(session.setup, *control)
    step_db = found.gain_step_db or step_db
    count = int((found.maximum - found.minimum) / step_db + 1e-9)
    return [found.minimum + step_db * n for n in range(count + 1)]


def on_input(session: Session, line_id: str) -> str:
    """The recorder's channel of a line."""
    recorder = line(session, line_id).state.route.recorder
    assert recorder is not None
    return recorder.in_port


Key = tuple[str, str, str]


def every_option(
    session: Session, wanted: Sequence[str], step_db: float, alike: Sequence[Sequence[Key]] = ()
) -> dict[tuple[Key, ...], Sequence[float]]:
    """Every position of all gains and pads of some lines; controls that stand `alike` as one."""
    found: dict[tuple[Key, ...], Sequence[float]] = {}
    for line_id in wanted:
        for step in line(session, line_id).route.steps:
            for control in step.controls.values():
                key = (control.owner, control.channel, control.name)
                keys = next((tuple(group) for group in alike if key in group), (key,))
                if control.name == "gain_db":
                    found[keys] = steps(session, key, step_db)
                elif control.name == "pad_db" and len(control.choices) > 1:
                    found[keys] = [float(c or 0.0) for c in control.choices]
    return found


@pytest.mark.parametrize("step_db", [3.0, 10.0])
def test_a_pair_is_set_alike_and_as_well_as_can_be(mended: Session, step_db: float) -> None:
    session = gains_down(coarse(mended, step_db))
    sides = ("harp_left", "harp_right")
    both = [line(session, side).route.steps for side in sides]
    alike = [
        [(c.owner, c.channel, name) for step in (left, right) if (c := step.controls.get(name))]
        for left, right in zip(*both, strict=True)
        for name in ("gain_db", "pad_db")
    ]
    check(session, every_option(session, sides, step_db, alike), sides)


def test_a_shared_knob_is_set_for_all_its_lines(mended: Session) -> None:
    inputs = [on_input(mended, key).removeprefix("in.") for key in ("voice", "baritone_line")]
    session = coarse(sharing(gains_down(mended), inputs, gain_knob="a"), 5.0)
    knobs = [gain("interface", f"in.{name}") for name in inputs]
    (voice,) = optimum(session, ("voice",))
    assert voice.together == ("baritone_line",)
    wanted = ("voice", "baritone_line")
    check(session, every_option(session, wanted, 5.0, [knobs]), wanted)
    # The one that is left below says who holds it.
    held = [one for one in optimum(session, wanted) if one.held_by]
    assert held
    for one in held:
        assert not one.reaches_target
        assert one.held_by in one.together


def with_pad(session: Session, channels: Sequence[str]) -> Session:
    """The demo's interface with one pad switch for some inputs."""
    new = {"pad_switch": "p", "pads_db": (20.0,)}
    return inputs_changed(
        session,
        lambda socket: socket.model_copy(update=new) if f"in.{socket.name}" in channels else socket,
    )


@pytest.mark.parametrize("start_db", [0.0, 20.0])
def test_a_shared_pad_is_in_or_out_for_both(mended: Session, put: Put, start_db: float) -> None:
    wanted = ("voice", "cello_line")
    channels = [on_input(mended, key) for key in wanted]
    session = coarse(with_pad(gains_down(mended), channels), 10.0)
    session = put(session, "interface", channels[0], "pad_db", start_db)
    interface = next(d for d in session.setup.devices if d.id == "interface")
    assert set(interface.figures.turned_together(channels[0], "pad_db")) == set(channels)
    for channel in channels:
        assert find_control(session.setup, "interface", channel, "pad_db").value == start_db
    pads = [("interface", channel, "pad_db") for channel in channels]
    check(session, every_option(session, wanted, 10.0, [pads]), wanted)


def narrow(session: Session, low_db: float, high_db: float) -> Session:
    """The demo's mixer with trims of a few positions, so that all of them can be tried."""
    devices = []
    for device in session.setup.devices:
        figures = device.figures
        if isinstance(figures, MixerFigures):
            channels = tuple(
                c.model_copy(update={"trim_min_db": low_db, "trim_max_db": high_db})
                for c in figures.channels
            )
            figures = figures.model_copy(update={"channels": channels})
        devices.append(device.model_copy(update={"figures": figures}))
    return with_setup(session, devices=tuple(devices))


@pytest.mark.parametrize("low_db", [-4.0, 4.5])
def test_lines_of_one_bus_are_set_together(mended: Session, put: Put, low_db: float) -> None:
    alone = tuple(row.model_copy(update={"pair": None}) for row in mended.setup.lines)
    session = with_setup(coarse(mended, 10.0), lines=alone)
    session = narrow(session, low_db, low_db + 3.0)
    for number in ("3", "4"):
        session = put(session, "mixer", f"in.{number}", "gain_db", low_db)
        session = put(session, "interface", f"in.{int(number) + 4}", "gain_db", -8.0)
        session = put(session, "mixer", f"in.{number}", "pan", -1.0 if number == "3" else 0.0)
    wanted = ("organ_l", "organ_r")
    check(session, every_option(session, wanted, 0.5), wanted, share_db=10.0 * math.log10(2.0))


# ── faders, what is kept, and what cannot be ──────────────────────────────────────────────────
def test_a_fader_leaves_unity_only_where_nothing_else_reaches(mended: Session, put: Put) -> None:
    for number in ("3", "4"):
        mended = put(mended, "mixer", f"in.{number}", "fader_db", -7.0)
    (left,) = optimum(mended, ("organ_l",))
    assert left.reaches_target
    faders = {c.channel: c.value for c in left.changes if c.name == "fader_db"}
    assert faders == {"in.3": 0.0}, "back to unity, and the trim does the rest"
    hot = narrow(mended, 18.0, 20.0)
    (loud,) = optimum(hot, ("organ_l",))
    faders = {c.channel: c.value for c in loud.changes if c.name == "fader_db"}
    assert float(faders["in.3"] or 0.0) < -8.0
    after = apply_changes(hot, all_changes((loud,)))
    assert line(after, "organ_l").state.peak_dbfs == pytest.approx(loud.peak_dbfs, abs=0.01)


def test_what_is_kept_stays_and_the_rest_is_set_around_it(mended: Session) -> None:
    control = ("mixer", "in.3", "gain_db")
    kept = lock_control(mended, *control, is_locked=True)
    assert find_control(kept.setup, *control).is_locked
    low = set_control(kept, Change(owner="mixer", channel="in.3", name="gain_db", value=-2.0))
    found = {one.line: one for one in optimum(low, ("organ_l", "organ_r"))}
    changed = {(c.owner, c.channel, c.name): c.value for c in all_changes(tuple(found.values()))}
    assert control not in changed
    assert changed["mixer", "in.4", "gain_db"] == -2.0, "the other side of the pair follows"
    assert found["organ_l"].reaches_target, "the interface makes up for it"
    assert lock_control(kept, *control, is_locked=False) == mended


def test_controls_kept_against_each_other_are_told_and_nothing_is_planned(mended: Session) -> None:
    session = mended
    for channel, value in (("in.2", 20.0), ("in.3", 50.0)):
        change = Change(owner="interface", channel=channel, name="gain_db", value=value)
        session = set_control(session, change)
        session = lock_control(session, "interface", channel, "gain_db", is_locked=True)
    found = {c.line: c for c in certificates(session)}
    left, right = found["harp_left"], found["harp_right"]
    names = {(c.owner, c.channel, c.name) for one in (left, right) for c in one.best.changes}
    assert ("interface", "in.2", "gain_db") not in names
    assert ("interface", "in.3", "gain_db") not in names
    assert "Locked" in left.kept
    assert "two sides" in left.kept
    after = assess(session)
    for finding in after.findings:
        if finding.remedy is not None:
            touched = {(c.owner, c.channel, c.name) for c in finding.remedy.changes}
            assert ("interface", "in.2", "gain_db") not in touched, finding.title
            assert ("interface", "in.3", "gain_db") not in touched, finding.title


def test_a_line_that_is_left_alone_keeps_the_knob_it_shares(mended: Session) -> None:
    inputs = [on_input(mended, key).removeprefix("in.") for key in ("voice", "baritone_line")]
    session = sharing(mended, inputs, gain_knob="a")
    turned = Change(owner="interface", channel=f"in.{inputs[0]}", name="gain_db", value=12.0)
    session = fix_line(set_control(session, turned), "voice", is_fixed=True)
    for one in optimum(session):
        for change in one.changes:
            shared = ("interface", f"in.{inputs[1]}", "gain_db")
            assert (change.owner, change.channel, change.name) != shared


def preamps_in_a_row(count: int, *more: str) -> tuple[Session, str]:
    """A voice through preamps in a row, each with a gain of its own, and more boxes before them."""
    devices = ("moving_coil", *more, *("preamp_transistor",) * count)
    part = ChainLine(
        suffix="",
        source="voice_singing",
        devices=devices,
        cables=("balanced_5",) * len(devices),
        mode="line",
    )
    chain = Chain(id="x", name="x", line_name="X", says="x", lines=(part,))
    return add_chain(Session(), ENTRIES, chain)


def test_a_solver_without_time_says_how_far_it_may_be_from_the_best() -> None:
    session, line_id = preamps_in_a_row(3)
    (best,) = optimum(session, (line_id,))
    (hurried,) = optimum(session, (line_id,), limit_s=0.0)
    assert hurried.within_db > 0.0
    snr = best.peak_dbfs - best.noise_dbfs_a
    assert snr <= hurried.peak_dbfs - hurried.noise_dbfs_a + hurried.within_db + 0.01
    after = apply_changes(session, hurried.changes)
    assert line(after, line_id).state.peak_dbfs == pytest.approx(hurried.peak_dbfs, abs=0.01)


def test_many_pads_and_gains_stay_within_the_limit() -> None:
    session, line_id = preamps_in_a_row(4, *("active_di",) * 5)
    began = time.monotonic()
    (best,) = optimum(session, (line_id,))
    # Five pads and four gains: two thousand million positions.
    assert time.monotonic() - began < LIMIT_S
    assert best.reaches_target
    assert best.within_db >= 0.0


# ── what the certificate says is so ───────────────────────────────────────────────────────────
def said_of(session: Session, line_id: str) -> Certificate:
    return next(c for c in certificates(session) if c.line == line_id)


def test_a_kept_gain_is_not_said_to_be_at_its_end(mended: Session, put: Put) -> None:
    for value, says in ((10.0, "that is not locked is at its end"), (60.0, "everything else")):
        session = put(mended, "interface", "in.4", "gain_db", value)
        session = lock_control(session, "interface", "in.4", "gain_db", is_locked=True)
        for control in line(session, "baritone_line").route.steps[0].controls.values():
            session = lock_control(
                session, control.owner, control.channel, control.name, is_locked=True
            )
        found = said_of(session, "baritone_line")
        assert says in found.why_not_louder
        assert any(way.label.startswith("Unlock") for way in found.improvements)


def test_a_gain_in_large_steps_is_not_said_to_be_at_its_end(mended: Session) -> None:
    session = coarse(gains_down(mended), 12.0)
    low = [c for c in certificates(session) if c.best.is_below and c.best.binds is None]
    assert low
    for found in low:
        assert (
            found.why_not_louder == "Its gains go in steps: the next one would be above the target."
        )


def with_many_on_one_bus(session: Session, put: Put) -> Session:
    """Both lines of the organ on one side of the mixer, neither bound to the other."""
    alone = tuple(row.model_copy(update={"pair": None}) for row in session.setup.lines)
    return put(with_setup(session, lines=alone), "mixer", "in.4", "pan", -1.0)


def test_lines_of_one_bus_are_told_that_they_go_lower(mended: Session, put: Put) -> None:
    found = said_of(with_many_on_one_bus(mended, put), "organ_l")
    assert found.best.share_db == pytest.approx(10.0 * math.log10(2.0))
    assert found.why_not_louder.startswith("It goes 3.0 dB lower for the other signals of its bus")
    assert found.best.reaches_target


def test_what_a_line_left_alone_brings_to_a_bus_is_taken_off(mended: Session, put: Put) -> None:
    session = fix_line(with_many_on_one_bus(mended, put), "organ_r", is_fixed=True)
    (best,) = optimum(session, ("organ_l",))
    kept = line(session, "organ_r").state.peak_dbfs
    assert kept is not None
    left = 1.0 - 10.0 ** ((kept - best.target.target_dbfs) / 10.0)
    assert best.share_db == pytest.approx(-10.0 * math.log10(left))
    after = apply_changes(session, all_changes((best,)))
    (bus,) = line(after, "organ_l").buses
    assert bus.recorder_dbfs is not None
    assert best.target.lowest_dbfs <= bus.recorder_dbfs <= best.target.target_dbfs + 0.01


def test_a_mixers_meter_as_the_aim_is_met_by_what_stands_before_it(mended: Session) -> None:
    session = mended
    for key in ("organ_l", "organ_r"):
        session = set_line_level_target(gains_down(session), key, "meter")
    best = optimum(session, ("organ_l", "organ_r"))
    assert {c.owner for c in all_changes(best)} == {"mixer"}
    after = apply_changes(session, all_changes(best))
    for key in ("organ_l", "organ_r"):
        item = line(after, key)
        assert item.state.peak_dbfs is not None
        assert item.target.lowest_dbfs <= item.state.peak_dbfs <= item.target.highest_dbfs
        (bus,) = item.buses
        assert bus.meter_db is not None
        assert -6.0 <= bus.meter_db <= 0.0


# ── ways on that live ─────────────────────────────────────────────────────────────────────────
def test_no_way_on_is_a_line_without_its_power(mended: Session, put: Put) -> None:
    better = KitItem(
        id="c",
        name="Quiet condenser",
        quantity=1,
        device=ENTRIES.devices["condenser_large"].figures,
    )
    session = add_kit(mended, better)[0]
    labels = [way.label for way in said_of(session, "voice").improvements]
    assert not any("Quiet condenser" in label for label in labels), "the inline preamp keeps it"
    bare = take_out_device(session, "inline")
    bare = put(bare, "interface", "phantom.1", "phantom", False)
    labels = [way.label for way in said_of(bare, "voice").improvements]
    (label,) = [label for label in labels if "Quiet condenser" in label]
    assert label.endswith("with phantom power")


def test_another_aim_is_another_than_the_lines_own() -> None:
    drum = session_of(SITUATIONS[4])
    (row,) = drum.setup.lines
    session = set_line_level_target(set_level_target(drum, "average"), row.id, "ceiling")
    found = said_of(session, row.id)
    assert not found.best.reaches_target
    (way,) = [way for way in found.improvements if way.label.startswith("Another target")]
    assert way.label == "Another target: Average around −18"
    assert way.reaches_target


def test_four_gains_in_a_row_take_no_longer_than_three() -> None:
    session, line_id = preamps_in_a_row(4)
    began = time.monotonic()
    (best,) = optimum(session, (line_id,))
    assert time.monotonic() - began < LIMIT_S
    assert best.reaches_target


MENDED = follow(demo_session())


@settings(max_examples=15)
@given(
    wanted=st.sampled_from(
        [("voice", "baritone_line"), ("harp_left", "harp_right"), ("cello_line",)]
    ),
    is_shared=st.booleans(),
    level_target=st.sampled_from(["ceiling", "hot", "peaks", "average"]),
    start_db=st.sampled_from([0.0, 10.0, 40.0]),
    pad_db=st.sampled_from([0.0, 20.0]),
)
def test_any_small_case_is_the_best_of_all_combinations(
    wanted: tuple[str, ...],
    is_shared: bool,
    level_target: LevelTarget,
    start_db: float,
    pad_db: float,
) -> None:
    session = set_level_target(gains_down(MENDED), level_target)
    channels = [on_input(session, key) for key in wanted]
    alike: list[list[Key]] = []
    if is_shared:
        names = [channel.removeprefix("in.") for channel in channels]
        session = sharing(with_pad(session, channels), names, gain_knob="a")
        alike.append([("interface", channel, "pad_db") for channel in channels])
        change = Change(owner="interface", channel=channels[0], name="pad_db", value=pad_db)
        session = set_control(session, change)
    if is_shared or wanted[0] == "harp_left":
        alike.append([gain("interface", channel) for channel in channels])
    session = coarse(session, 5.0)
    change = Change(owner="interface", channel=channels[0], name="gain_db", value=start_db)
    session = set_control(session, change)
    if wanted[0] == "harp_left":
        mics = [line(session, side).route.steps[0].controls["pad_db"] for side in wanted]
        alike.append([(c.owner, c.channel, "pad_db") for c in mics])
    check(session, every_option(session, wanted, 5.0, alike), wanted)
