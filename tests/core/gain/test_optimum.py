"""The best gains: as good as assessing every position, true when recorded, explained."""

from __future__ import annotations

import itertools
from pathlib import Path

import pytest

from tests.big_session import big_session
from tests.conftest import inputs_changed, modes_changed, recorded, within_prediction
from verve.core.assess import LineAssessment, assess
from verve.core.certificates import certificates
from verve.core.gain import MARGIN_DB, all_changes, optimum
from verve.core.kind import Control
from verve.core.session import (
    Change,
    Session,
    apply_changes,
    controls_of,
    fix_line,
    set_control,
    set_level_target,
    set_line_level_target,
    set_own_aim,
)

LINES = ("voice", "harp_left", "baritone_line", "cello_line", "organ_l")


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def gains_down(session: Session) -> Session:
    """Every gain at its lowest."""
    for device in session.setup.devices:
        for control in controls_of(session.setup, device.id):
            if control.name == "gain_db":
                change = Change(
                    owner=control.owner,
                    channel=control.channel,
                    name=control.name,
                    value=control.minimum,
                )
                session = set_control(session, change)
    return session


def headroom_db(item: LineAssessment) -> float:
    """Least room at any stage before the recorder."""
    assert item.state.levels is not None
    return min((r for r in item.state.levels.headroom_db[:-1] if r is not None), default=99.0)


def positions(control: Control, step_db: float) -> list[float]:
    count = int((control.maximum - control.minimum) / step_db + 1e-9)
    return [control.minimum + step_db * n for n in range(count + 1)]


def coarse(session: Session, step_db: float) -> Session:
    """The same gear with knobs that have steps, so that all positions can be tried by themselves."""
    return inputs_changed(session, lambda socket: modes_changed(socket, gain_step_db=step_db))


@pytest.mark.parametrize("line_id", ["voice", "baritone_line", "cello_line"])
@pytest.mark.parametrize("step_db", [3.0, 10.0])
def test_it_is_as_good_as_assessing_every_position(
    mended: Session, line_id: str, step_db: float
) -> None:
    session = coarse(mended, step_db)
    (best,) = optimum(session, (line_id,))
    item = line(session, line_id)
    controls = [
        control
        for step in item.route.steps
        for control in step.controls.values()
        if control.name in {"gain_db", "pad_db"}
    ]
    options = [
        [0.0, *c.choices[1:]] if c.name == "pad_db" else positions(c, step_db) for c in controls
    ]
    tried = []
    for values in itertools.product(*options):
        changes = [
            Change(owner=c.owner, channel=c.channel, name=c.name, value=v)
            for c, v in zip(controls, values, strict=True)
        ]
        after = line(apply_changes(session, changes), line_id)
        peak = after.state.peak_dbfs
        levels = after.state.levels
        assert peak is not None
        assert levels is not None
        assert levels.noise_dbfs_a is not None
        tried.append((headroom_db(after), peak, peak - levels.noise_dbfs_a))
    allowed = [t for t in tried if t[0] >= MARGIN_DB - 1e-6] or tried
    below = [t for t in allowed if t[1] <= best.target.target_dbfs + 1e-6]
    if below:
        top = max(t[1] for t in below)
        equal = [t for t in below if t[1] >= top - 0.5]
    else:
        low = min(t[1] for t in allowed)
        equal = [t for t in allowed if t[1] <= low + 1e-6]
    snr = max(t[2] for t in equal)
    assert best.peak_dbfs - best.noise_dbfs_a >= snr - 0.06
    assert any(abs(t[1] - best.peak_dbfs) < 0.01 for t in equal)


def test_from_all_gains_at_zero_one_press_brings_every_line_to_its_aim(mended: Session) -> None:
    down = gains_down(mended)
    best = optimum(down)
    after = apply_changes(down, all_changes(best))
    for one in best:
        item = line(after, one.line)
        assert item.state.peak_dbfs == pytest.approx(one.peak_dbfs, abs=0.02)
        assert item.noise_dbfs_a == pytest.approx(one.noise_dbfs_a, abs=0.05)
        assert one.reaches_target, one
        assert one.target.lowest_dbfs <= one.peak_dbfs <= one.target.target_dbfs + 0.01
        assert headroom_db(item) >= MARGIN_DB - 0.01
    assert [f for f in assess(after).findings if f.severity != "know"] == []


@pytest.mark.parametrize(
    "line_id",
    ["voice", "harp_left", "harp_right", "baritone_line", "cello_line", "organ_l", "organ_r"],
)
def test_the_certificate_is_true_when_recorded(
    mended: Session, line_id: str, tmp_path: Path
) -> None:
    down = gains_down(mended)
    best = {one.line: one for one in optimum(down)}
    after = apply_changes(down, all_changes(tuple(best.values())))
    track = recorded(after, line_id, tmp_path)
    within_prediction(track, after, "hardest")
    assert track.noise_dbfs_a.measured == pytest.approx(best[line_id].noise_dbfs_a, abs=1.5)


