"""Who hears what: ledgers, sentences, findings with their remedies, ears, buffers, what is learned of a computer."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.wiring import wired
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.errors import EditError, InputError
from verve.core.monitor import (
    BANDS,
    LIMITS,
    TYPICAL_FIXED_MS,
    Headphones,
    at_ear,
    band_of,
    buffer_text,
    computer_text,
    double_of,
    drive_facts,
    drive_of,
    ear_causes,
    ears_text,
    findings,
    learned,
    ledger_facts,
    ledger_of,
    load_share,
    loop_points,
    loop_told,
    offset_text,
    option,
    options,
    over_own_db,
    own_level_dba,
    phantom_on,
    player_of,
    recommended,
    sentence_of,
    strictest_ms,
    total_text,
    under_headphones_dba,
    usable_offset_frames,
)
from verve.core.session import (
    Change,
    Cue,
    LearnedTrip,
    RecordingOffset,
    Session,
    change_cue,
    change_monitoring,
    cue_of,
    learn_trip,
    listeners,
    set_audio,
    set_control,
    set_recording_offset,
)
from verve.core.sheets import cue_sheet_csv, cue_sheet_html

CLOSED = Headphones(impedance_ohm=80.0, sensitivity_db_per_mw=96.0)


def session(frames: int = 64, **update: object) -> Session:
    """The demo with a buffer, and what the singer hears."""
    demo = demo_session()
    demo = set_audio(demo, demo.setup.audio.model_copy(update={"buffer_frames": frames}))
    return change_cue(demo, "singer", {"ways": ("direct",), **update})


def rules(found: Session) -> dict[str, str]:
    return {one.rule: one.severity for one in findings(found, {"closed_80": CLOSED})}


# ── ledgers ───────────────────────────────────────────────────────────────────────────────────
@settings(max_examples=40)
@given(
    st.sampled_from([32, 64, 128, 256, 512, 1024]),
    st.sampled_from([44_100, 48_000, 96_000]),
    st.floats(0.05, 3.0),
    st.integers(0, 4000),
)
def test_a_way_through_the_software_is_the_sum_of_its_parts(
    frames: int, rate: int, distance_m: float, effects: int
) -> None:
    there = session(frames, ways=("software",), effects="heard", effect_frames=effects)
    audio = there.setup.audio.model_copy(update={"sample_rate_hz": rate})
    there = set_audio(there, audio)
    there = set_control(
        there,
        Change(owner="voice_mic", channel="capsule", name="distance_m", value=distance_m),
    )
    ledger = ledger_of(there, cue_of(there.setup, "singer"), "software")
    expected = (
        1000.0 * distance_m / 343.0 + 1000.0 * (2 * frames + effects) / rate + TYPICAL_FIXED_MS
    )
    assert ledger.total_ms == pytest.approx(expected, rel=1e-9)
    assert ledger.frames == pytest.approx(expected * rate / 1000.0)
    assert ledger.metres == pytest.approx(expected * 0.343)
    assert sum(one.ms for one in ledger.delays) == pytest.approx(ledger.total_ms)
    assert len(ledger_facts(ledger)) == len(ledger.delays)


def test_direct_ways_do_not_wait_for_buffers() -> None:
    for way in ("direct", "mixer"):
        late = [
            ledger_of(session(frames), cue_of(session(frames).setup, "singer"), way).total_ms
            for frames in (32, 2048)
        ]
        assert late[0] == late[1] < 2.0


def test_what_goes_by_wire_has_no_air_and_a_loudspeaker_has_more() -> None:
    demo = session()
    wire = ledger_of(demo, Cue(who="guitarist"), "direct")
    assert [one.name for one in wire.delays] == ["Interface"]
    far = ledger_of(demo, Cue(who="guitarist", worn="loudspeaker", loudspeaker_m=3.43), "mixer")
    assert far.total_ms == pytest.approx(10.0)


# ── what is learned ───────────────────────────────────────────────────────────────────────────
def trips(
    *pairs: tuple[int, float], rate: float = 44_100.0, measured: bool = False
) -> list[LearnedTrip]:
    return [
        LearnedTrip(
            buffer_frames=frames, sample_rate_hz=rate, round_trip_ms=ms, is_measured=measured
        )
        for frames, ms in pairs
    ]


def test_two_round_trips_say_a_third() -> None:
    found = learned(trips((32, 6.8), (1024, 51.8)), 44_100.0)
    assert found.round_trip_ms(64, 44_100.0) == pytest.approx(8.3, abs=0.05)
    assert (found.known, found.trips, found.buffers) == ("reported", 2, 2.0)


@settings(max_examples=60)
@given(
    st.floats(0.5, 20.0),
    st.sampled_from([2.0, 3.0, 4.0]),
    st.lists(st.sampled_from([32, 64, 128, 256, 512, 1024]), min_size=3, max_size=6, unique=True),
    st.sampled_from([44_100.0, 48_000.0, 96_000.0]),
)
def test_from_three_sizes_on_the_invented_truth_is_found(
    fixed_ms: float, buffers: float, sizes: list[int], rate: float
) -> None:
    told = [(size, buffers * 1000.0 * size / rate + fixed_ms) for size in sizes]
    found = learned(trips(*told, rate=rate), rate)
    assert found.fixed_ms == pytest.approx(fixed_ms, abs=1e-6)
    assert found.buffers == pytest.approx(buffers)
    assert found.is_counted == (buffers != 2.0)
    assert found.worst_ms < 1e-6


def test_what_was_measured_goes_before_what_is_reported() -> None:
    found = learned([*trips((64, 9.0)), *trips((64, 10.5), measured=True)], 44_100.0)
    assert (found.known, found.trips) == ("measured", 1)
    assert found.round_trip_ms(64, 44_100.0) == pytest.approx(10.5)
    nothing = learned([], 44_100.0)
    assert (nothing.known, nothing.fixed_ms) == ("typical", TYPICAL_FIXED_MS)
    assert learned(trips((64, 9.0)), 96_000.0).is_other_rate


def test_the_computer_is_told_in_words_and_two_figures_are_never_one() -> None:
    there = session()
    assert "typical" in computer_text(there)
    assert "not known" in offset_text(there)
    there = learn_trip(there, trips((64, 9.0), rate=48_000.0)[0])
    assert "1 round trips" in computer_text(there)
    offset = RecordingOffset(frames=-12.0, buffer_frames=64, sample_rate_hz=48_000.0)
    there = set_recording_offset(there, offset)
    assert usable_offset_frames(there) == -12.0
    assert "−12.0 samples" in offset_text(there)
    # For another buffer it is not known, and with two devices never.
    other = set_audio(there, there.setup.audio.model_copy(update={"buffer_frames": 128}))
    assert usable_offset_frames(other) is None
    assert "not used" in offset_text(other)
    two = change_monitoring(there, {"input_is_output": False})
    assert usable_offset_frames(two) is None
    assert "two_clocks" in rules(two)


# ── findings ──────────────────────────────────────────────────────────────────────────────────
def mended(there: Session, rule: str) -> Session:
    found = next(one for one in assess(there).findings if one.rule == rule)
    assert found.remedy is not None
    after = found.remedy.apply(there)
    assert all(one.rule != rule or one.line != found.line for one in assess(after).findings)
    return after


def test_the_demo_has_somebody_who_hears_themselves_twice_and_a_buffer_left_for_mixing() -> None:
    demo = demo_session()
    assert rules(demo) == {"heard_twice": "mend", "buffer_large": "mend"}
    once = mended(demo, "heard_twice")
    assert cue_of(once.setup, "singer").ways == ("direct",)
    assert mended(once, "buffer_large").setup.audio.buffer_frames == 64


def test_whoever_wants_effects_keeps_the_software_where_it_is_quick_enough() -> None:
    there = change_cue(
        session(), "organist", {"ways": ("direct", "software"), "effects": "heard", "effect_frames": 0}
    )  # fmt: skip
    assert cue_of(mended(there, "heard_twice").setup, "organist").ways == ("software",)
    slow = change_cue(there, "organist", {"effect_frames": 4800})
    assert cue_of(mended(slow, "heard_twice").setup, "organist").ways == ("direct",)


def test_too_late_even_with_a_small_buffer_is_heard_directly() -> None:
    there = session(ways=("software",), effects="heard", effect_frames=1024)
    assert rules(there)["heard_late"] == "mend"
    assert cue_of(mended(there, "heard_late").setup, "singer").ways == ("direct",)
    # While the buffer is the fault, only the buffer is told.
    large = set_audio(there, there.setup.audio.model_copy(update={"buffer_frames": 2048}))
    assert "heard_late" not in rules(large)


def test_one_ear_loudspeakers_printing_and_silence_are_told() -> None:
    assert rules(session(is_mono=False))["one_ear"] == "mend"
    assert cue_of(mended(session(is_mono=False), "one_ear").setup, "singer").is_mono
    loud = session(worn="loudspeaker")
    assert rules(loud)["loudspeaker_open"] == "mend"
    assert cue_of(mended(loud, "loudspeaker_open").setup, "singer").worn == "closed_headphones"
    assert rules(session(effects="printed"))["printed"] == "know"
    assert rules(session(worn="nothing"))["no_monitor"] == "know"
    # Somebody whose instrument goes by wire may listen to a loudspeaker.
    wire = change_cue(session(), "guitarist", {"worn": "loudspeaker"})
    assert "loudspeaker_open" not in rules(wire)


def test_where_all_hear_directly_a_large_buffer_is_only_worth_knowing() -> None:
    there = session(1024)
    for who, _ in listeners(there.setup):
        there = change_cue(there, who, {"ways": ("direct",)})
    assert rules(there)["buffer_large"] == "know"


def test_what_nobody_has_said_is_not_judged() -> None:
    bare = demo_session().model_copy(
        update={"setup": demo_session().setup.model_copy(update={"monitoring": Session().setup.monitoring})}
    )  # fmt: skip
    assert set(rules(bare)) == {"buffer_large"}


def test_headphones_that_are_too_loud_for_so_long_are_turned_down() -> None:
    there = session(headphones="closed_80", drive_dbu=-5.0)
    before = next(one for one in assess(there).findings if one.rule == "too_loud")
    assert "hearing" in before.caution
    after = mended(there, "too_loud")
    drive = cue_of(after.setup, "singer").drive_dbu
    assert drive is not None
    assert drive < -5.0


@pytest.mark.parametrize("extra", ["effect_recorded", "tone_extra"])
def test_what_an_interface_does_to_a_recording_is_told_and_switched_off(extra: str) -> None:
    there = wired(
        {"keys": "keyboard_output"},
        {"io": "interface_two"},
        ["keys:out > io:in.1"],
        settings={"io:in.1": {"mode": "line", extra: True}, "io:in.2": {extra: True}},
    )
    found = [one for one in assess(there).findings if one.rule == "extra_on"]
    # Nothing goes into the second input: what is on there spoils nothing.
    assert [one.line for one in found] == ["line_keys"]
    assert found[0].remedy is not None
    after = found[0].remedy.apply(there)
    assert not [one for one in assess(after).findings if one.rule == "extra_on"]


# ── ears ──────────────────────────────────────────────────────────────────────────────────────
@settings(max_examples=40)
@given(st.floats(-40.0, 10.0), st.floats(8.0, 600.0), st.floats(85.0, 115.0), st.integers(1, 4))
def test_the_level_at_the_ear_is_a_range_about_the_drive(
    drive_dbu: float, ohm: float, sensitivity: float, pairs: int
) -> None:
    cue = Cue(who="singer", drive_dbu=drive_dbu, output_impedance_ohm=20.0, pairs=pairs)
    pair = Headphones(impedance_ohm=ohm, sensitivity_db_per_mw=sensitivity)
    volts = 0.7746 * 10.0 ** (drive_dbu / 20.0) * (ohm / pairs) / (ohm / pairs + 20.0)
    expected = sensitivity + 10.0 * math.log10(1000.0 * volts**2 / ohm)
    ear = at_ear(cue, pair, "leisure")
    assert ear.middle_dba == pytest.approx(expected, abs=0.01)
    assert ear.high_dba - ear.low_dba == pytest.approx(12.0)
    assert ear.shortest_hours <= ear.longest_hours <= 24.0
    unknown = at_ear(cue.model_copy(update={"drive_dbu": None}), pair, "leisure")
    assert unknown.high_dba - unknown.low_dba == pytest.approx(20.0)
    assert len(drive_facts(cue, pair)) == 4


def test_the_stricter_limit_is_the_default_and_bears_less() -> None:
    cue = Cue(who="singer", drive_dbu=-20.0)
    strict, work = (at_ear(cue, CLOSED, limit).longest_hours for limit in ("leisure", "work"))
    assert strict < work
    assert LIMITS["leisure"][0] == 80.0
    assert demo_session().setup.monitoring.limit == "leisure"


def test_ears_are_told_with_reasons_and_never_promised() -> None:
    there = session(headphones="closed_80")
    cue = cue_of(there.setup, "singer")
    said = ears_text(there, cue, CLOSED)
    for words in ("between", "knob", "leisure limit", "own playing alone", "Never a promise"):
        assert words in said
    assert "safe" not in said
    assert "Choose headphones" in ears_text(there, cue, None)
    assert ears_text(there, cue.model_copy(update={"worn": "nothing"}), CLOSED) == ""
    clicked = cue.model_copy(update={"click_db": 10.0})
    assert "the click is louder" in ears_text(there, clicked, CLOSED)
    # One's own playing counts as well: less time is left with it.
    own_left = under_headphones_dba(there.setup, cue)
    assert own_left is not None
    quiet = cue.model_copy(update={"drive_dbu": -50.0})
    alone, both = (at_ear(quiet, CLOSED, "leisure", one) for one in (None, own_left))
    assert both.shortest_hours < alone.shortest_hours
    assert both.middle_dba == pytest.approx(own_left, abs=1.0)
    soft = cue.model_copy(update={"drive_dbu": -60.0})
    assert "too soft" in ears_text(there, soft, CLOSED)
    own = own_level_dba(there.setup, "singer")
    assert own is not None
    assert own > 70.0
    assert own_level_dba(there.setup, "guitarist") is None
    assert over_own_db(there.setup, Cue(who="guitarist"), CLOSED) is None
    with pytest.raises(InputError):
        _ = drive_of(cue, Headphones(impedance_ohm=0.0, sensitivity_db_per_mw=96.0)).spl_db


# ── buffers ───────────────────────────────────────────────────────────────────────────────────
def test_larger_buffers_are_later_and_calmer() -> None:
    every = options(session())
    late = [one.round_trip_ms for one in every]
    busy = [one.busy for one in every]
    assert late == sorted(late)
    assert busy == sorted(busy, reverse=True)
    assert every[0].risk != "calm"
    assert every[-1].risk == "calm"


def test_two_sizes_are_recommended_one_for_each_work() -> None:
    record, mix = recommended(session())
    assert record < mix
    busy = change_monitoring(session(), {"load_percent": 45.0})
    assert load_share(busy) == 0.45
    assert recommended(busy)[0] > record
    assert option(busy, 32, 48_000.0).risk == "drop-outs likely"
    assert f"To record {record} samples" in buffer_text(session())
    assert math.isinf(strictest_ms(change_cue(session(), "organist", {"ways": ("direct",)})))
    assert strictest_ms(session()) == BANDS["keys"].disturbing_ms


# ── words ─────────────────────────────────────────────────────────────────────────────────────
def test_everybody_has_a_sentence() -> None:
    there = session(
        ways=("software", "direct"), backing_db=-4.0, click_db=2.0, has_one_ear_free=True
    )
    assert sentence_of(there, "singer") == (
        "Singer hears themselves direct in the interface and through the software, in closed headphones, one ear "
        "free; the backing −4 dB and the click +2 dB against that."
    )
    assert sentence_of(session(worn="nothing"), "singer") == "Singer hears no monitoring."
    cue = cue_of(there.setup, "singer")
    assert "hollow" in total_text(there, cue, ledger_of(there, cue, "direct"))
    slow = session(1024, ways=("software",))
    cue = cue_of(slow.setup, "singer")
    assert "echo" in total_text(slow, cue, ledger_of(slow, cue, "software"))


def test_a_singer_is_more_critical_than_whoever_plays_keys() -> None:
    setup = demo_session().setup
    assert (player_of(setup, "singer"), player_of(setup, "organist")) == ("voice", "keys")
    assert band_of(setup, "singer").disturbing_ms < band_of(setup, "organist").disturbing_ms
    assert band_of(setup, "singer").feel(1.0) == "at once"
    assert band_of(setup, "singer").feel(5.0) == "noticed"
    assert band_of(setup, "singer").feel(9.0) == "disturbing"


def test_two_ways_at_once_are_a_comb() -> None:
    there = session(ways=("direct", "software"))
    cue = cue_of(there.setup, "singer")
    ledgers = {way: ledger_of(there, cue, way) for way in cue.ways}
    both = double_of(ledgers)  # type: ignore[arg-type]
    assert both is not None
    apart = ledgers["software"].total_ms - ledgers["direct"].total_ms
    assert both.delay_ms == pytest.approx(apart)
    assert both.first_null_hz == pytest.approx(500.0 / apart)
    assert double_of({"direct": ledgers["direct"]}) is None


def test_the_cue_sheet_has_everybody_once_and_each_way() -> None:
    there = session(ways=("direct", "software"))
    rows = cue_sheet_csv(there).splitlines()
    assert len(rows) == 1 + 1 + len(listeners(there.setup))
    page = cue_sheet_html(there)
    for who, _ in listeners(there.setup):
        assert sentence_of(there, who).split(";")[0].rstrip(".") in page
    assert "stop for today" in page
    assert "none" in cue_sheet_csv(session(worn="nothing"))


# ── a loop-back, made safe ────────────────────────────────────────────────────────────────────
def test_what_has_to_be_safe_names_the_inputs_that_have_phantom_power() -> None:
    demo = demo_session()
    assert phantom_on(demo) == ("Interface 2", "Interface 3")
    points = loop_points(demo)
    assert len(points) == 5
    assert any("Interface 2 and Interface 3" in one.words for one in points)
    assert all(one.why for one in points)
    assert len({loop_told(one) for one in ("too loud", "rises", None)}) == 3


def test_what_cannot_be_is_refused_in_words() -> None:
    demo = demo_session()
    with pytest.raises(EditError, match="must be somebody who plays"):
        change_cue(demo, "tubist", {})
    for update in ({"pairs": 0}, {"worn": "hat"}, {"effect_frames": -1}, {"loudspeaker_m": 0.0}):
        with pytest.raises(EditError):
            change_cue(demo, "singer", update)
    with pytest.raises(EditError):
        change_monitoring(demo, {"hours": np.inf})


# ── trouble ───────────────────────────────────────────────────────────────────────────────────
def test_what_explains_most_stands_first_and_what_nobody_sees_behind_it() -> None:
    slow = session(1024, ways=("software",), effects="heard", effect_frames=480)
    late = ear_causes(slow, "singer", "late")
    assert late[0].what == "the buffer"
    assert late[0].share is not None
    shares = [one.share for one in late if one.share is not None]
    assert shares == sorted(shares, reverse=True)
    # Each share is what is gone when that alone is put right.
    ledger = ledger_of(slow, cue_of(slow.setup, "singer"), "software")
    small = set_audio(slow, slow.setup.audio.model_copy(update={"buffer_frames": 64}))
    left = ledger_of(small, cue_of(small.setup, "singer"), "software").total_ms
    assert late[0].share == pytest.approx(1.0 - left / ledger.total_ms)
    assert "64 samples" in late[0].text


def test_each_trouble_has_its_causes() -> None:
    for there, trouble, first in (
        (session(worn="nothing"), "nothing", "no monitoring is said for them"),
        (session(ways=()), "nothing", "no way of hearing themselves is on"),
        (session(is_mono=False), "one_ear", "one signal in a stereo monitor"),
        (session(ways=("direct", "software")), "twice", "two ways are on"),
    ):
        found = ear_causes(there, "singer", trouble)  # type: ignore[arg-type]
        assert found[0].what == first
        assert "explains all of it" in found[0].text
        assert all(one.share is None for one in found[1:])
        assert len(found) >= 3
    # Where nothing set explains it, what cannot be seen from here is left, the quickest test first.
    assert ear_causes(session(), "singer", "one_ear")[0].share is None
    assert ear_causes(session(ways=()), "singer", "late") == ()
