"""What a pass needs, what is missing, the ways out: each is enough when chosen."""

from __future__ import annotations

import pytest

from tests.core.connections.builders import ENTRIES, part, session_of
from verve.core.connections import Suggestion, suggest_connections
from verve.core.errors import CancelledError
from verve.core.gear import InterfaceFigures, LineOutputFigures
from verve.core.needs import (
    Need,
    checks_of,
    microphone_rows,
    needs_of,
    options_of,
    spare_devices,
    stream_mb_per_s,
)
from verve.core.sensitivity import Purchase, given, worth_of
from verve.core.session import Audio, Computer, Part, Session, rename_session

PARTS = (
    part("voice_singing", name="Voice", performer="Mara"),
    part("violin", name="Fiddle", performer="Ion", capture="pair"),
    part("bass_pickup", name="Bass", performer="Per"),
    part("keyboard_output", name="Keys", performer="Mara", capture="stereo"),
)
KIT = {
    "moving_coil": 1,
    "condenser_small": 2,
    "active_di": 1,
    "passive_di": 1,
    "interface_eight": 1,
    "balanced_5": 2,
    "instrument_3": 3,
    "stand_boom": 2,
}


def suggested(session: Session) -> Suggestion:
    found = suggest_connections(session, session.brief.passes[0])
    assert isinstance(found, Suggestion)
    return found


def needs(session: Session) -> dict[str, Need]:
    return {need.key: need for need in needs_of(session, PARTS, suggested(session))}


def test_a_pass_is_counted_signal_by_signal() -> None:
    found = needs(session_of(PARTS, KIT))
    assert (found["inputs"].needed, found["inputs"].owned) == (6, 8)
    assert found["instrument"].needed == 1
    assert found["line"].needed == 2
    assert found["phantom"].needed == 2
    assert found["feeds"].needed == 3, "Mara sings and plays"
    assert found["stands"].missing == 1
    assert found["shields"].missing == 1
    assert found["hum"].needed == 2
    assert found["hum"].owned == 1, "the passive box is free"
    cables = {key: need for key, need in found.items() if key.startswith("Cables")}
    assert cables["Cables, XLR"].missing == 1
    assert cables["Cables, 6.3 mm jack"].missing == 0
    assert all(need.how for need in found.values())
    assert found["inputs"].spare == 2
    assert found["inputs"].fact().text == "6 of 8"


def test_what_is_left_over_is_named() -> None:
    session = session_of(PARTS, KIT)
    assert spare_devices(session, suggested(session)) == {"Active DI box": 1, "Passive DI box": 1}


def test_an_adapter_is_needed_where_no_socket_fits() -> None:
    session = session_of(PARTS, KIT).model_copy(update={"computer": Computer(sockets=("usb_a",))})
    assert needs(session)["host_plug"].missing == 1


def lacking() -> Session:
    return session_of(PARTS, {**KIT, "moving_coil": 0})


def test_every_way_out_is_enough_when_chosen() -> None:
    session = lacking()
    suggestion = suggested(session)
    assert suggestion.missing
    found = options_of(session, session.brief.passes[0], suggestion)
    assert {"split", "less", "borrow", "buy"} <= {out.kind for out in found}
    for out in found:
        after = out.apply(session)
        for item in after.brief.passes:
            again = suggest_connections(after, item)
            assert isinstance(again, Suggestion)
            # What is to be bought is planned: it is not there yet.
            assert bool(again.missing) == (out.kind == "buy"), out.label
    bought = next(out for out in found if out.kind == "buy").apply(session)
    assert len(bought.shopping.wishes) == 1
    assert {item.status for item in bought.kit} == {"owned", "wished"}
    planned = options_of(bought, bought.brief.passes[0], suggested(bought))
    assert "buy" not in {out.kind for out in planned}, "it is on the list already"
    there = tuple(item.model_copy(update={"status": "owned"}) for item in bought.kit)
    assert suggested(bought.model_copy(update={"kit": there})).missing == ()


def test_a_pass_that_the_kit_can_do_needs_no_way_out() -> None:
    session = session_of(PARTS, KIT)
    assert options_of(session, session.brief.passes[0], suggested(session)) == ()


def test_ways_out_can_be_called_off() -> None:
    session = lacking()
    suggestion = suggested(session)
    with pytest.raises(CancelledError):
        options_of(session, session.brief.passes[0], suggestion, is_cancelled=lambda: True)