def test_a_pair_gets_equal_gains(mended: Session) -> None:
    after = apply_changes(mended, all_changes(optimum(gains_down(mended))))
    gains = [line(after, key).state.level_control() for key in ("harp_left", "harp_right")]
    assert gains[0] is not None
    assert gains[1] is not None
    assert gains[0].value == gains[1].value


def test_lines_of_one_bus_share_the_aim(mended: Session) -> None:
    change = Change(owner="mixer", channel="in.4", name="pan", value=-1.0)
    together = set_control(mended, change)
    best = optimum(together)
    after = apply_changes(together, all_changes(best))
    (bus,) = line(after, "organ_l").buses
    assert bus.recorder_dbfs is not None
    window = next(one.target for one in best if one.line == "organ_l")
    assert window.lowest_dbfs <= bus.recorder_dbfs <= window.highest_dbfs


def test_another_target_is_another_aim(mended: Session) -> None:
    hot = set_level_target(mended, "hot")
    for one in optimum(hot):
        if one.reaches_target:
            assert one.peak_dbfs <= -4.5 + 0.01
            assert one.peak_dbfs > -6.1


def test_what_is_kept_is_left_alone(mended: Session) -> None:
    kept = fix_line(gains_down(mended), "voice", is_fixed=True)
    assert "voice" not in {one.line for one in optimum(kept)}
    assert optimum(Session()) == ()


def test_every_line_has_its_certificate_in_words(demo: Session) -> None:
    found = certificates(gains_down(demo))
    assert {c.line for c in found} >= {"harp_left", "baritone_line"}
    for one in found:
        assert one.why_not_louder.endswith(".")
        assert one.why_not_quieter.endswith(".")
        assert one.noise.endswith(".")
        assert "raised afterwards" in one.raised
    harp = next(c for c in found if c.line == "harp_left")
    assert "Room noise is" in harp.noise
    assert any("closer" in way.label for way in harp.improvements)
    for way in harp.improvements:
        if way.changes:
            closer = apply_changes(gains_down(demo), way.changes)
            (best,) = optimum(closer, ("harp_left",))
            assert best.snr_db == pytest.approx(harp.best.snr_db + way.snr_db, abs=0.1)
    # The cello into the wrong input cannot reach the aim, and it says why.
    cello = next(c for c in found if c.line == "cello_line")
    assert not cello.best.reaches_target
    assert "end" in cello.why_not_louder


def test_sixteen_lines_are_settled_at_once() -> None:
    session = big_session(16)
    assert len(optimum(session)) == 16


def test_a_line_can_have_an_aim_of_its_own(mended: Session) -> None:
    session = set_line_level_target(mended, "voice", "peaks")
    aims = {one.line: one.target.target_dbfs for one in optimum(session)}
    assert aims["voice"] == -12.0
    assert aims["harp_left"] == -8.0
    own = set_own_aim(mended, -15.0)
    assert {one.target.target_dbfs for one in optimum(own)} == {-15.0}
    assert all(one.peak_dbfs <= -15.0 + 0.01 for one in optimum(own))


def test_the_mixers_own_meter_is_an_aim(mended: Session) -> None:
    session = set_line_level_target(mended, "organ_l", "meter")
    item = line(session, "organ_l")
    # Where the meter shows 0: what arrives now, less what the meter shows.
    (bus,) = item.buses
    assert bus.recorder_dbfs is not None
    assert bus.meter_db is not None
    zero = bus.recorder_dbfs - bus.meter_db
    assert item.target.highest_dbfs == pytest.approx(min(zero, -1.0), abs=0.05)
    assert item.target.target_dbfs == pytest.approx(item.target.highest_dbfs - 1.0)
    without = set_line_level_target(mended, "voice", "meter")
    assert line(without, "voice").target.target_dbfs == -8.0


# ── sessions in which nothing good can be set ─────────────────────────────────────────────────
def one_gain(session: Session, low_db: float, high_db: float) -> Session:
    """The recorder's microphone inputs with another gain range."""
    return inputs_changed(
        session, lambda socket: modes_changed(socket, gain_min_db=low_db, gain_max_db=high_db)
    )


def test_a_gain_range_of_zero_is_one_position(alone: Session) -> None:
    found = {c.line: c for c in certificates(one_gain(alone, 0.0, 0.0))}
    harp = found["harp_left"]
    assert not harp.best.reaches_target
    assert harp.why_not_louder == "Every gain of the signal path is at its end."


def test_gear_that_only_is_too_loud_says_so(mended: Session) -> None:
    found = {c.line: c for c in certificates(one_gain(mended, 58.0, 60.0))}
    voice = found["voice"]
    assert not voice.best.reaches_target
    assert "above the target" in voice.why_not_louder
    assert not any("closer" in way.label for way in voice.improvements), "it is too loud already"


