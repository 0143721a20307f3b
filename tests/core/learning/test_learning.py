"""What was missed comes back sooner, what is known goes, and all of it is one file of the person's."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.errors import InputError, VerveError
from verve.core.hunt import practice_session
from verve.core.kind import FrozenDict
from verve.core.learning import (
    KNOWN_DAYS,
    DayTimes,
    Grade,
    Progress,
    changed_day,
    due,
    known,
    learnt_of,
    offer_at,
    progress_from_json,
    progress_to_json,
    read_progress,
    reviewed,
    with_day,
    with_learnt,
    with_offered,
    with_threshold,
    write_progress,
)
from verve.core.session import (
    Brief,
    NamedSettings,
    Part,
    Pass,
    Session,
)

NOW = datetime(2026, 5, 4, 18, 0, tzinfo=UTC)


def after(grades: tuple[Grade, ...], key: str = "fault:fan", days: float = 1.0) -> Progress:
    """Practised once a day, with these grades."""
    progress, at = Progress(), NOW
    for grade in grades:
        progress = reviewed(progress, key, grade, at)
        at += timedelta(days=days)
    return progress


def next_s(progress: Progress, key: str = "fault:fan") -> float:
    card = progress.card(key)
    assert card is not None
    last = datetime.fromisoformat(card.last_review or "")
    return (datetime.fromisoformat(card.due) - last).total_seconds()


def test_what_was_missed_comes_back_sooner_than_what_was_known() -> None:
    waits = [next_s(after((grade,))) for grade in (1, 2, 3, 4)]
    assert waits == sorted(waits)
    assert waits[0] < waits[3]


def test_what_is_known_comes_back_later_and_later_and_goes() -> None:
    waits: list[float] = []
    grades: tuple[Grade, ...] = ()
    for _ in range(5):
        grades = (*grades, 3)
        waits.append(next_s(after(grades, days=20.0)))
    assert waits[1:] == sorted(waits[1:])
    often = after((4, 4, 4, 4, 4, 4), days=20.0)
    assert next_s(often) > KNOWN_DAYS * 86400
    later = NOW + timedelta(days=101)
    assert "fault:fan" in known(often, later)
    assert due(often, later) == ()
    assert "fault:fan" in due(often, NOW + timedelta(days=4000))


def test_one_miss_brings_it_back_though_it_was_known() -> None:
    progress = reviewed(after((4, 4, 4), days=20.0), "fault:fan", 1, NOW + timedelta(days=90))
    assert next_s(progress) < 86400
    assert known(progress, NOW + timedelta(days=90)) == frozenset()


def test_what_is_due_is_told_the_longest_overdue_first() -> None:
    progress = after((1,), "fault:fan")
    progress = reviewed(progress, "fault:window", 1, NOW + timedelta(hours=2))
    at = NOW + timedelta(days=2)
    assert due(progress, at) == ("fault:fan", "fault:window")
    assert due(progress, at, ("fault:window",)) == ("fault:window",)
    assert due(progress, NOW) == ()


grades = st.lists(st.sampled_from([1, 2, 3, 4]), min_size=1, max_size=8)


@given(grades, st.floats(0.01, 200.0))
def test_whatever_was_practised_is_kept_and_read_again(given: list[Grade], days: float) -> None:
    progress = after(tuple(given), days=days)
    progress = with_threshold(progress, "clip", NOW.isoformat(), 2.5)
    progress = with_day(
        progress, "A day", DayTimes(arrivals_h=FrozenDict({"Cellist": 11.5}), takes=4)
    )
    progress = with_offered(
        with_learnt(progress, "A day", {"between_takes": (31.0, 40.0)}), "double"
    )
    assert progress_from_json(progress_to_json(progress), "it") == progress
    card = progress.card("fault:fan")
    assert card is not None
    assert len(progress.reviews) == len(given)


def test_a_file_is_written_whole_and_read_again(tmp_path: Path) -> None:
    path = tmp_path / "there" / "practice.json"
    assert read_progress(path) == Progress()
    write_progress(path, after((3,)))
    assert read_progress(path) == after((3,))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "practice"),
        ('{"format": "verve-session", "version": 1}', "practice"),
        ('{"format": "verve-practice", "version": 9}', "newer"),
        ('{"format": "verve-practice", "version": 1, "surprise": 2}', "surprise"),
    ],
)
def test_something_else_is_refused_with_what_and_where(
    tmp_path: Path, text: str, says: str
) -> None:
    path = tmp_path / "practice.json"
    path.write_text(text)
    with pytest.raises(VerveError) as caught:
        read_progress(path)
    assert says in str(caught.value)
    assert "practice.json" in str(caught.value)


@pytest.mark.parametrize(
    "changes",
    [{"begin_h": 25.0}, {"end_h": 49.0}, {"takes": 0}, {"arrivals_h": FrozenDict({"A": 31.0})}],
)
def test_times_that_no_day_has_are_refused_by_name(changes: dict[str, object]) -> None:
    """What is kept has to be read again: it is checked before it is written."""
    with pytest.raises(InputError, match=next(iter(changes))):
        changed_day(DayTimes(), changes)


def test_a_day_may_go_on_past_midnight() -> None:
    assert changed_day(DayTimes(), {"end_h": 26.0}).end_h == 26.0
    assert changed_day(DayTimes(), {"begin_h": 20.0, "end_h": 2.0}).end_h == 26.0


def test_times_of_several_sessions_are_learnt_together_and_each_counts_once() -> None:
    progress = with_learnt(Progress(), "One: the first", {"between_takes": (30.0, 40.0)})
    progress = with_learnt(progress, "Two", {"between_takes": (50.0,), "change": (1.5,)})
    again = with_learnt(progress, "Two", {"between_takes": (50.0, 60.0)})
    assert learnt_of(progress) == {"between_takes": (30.0, 40.0, 50.0), "change": (1.5,)}
    assert learnt_of(again)["between_takes"] == (30.0, 40.0, 50.0, 60.0)


# ── what is offered once ──────────────────────────────────────────────────────────────────────────
def test_before_the_first_phantom_power_its_order_is_offered_once() -> None:
    session = demo_session()
    found = offer_at(assess(session), "power", Progress())
    assert found is not None
    assert (found.page, found.line) == ("order", "voice")
    assert "60 seconds" in found.says
    assert offer_at(assess(session), "power", with_offered(Progress(), found.key)) is None
    assert offer_at(assess(session), "stage", Progress()) is None
    # Once it is on there is nothing to be offered.
    assert offer_at(assess(practice_session(session)), "power", Progress()) is None


def test_before_the_first_scream_a_gain_is_offered() -> None:
    session = demo_session()
    usual = next(s for s in session.setup.sources if s.figures.player == "voice").figures.playing()
    loud = usual.model_copy(update={"hardest_db": usual.hardest_db + 15.0})
    settings = NamedSettings(id="loud", name="Loud", line="voice", settings=(), playing=loud)
    found = offer_at(
        assess(session.model_copy(update={"named_settings": (settings,)})), "stage", Progress()
    )
    assert found is not None
    assert (found.page, found.line) == ("hand", "voice")


def test_settings_called_a_scream_are_one_though_nobody_said_how_loud() -> None:
    settings = NamedSettings(id="b", name="Screaming", line="voice", settings=())
    session = demo_session().model_copy(update={"named_settings": (settings,)})
    found = offer_at(assess(session), "stage", Progress())
    assert found is not None
    quiet = settings.model_copy(update={"name": "Talking"})
    session = demo_session().model_copy(update={"named_settings": (quiet,)})
    assert offer_at(assess(session), "stage", Progress()) is None


def test_before_the_first_double_its_timing_is_offered() -> None:
    sound = demo_session().brief.parts[0].sound
    parts = (
        Part(id="lead", name="Lead", sound=sound),
        Part(id="double", name="Double", sound=sound, doubles="lead"),
    )
    passes = (
        Pass(id="one", name="One", parts=("lead",)),
        Pass(id="two", name="Two", parts=("double",), over=("one",)),
    )
    session = Session(brief=Brief(parts=parts, passes=passes))
    found = offer_at(assess(session), "takes", Progress())
    assert found is not None
    assert (found.page, found.drill) == ("ear", "double")
    assert offer_at(assess(demo_session()), "takes", Progress()) is None
