"""The quickest search is the quickest: against every tree of tests there is, on small sets of causes."""

from __future__ import annotations

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.hunt import EXACT, Searcher, Trial, classes_of


def brute_force_s(priors: Sequence[float], trials: Sequence[Trial], left: frozenset[int]) -> float:
    """The least expected time by trying every test at every point: nothing kept, nothing left out."""
    rows = {tuple(one.outcomes[cause] for one in trials) for cause in left}
    if len(rows) == 1:
        return 0.0
    whole = sum(priors[one] for one in left)
    found = []
    for trial in trials:
        parts = {
            outcome: frozenset(one for one in left if trial.outcomes[one] == outcome)
            for outcome in {trial.outcomes[one] for one in left}
        }
        if len(parts) < 2:
            continue
        after = sum(
            sum(priors[one] for one in part) / whole * brute_force_s(priors, trials, part)
            for part in parts.values()
        )
        found.append(trial.seconds + after)
    return min(found)


@st.composite
def puzzles(draw: st.DrawFn) -> tuple[list[float], list[Trial]]:
    """A few causes, a few tests, each with what it shows for every cause."""
    causes = draw(st.integers(1, 6))
    count = draw(st.integers(1, 5))
    priors = draw(st.lists(st.floats(0.1, 8.0), min_size=causes, max_size=causes))
    trials = [
        Trial(
            key=str(number),
            seconds=draw(st.floats(1.0, 90.0)),
            outcomes=tuple(draw(st.lists(st.integers(0, 2), min_size=causes, max_size=causes))),
        )
        for number in range(count)
    ]
    return priors, trials


@given(puzzles())
def test_the_quickest_search_equals_trying_everything(
    puzzle: tuple[list[float], list[Trial]],
) -> None:
    priors, trials = puzzle
    everything = tuple(range(len(priors)))
    plan = Searcher(priors, trials).plan(everything)
    assert plan.is_exact
    assert plan.expected_s == pytest.approx(brute_force_s(priors, trials, frozenset(everything)))


@given(puzzles())
def test_its_path_ends_at_the_cause_or_at_what_no_test_tells_apart(
    puzzle: tuple[list[float], list[Trial]],
) -> None:
    priors, trials = puzzle
    searcher = Searcher(priors, trials)
    everything = tuple(range(len(priors)))
    alike = {one: set(group) for group in classes_of(trials, everything) for one in group}
    spent_s = 0.0
    for cause in everything:
        left = everything
        path = searcher.path(left, cause)
        for trial in path:
            left = searcher.after(left, trial, cause)
            spent_s += trial.seconds * priors[cause] / sum(priors)
        assert set(left) == alike[cause]
    assert spent_s == pytest.approx(searcher.plan(everything).expected_s)


def test_a_quick_look_comes_before_a_long_swap_that_tells_as_much() -> None:
    look = Trial(key="look", seconds=5.0, outcomes=(0, 1))
    swap = Trial(key="swap", seconds=60.0, outcomes=(0, 1))
    plan = Searcher((1.0, 1.0), (swap, look)).plan((0, 1))
    assert plan.trial is look
    assert plan.expected_s == 5.0


def test_what_is_usual_is_looked_at_first_where_all_takes_as_long() -> None:
    looks = [
        Trial(key=str(number), seconds=10.0, outcomes=tuple(int(n == number) for n in range(4)))
        for number in range(4)
    ]
    searcher = Searcher((1.0, 8.0, 2.0, 1.0), looks)
    assert searcher.path((0, 1, 2, 3), 0)[0].key == "1"
    # 10 s for the usual one, 20 s for the next, and the last two are told apart by one more look.
    assert searcher.plan((0, 1, 2, 3)).expected_s == pytest.approx(
        (8 * 10 + 2 * 20 + 1 * 30 + 1 * 30) / 12
    )


def test_causes_of_one_name_need_not_be_told_apart() -> None:
    trial = Trial(key="look", seconds=5.0, outcomes=(0, 1))
    assert Searcher((1.0, 1.0), (trial,), names=("gain", "gain")).plan((0, 1)).expected_s == 0.0


def test_with_very_many_causes_it_says_that_it_is_not_exact_and_still_finds_every_one() -> None:
    count = EXACT + 6
    looks = [
        Trial(key=str(n), seconds=5.0 + n, outcomes=tuple(int(c == n) for c in range(count)))
        for n in range(count)
    ]
    searcher = Searcher([1.0] * count, looks)
    everything = tuple(range(count))
    assert not searcher.plan(everything).is_exact
    for cause in everything:
        left = everything
        for trial in searcher.path(everything, cause):
            left = searcher.after(left, trial, cause)
        assert left == (cause,)