def test_a_line_without_a_recorder_is_left_out(mended: Session) -> None:
    links = tuple(link for link in mended.setup.links if link.id != "voice_cable")
    setup = mended.setup.model_copy(update={"links": links})
    cut = mended.model_copy(update={"setup": setup})
    assert "voice" not in {one.line for one in optimum(cut)}
    assert len(optimum(cut)) == 6


def test_an_unused_microphone_of_the_kit_is_a_way_on(demo: Session) -> None:
    from tests.core.connections.builders import ENTRIES
    from verve.core.session import KitItem, add_kit

    figures = ENTRIES.devices["condenser_large"].figures
    item = KitItem(id="large", name="Large condenser", quantity=1, device=figures)
    session, _ = add_kit(gains_down(demo), item)
    harp = next(c for c in certificates(session) if c.line == "harp_left")
    labels = [way.label for way in harp.improvements]
    without = next(c for c in certificates(gains_down(demo)) if c.line == "harp_left")
    assert {way.label for way in without.improvements} <= set(labels)
    for way in harp.improvements:
        assert way.sentence(is_reached=True).endswith(".")


def test_lines_on_one_knob_are_turned_together(mended: Session) -> None:
    shared = inputs_changed(
        mended,
        lambda socket: (
            socket.model_copy(update={"gain_knob": "1-2"}) if socket.name in {"1", "2"} else socket
        ),
    )
    change = Change(owner="interface", channel="in.1", name="gain_db", value=21.0)
    turned = set_control(shared, change)
    interface = next(d for d in turned.setup.devices if d.id == "interface")
    assert interface.settings["in.2"].gain_db == 21.0
    assert interface.settings["in.3"].gain_db != 21.0
    best = {one.line: one for one in optimum(shared)}
    after = apply_changes(shared, all_changes(tuple(best.values())))
    gains = [line(after, key).state.level_control() for key in ("voice", "harp_left")]
    assert gains[0] is not None
    assert gains[1] is not None
    assert gains[0].value == gains[1].value


def kit_of(session: Session, entry: str, name: str) -> Session:
    """The session with one more thing in its kit."""
    from tests.core.connections.builders import ENTRIES
    from verve.core.session import KitItem, add_kit

    item = KitItem(id="more", name=name, quantity=1, device=ENTRIES.devices[entry].figures)
    return add_kit(session, item)[0]


def test_an_unused_inline_preamp_of_the_kit_is_a_way_on() -> None:
    from dataclasses import replace

    from tests.core.gain.situations import SITUATIONS, session_of

    weak, with_inline = (replace(s, interface="interface_old") for s in SITUATIONS[:2])
    kitted = kit_of(session_of(weak), "inline_preamp", "Spare inline preamp")
    (found,) = certificates(kitted)
    way = next(w for w in found.improvements if "Spare inline preamp" in w.label)
    (without,) = certificates(session_of(weak))
    assert not any("inline" in w.label.lower() for w in without.improvements)
    # True when it is really put there, but for the short cable.
    (best,) = optimum(session_of(with_inline))
    now = found.best.peak_dbfs - found.best.noise_dbfs_a
    assert best.peak_dbfs - best.noise_dbfs_a == pytest.approx(now + way.snr_db, abs=0.3)


def test_another_interface_of_the_kit_is_a_way_on() -> None:
    from dataclasses import replace

    from tests.core.gain.situations import SITUATIONS, session_of

    weak = replace(SITUATIONS[0], interface="interface_old")
    kitted = kit_of(session_of(weak), "interface_sixteen", "Borrowed interface")
    (found,) = certificates(kitted)
    way = next(w for w in found.improvements if "Borrowed interface" in w.label)
    (best,) = optimum(session_of(replace(weak, interface="interface_sixteen")))
    now = found.best.peak_dbfs - found.best.noise_dbfs_a
    assert best.peak_dbfs - best.noise_dbfs_a == pytest.approx(now + way.snr_db, abs=0.1)


def test_a_free_input_of_another_kind_is_a_way_on(demo: Session) -> None:
    from verve.core.session import free_inputs, move_input

    cello = next(c for c in certificates(gains_down(demo)) if c.line == "cello_line")
    way = next(w for w in cello.improvements if "instrument input" in w.label)
    port = next(p for d, p in free_inputs(demo.setup) if d.id == "interface")
    moved = move_input(gains_down(demo), "cello_line", port, "instrument")
    (best,) = optimum(moved, ("cello_line",))
    now = cello.best.peak_dbfs - cello.best.noise_dbfs_a
    assert best.peak_dbfs - best.noise_dbfs_a == pytest.approx(now + way.snr_db, abs=0.1)
