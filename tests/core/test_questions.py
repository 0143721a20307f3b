"""No signal: whatever is broken, three answers from the stool find it in nine of ten cases."""

from __future__ import annotations

import pytest

from tests.big_session import big_session
from tests.conftest import follow
from verve.core.assess import Assessment, assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.causes import PRIOR
from verve.core.demo import demo_session
from verve.core.diagnosis import FOUND, Cause, causes_of, search
from verve.core.diagnosis._questions import _Asked, _questions
from verve.core.session import Session

THREE, NINE_OF_TEN = 3, 0.9


def asked_of(assessment: Assessment, line: str) -> dict[str, _Asked]:
    return {
        one.question.key: one for one in _questions(assessment, line, causes_of(assessment, line))
    }


def told(asked: dict[str, _Asked], cause: Cause) -> dict[str, bool]:
    """What somebody would answer everywhere, if this were the cause."""
    return {key: one.says(cause) > 0.5 for key, one in asked.items()}


def found_share(assessment: Assessment) -> float:
    """How often the true cause, or one that nothing tells apart from it, stands first after three answers."""
    total = found = 0.0
    for item in assessment.lines:
        line = item.line.id
        asked = asked_of(assessment, line)
        for true in causes_of(assessment, line):
            answers: dict[str, bool | None] = {}
            truth = told(asked, true)
            for _ in range(THREE):
                question = search(assessment, line, answers).question
                if question is None:
                    break
                answers[question.key] = truth[question.key]
            first = search(assessment, line, answers).ranked[0][0]
            weight = PRIOR[true.weight]
            total += weight
            found += weight * (told(asked, first) == truth)
    return found / total


def sessions() -> dict[str, Session]:
    """The demo as it ships and mended, many lines, and every chain of the catalogue in one."""
    chains = Session(title="All chains")
    for chain in catalogue().chains:
        chains = add_chain(chains, catalogue(), chain, chain.name)[0]
    return {
        "demo": demo_session(),
        "mended": follow(demo_session()),
        "many": big_session(8),
        "chains": chains,
    }


@pytest.mark.parametrize("name", ["demo", "mended", "many", "chains"])
def test_three_answers_find_it_in_nine_of_ten_cases(name: str) -> None:
    assert found_share(assess(sessions()[name])) >= NINE_OF_TEN


def test_the_first_question_is_what_one_sees_from_the_stool(mended: Session) -> None:
    found = search(assess(mended), "voice")
    assert found.question is not None
    assert found.question.key == "lamp"
    assert "lamp" in found.question.text
    assert sum(share for _, share in found.ranked) == pytest.approx(1.0)
    assert not found.is_found


def test_no_is_before_the_interface_and_yes_behind_it(mended: Session) -> None:
    assessment = assess(mended)
    before = search(assessment, "voice", {"lamp": False}).ranked[0][0]
    behind = search(assessment, "voice", {"lamp": True}).ranked[0][0]
    assert before.key in {"power", "cable", "gain", "turned"}
    assert behind.key in {"track", "armed", "device", "heard"}
    for question in ("lamp",):
        asked = search(assessment, "voice", {question: None}).question
        assert asked is not None
        assert asked.key != question, "who does not know is asked something else"


def test_what_the_session_itself_shows_is_found_with_the_fewest_answers(demo: Session) -> None:
    assessment = assess(demo)
    found = search(assessment, "voice", {"lamp": False, "power lamp": False})
    assert found.is_found
    assert found.ranked[0][1] >= FOUND
    assert "phantom" in found.ranked[0][0].title.lower()
    assert found.ranked[0][0].remedy is not None


def test_an_unknown_signal_is_asked_nothing(mended: Session) -> None:
    found = search(assess(mended), "nobody")
    assert found.ranked == ()
    assert found.question is None
    assert not found.is_found