# ── microphones and worth ─────────────────────────────────────────────────────────────────────
def test_every_microphone_is_compared_for_a_voice() -> None:
    session = session_of(PARTS, {**KIT, "inline_preamp": 1})
    rows = microphone_rows(session, PARTS[0])
    names = [row.name for row in rows]
    assert len(names) == len(set(names))
    assert {row.name for row in rows if row.is_owned} == {
        "Moving-coil microphone",
        "Small condenser microphone",
    }
    assert [row.snr_db for row in rows] == sorted((row.snr_db for row in rows), reverse=True)
    low = next(row for row in rows if "low output" in row.name)
    assert "inline preamp" in low.needs
    assert microphone_rows(session, PARTS[2]) == (), "a plug needs no microphone"


def test_worth_is_what_assessing_the_changed_session_says() -> None:
    session = suggested(session_of(PARTS[:1], {"moving_coil_low": 1, "interface_old": 1})).session
    figures = ENTRIES.devices["condenser_large"].figures
    better = ENTRIES.devices["interface_eight"].figures
    found = worth_of(
        session,
        [
            Purchase(name="Large", figures=figures, price=200.0),
            Purchase(name="Eight", figures=better),
        ],
    )
    by_name = {one.name: one for one in found}
    line = session.setup.lines[0].id
    before = given(session, line)
    from verve.core.session import replace_device

    recorder = next(d for d in session.setup.devices if isinstance(d.figures, InterfaceFigures))
    after = given(replace_device(session, recorder.id, better, "Eight"), line)
    assert before is not None
    assert after is not None
    assert before.snr_db is not None
    assert after.snr_db is not None
    assert by_name["Eight"].gain_db == pytest.approx(after.snr_db - before.snr_db)
    assert by_name["Eight"].inputs == 6
    assert by_name["Eight"].per_money is None
    large = by_name["Large"]
    assert large.per_money == pytest.approx(100.0 * large.gain_db / 200.0)
    assert all(one.sentence().endswith(".") for one in found)


def test_money_changes_nothing_where_the_room_is_the_noise() -> None:
    loud = session_of(PARTS[:1], {"condenser_large": 1, "interface_eight": 1})
    room = loud.setup.room.model_copy(update={"noise_dba": 60.0})
    loud = loud.model_copy(update={"setup": loud.setup.model_copy(update={"room": room})})
    session = suggested(loud).session
    better = ENTRIES.devices["condenser_large_budget"].figures
    (worth,) = worth_of(session, [Purchase(name="Other", figures=better, price=1000.0)])
    assert worth.gain_db < 1.0
    assert "the room is the noise" in worth.sentence()


# ── the computer ──────────────────────────────────────────────────────────────────────────────
def test_the_stream_in_closed_form() -> None:
    # 16 tracks of three bytes at 96 kHz are 4.608 million bytes a second.
    audio = Audio(sample_rate_hz=96000, bit_depth=24)
    assert stream_mb_per_s(16, audio) == pytest.approx(4.608)
    checks = {
        c.label: c
        for c in checks_of(
            16,
            audio,
            Computer(sockets=("usb_a",), memory_gb=4.0, free_disk_gb=10.0, write_mb_per_s=100.0),
            ENTRIES.devices["interface_two"].figures,
            12.0,
        )
    }
    assert checks["Disk for an hour"].text == "16.6 GB"
    assert checks["Disk for an hour"].is_well is False
    assert checks["Written all the time"].is_well is True
    assert checks["Memory"].is_well is False
    assert checks["The interface’s plug"].is_well is False
    # 1.5 W and 48 V × 12 mA ÷ 0.7 are 2.3 W, just within the 2.5 W of a socket.
    assert checks["Power from the USB port"].text == "2.3 W of 2.5 W"
    assert checks["Power from the USB port"].is_well is True


def test_what_is_not_known_is_not_judged() -> None:
    checks = checks_of(0, Audio(), Computer(), None, 0.0)
    assert {check.is_well for check in checks} == {None}


def test_a_session_can_be_renamed_with_a_brief_in_it() -> None:
    session = rename_session(session_of(PARTS, KIT), "Other")
    assert len(session.brief.parts) == 4
    assert isinstance(session.brief.parts[0], Part)


def test_parts_without_a_name_are_no_people() -> None:
    """A drum kit of one drummer is many signals and one pair of headphones; a machine has none."""
    drums = tuple(
        part.model_copy(update={"performer": "Ora" if n == 0 else ""})
        for n, part in enumerate(PARTS)
    )
    session = session_of(drums, KIT)
    found = {need.key: need for need in needs_of(session, drums, suggested(session))}
    assert found["feeds"].needed == 1


def test_what_runs_on_a_battery_closes_no_loop() -> None:
    keys = ENTRIES.sources["keyboard_output"].figures
    assert keys.is_on_mains()
    assert isinstance(keys, LineOutputFigures)
    assert not keys.model_copy(update={"is_earthed": False}).is_on_mains()
    assert not ENTRIES.sources["double_coil"].figures.is_on_mains()
