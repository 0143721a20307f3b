"""The corridor's spans and the walk of the level: they add up to what the line computes."""

from __future__ import annotations

import re

import pytest

from verve.core.assess import assess
from verve.core.session import Session


def numbers(text: str) -> float:
    found = re.search(r"[+−-]?\d+(\.\d+)?", text)
    assert found is not None
    return float(found[0].replace("−", "-"))


@pytest.mark.parametrize(
    "line", ["voice", "harp_left", "baritone_line", "cello_line", "organ_l", "organ_r"]
)
def test_the_steps_of_the_walk_add_up_to_the_level_at_the_converter(
    mended: Session, line: str
) -> None:
    item = assess(mended).line(line)
    assert item is not None
    facts = {fact.label: fact for fact in item.why()}
    rows = item.why()
    at = next(i for i, fact in enumerate(rows) if fact.label == "At the converter")
    total = 0.0
    for fact in rows[:at]:
        value = numbers(fact.text)
        if fact.text.endswith("dB SPL"):
            # Sound and sensitivity together: dB SPL − 93.98 + dBV/Pa, then dBV to dBu.
            value += -93.979 + 2.218
        total += value
    assert total == pytest.approx(numbers(rows[at].text), abs=0.05 * (at + 1))
    full = numbers(facts["Full scale"].text)
    peak = numbers(facts["Highest peak"].text)
    assert numbers(rows[at].text) - full == pytest.approx(peak, abs=0.11)


def test_every_number_says_where_it_comes_from(mended: Session) -> None:
    for item in assess(mended).lines:
        for fact in (*item.why(), *item.noise()):
            assert fact.origin in {"typical", "computed", "set", "data_sheet"}
            assert fact.how, fact


def test_shares_of_the_noise_are_told_largest_first(mended: Session) -> None:
    item = assess(mended).line("harp_left")
    assert item is not None
    shares = [numbers(fact.text) for fact in item.noise()]
    assert shares == sorted(shares, reverse=True)
    assert sum(shares) == pytest.approx(100.0, abs=2.0)
    assert item.noise()[0].label == "Room"


def test_spans_are_one_for_each_stage_and_join(mended: Session) -> None:
    item = assess(mended).line("voice")
    assert item is not None
    assert [span.title for span in item.spans] == [
        "Moving coil, low output",
        "Inline preamp",
        "Input 1",
        "Converter",
    ]
    for before, after in zip(item.spans, item.spans[1:], strict=False):
        assert before.right.hardest_dbu is not None
        assert after.left.hardest_dbu is not None
        # Only a cable lies between.
        assert after.left.hardest_dbu == pytest.approx(before.right.hardest_dbu, abs=0.2)


def test_the_recorder_ends_the_corridor_at_full_scale(mended: Session) -> None:
    item = assess(mended).line("voice")
    assert item is not None
    last = item.spans[-1]
    assert last.full_scale_dbu == 12.0
    assert last.right.ceiling_dbu == 12.0
    assert last.right.floor_dbu == pytest.approx((item.noise_dbfs_a or 0.0) + 12.0)
    assert last.controls == ()


def test_headroom_in_the_picture_is_the_distance_to_the_wall(mended: Session) -> None:
    for item in assess(mended).lines:
        for span in item.spans:
            gaps = [
                edge.ceiling_dbu - edge.hardest_dbu
                for edge in (span.left, span.right)
                if edge.ceiling_dbu is not None and edge.hardest_dbu is not None
            ]
            if gaps and span.headroom_db is not None:
                assert min(gaps) == pytest.approx(span.headroom_db, abs=0.25)


def test_a_mixer_is_two_spans_and_its_trim_can_be_taken_hold_of(mended: Session) -> None:
    item = assess(mended).line("organ_l")
    assert item is not None
    titles = [span.title for span in item.spans]
    assert "Mixer 3" in titles
    assert "Mixer main" in titles
    channel = item.spans[titles.index("Mixer 3")]
    assert channel.gain is not None
    assert channel.gain.label == "Trim"
