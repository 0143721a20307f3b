"""The day against the clock: times add up, people are waited for, incidents are drawn and dealt with."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.clock import (
    DECK,
    STEP_S,
    TYPICAL_S,
    Day,
    DayRun,
    Pace,
    choices,
    clock_text,
    day_clock_csv,
    day_clock_html,
    day_of,
    expected_changes_s,
    fitting_in,
    learnt_from,
    parse_clock,
    span_text,
)
from verve.core.demo import demo_session
from verve.core.errors import InputError
from verve.core.kind import FrozenDict
from verve.core.learning import DayTimes
from verve.core.power import set_up_sheet, tear_down_sheet
from verve.core.session import Section, Session, Snapshot, Song, Take


def plan(times: DayTimes | None = None, session: Session | None = None) -> Day:
    return day_of(session or demo_session(), times or DayTimes())


def worked(day: Day) -> list[tuple[float, float]]:
    return [(one.start_s, one.end_s) for one in day.events if one.kind != "arrive"]


@given(
    st.floats(6.0, 14.0),
    st.integers(1, 8),
    st.dictionaries(
        st.sampled_from(["Singer", "Harpist", "Cellist", "Reed organist"]), st.floats(6.0, 16.0)
    ),
)
@settings(max_examples=15)
def test_one_thing_follows_the_other_without_gap_or_overlap(
    begin_h: float, takes: int, arrivals: dict[str, float]
) -> None:
    times = DayTimes(begin_h=begin_h, takes=takes, arrivals_h=FrozenDict(arrivals))
    day = plan(times)
    rows = worked(day)
    assert rows[0][0] == pytest.approx(begin_h * 3600.0)
    for (_, end), (start, _) in pairwise(rows):
        assert start == pytest.approx(end)
    assert day.over_s == pytest.approx(rows[-1][1])
    assert day.free_s == pytest.approx(times.end_h * 3600.0 - rows[-1][1])
    # Nobody plays before they have come.
    for one in day.events:
        if one.kind in {"tune", "check", "take", "listen"}:
            for who in one.who:
                assert one.start_s >= arrivals.get(who, 0.0) * 3600.0 - 1e-6
    count = sum(one.kind == "take" for one in day.events)
    assert count == takes * len(demo_session().brief.passes)


def test_setting_up_takes_what_its_steps_take_in_whole_minutes() -> None:
    day = plan()
    steps = set_up_sheet(demo_session().setup)
    wanted = sum(STEP_S[step.kind] for step in steps)
    first = day.events[0]
    assert first.kind == "set_up"
    assert wanted <= first.seconds < wanted + 60.0
    assert first.seconds % 60.0 == 0.0
    last = day.events[-1]
    assert last.seconds >= sum(STEP_S[step.kind] for step in tear_down_sheet(demo_session().setup))


def test_who_comes_late_is_waited_for_and_that_is_told() -> None:
    day = plan(DayTimes(arrivals_h=FrozenDict({"Harpist": 13.0})))
    (wait,) = [one for one in day.events if one.kind == "wait"]
    assert wait.end_s == 13.0 * 3600.0
    assert any("waits for Harpist" in one for one in day.findings)
    assert any("Cellist is there" in one for one in day.findings)
    assert not any("Harpist is there" in one for one in day.findings)


def test_a_day_that_is_too_long_says_when_to_begin() -> None:
    day = plan(DayTimes(begin_h=10.0, end_h=11.0, takes=10))
    assert day.free_s < 0.0
    assert day.findings[0].startswith("The day ends ")
    assert clock_text(10.0 * 3600.0 + day.free_s) in day.findings[1]
    tight = plan(DayTimes(begin_h=10.0, end_h=(plan().over_s + 300.0) / 3600.0))
    assert tight.findings[0].startswith("Only 5 min left")


def test_after_an_hour_and_a_half_there_is_a_pause() -> None:
    day = plan(DayTimes(takes=12))
    pauses = [one.start_s for one in day.events if one.kind == "pause"]
    begin = day.events[0].start_s
    for one in pauses:
        assert one - begin <= 5400.0
        begin = one + TYPICAL_S["pause"]
    assert pauses


def test_sections_of_the_song_are_recorded_one_after_the_other() -> None:
    sections = (
        Section(id="a", name="Verse", start_s=0.0, end_s=30.0),
        Section(id="b", name="Refrain", start_s=30.0, end_s=50.0),
    )
    session = demo_session().model_copy(update={"song": Song(sections=sections)})
    titles = [one.title for one in plan(DayTimes(takes=2), session).events if one.kind == "take"]
    assert titles[:4] == [
        "The songs, Verse: take 1", "The songs, Verse: take 2",
        "The songs, Refrain: take 1", "The songs, Refrain: take 2",
    ]  # fmt: skip
    assert not any("sections" in one for one in plan(None, session).prepare)
    assert any("sections" in one for one in plan().prepare)


def test_what_costs_most_are_changes_and_what_to_prepare_saves_most_first() -> None:
    day = plan()
    assert len(day.costliest) <= 2
    assert all(one.startswith("Change to") for one in day.costliest)
    assert day.prepare[0].startswith("Set up the first layer the evening before")
    assert day.prepare[-1].startswith("New strings")


def test_an_empty_session_has_an_empty_day() -> None:
    day = plan(None, Session())
    assert day.events == ()
    assert DayRun.of(day, 4.0, 1).is_over


# ── learnt from real days ─────────────────────────────────────────────────────────────────────────
def taken(minute: int, layer: str, number: int) -> Take:
    session = demo_session()
    return Take(
        id=f"take_{number}", name=f"Take {number}", recorded_at=f"2026-05-04T18:{minute:02d}:00+02:00",
        seconds=60.0, play="phrase", tracks=(), layer=layer, setup=Snapshot.of(session.setup),
    )  # fmt: skip


def test_times_are_learnt_from_the_takes_of_real_days() -> None:
    takes = tuple(taken(minute, "evening", n) for n, minute in enumerate((0, 2, 5, 7)))
    takes = (*takes, taken(37, "finale", 9))
    session = demo_session().model_copy(update={"takes": takes})
    found = learnt_from(session, expected_changes_s(session))
    assert found["between_takes"] == (60.0, 120.0, 60.0)
    (ratio,) = found["change"]
    assert ratio == pytest.approx((30 * 60.0 - 60.0) / expected_changes_s(session)["finale"])
    pace = Pace(found)
    assert pace.seconds("between_takes") == 60.0
    assert pace.is_learnt("between_takes")
    # One change is too few to go by.
    assert not pace.is_learnt("change")
    day = day_of(session, DayTimes(), pace)
    assert day.note.startswith("Times marked")


def test_another_days_take_is_no_pause_between_two() -> None:
    far = taken(0, "evening", 1).model_copy(update={"recorded_at": "2026-05-06T18:00:00+02:00"})
    session = demo_session().model_copy(update={"takes": (taken(0, "evening", 0), far)})
    assert learnt_from(session, {}) == {}
    strange = far.model_copy(update={"recorded_at": "yesterday"})
    session = session.model_copy(update={"takes": (taken(0, "evening", 0), strange)})
    assert learnt_from(session, {}) == {}


# ── played through ────────────────────────────────────────────────────────────────────────────────
def through(run: DayRun, *, now: bool) -> DayRun:
    for _ in range(500):
        if run.is_over:
            return run
        run = run.forward() if run.pending is None else run.decide(now=now)
    raise AssertionError("the day never ends")


def test_without_incidents_the_day_is_as_planned() -> None:
    day = plan(DayTimes(arrivals_h=FrozenDict({"Harpist": 12.0})))
    run = through(DayRun.of(day, 0.0, 1), now=True)
    assert [(one.start_s, one.end_s) for one in run.played] == [
        (one.start_s, one.end_s) for one in day.events
    ]
    assert run.now_s == day.over_s
    assert run.lost_s == 0.0
    assert run.says()[0].endswith("6 takes kept.")


@pytest.mark.parametrize("seed", range(6))
def test_what_goes_wrong_takes_its_time_or_a_take(seed: int) -> None:
    day = plan(DayTimes(takes=5))
    mended = through(DayRun.of(day, 4.0, seed), now=True)
    assert mended.now_s == pytest.approx(day.over_s + mended.lost_s)
    assert mended.dropped == 0
    dropped = through(DayRun.of(day, 4.0, seed), now=False)
    assert dropped.dropped + dropped.takes == mended.takes
    assert dropped.now_s <= mended.now_s + 1e-6
    assert through(DayRun.of(day, 4.0, seed), now=True) == mended
    for one in mended.played:
        if one.incident is not None:
            assert one.incident in fitting_in(one.event)
            assert one.incident.prevents in mended.says()


def test_the_more_goes_wrong_the_more_is_drawn() -> None:
    day = plan(DayTimes(takes=10))
    counts = [
        sum(len(DayRun.of(day, per_h, seed).incidents) for seed in range(30))
        for per_h in (0.0, 0.5, 4.0)
    ]
    hours = sum(one.seconds for one in day.events) / 3600.0
    assert counts[0] == 0
    assert counts[0] < counts[1] < counts[2]
    assert counts[1] == pytest.approx(30 * 0.5 * hours, rel=0.5)


def test_who_is_waited_for_anyway_costs_no_more_when_something_goes_wrong_meanwhile() -> None:
    day = plan(DayTimes(arrivals_h=FrozenDict({"Harpist": 15.0})))
    number = next(n for n, one in enumerate(day.events) if one.kind == "set_up")
    cable = next(one for one in DECK if one.key == "adapter")
    run = through(DayRun(day=day, incidents={number: cable}), now=True)
    assert run.lost_s == cable.seconds
    assert run.now_s == day.over_s


def test_what_cannot_wait_gives_no_choice() -> None:
    for one in DECK:
        assert len(choices(one)) == (2 if one.can_wait else 1)
        assert one.prevents.endswith(".")


# ── on paper ──────────────────────────────────────────────────────────────────────────────────────
def test_the_sheet_for_the_wall_has_every_time_and_the_cautions() -> None:
    day = plan()
    page, table = day_clock_html(day), day_clock_csv(day)
    for one in day.events:
        assert one.title in page
        assert clock_text(one.start_s) in table
    assert "Never lift a mains safety earth" in page
    assert len(table.splitlines()) == len(day.events) + 1


@pytest.mark.parametrize(
    ("text", "hours"),
    [("9:30", 9.5), ("9.30", 9.5), ("930", 9.5), ("18", 18.0), (" 7h ", 7.0), ("10 o’clock", 10.0)],
)
def test_times_are_read_as_people_write_them(text: str, hours: float) -> None:
    assert parse_clock(text) == hours


@pytest.mark.parametrize("text", ["", "soon", "25:00", "9:75", "-3"])
def test_no_time_is_refused_with_an_example(text: str) -> None:
    with pytest.raises(InputError, match="9:30"):
        parse_clock(text)


@given(st.integers(0, 24 * 60 - 1))
def test_a_time_is_written_and_read_again(minutes: int) -> None:
    assert parse_clock(clock_text(minutes * 60.0)) * 60.0 == pytest.approx(minutes)


def test_spans_are_told_in_hours_and_minutes() -> None:
    assert [span_text(s) for s in (10, 60, 3600, 3900)] == ["1 min", "1 min", "1 h", "1 h 5 min"]
