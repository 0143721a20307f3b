"""What would change a number most: each promise is what the changed session gives."""

from __future__ import annotations

import pytest

from verve.core.assess import assess
from verve.core.sensitivity import Influence, influences
from verve.core.session import Session, set_control


def of(session: Session, line_id: str, part: str) -> Influence:
    found = [i for i in influences(session, line_id) if part in i.words]
    assert found, [i.words for i in influences(session, line_id)]
    return found[0]


@pytest.mark.parametrize(
    "line_id", ["voice", "harp_left", "baritone_line", "cello_line", "organ_l"]
)
def test_every_influence_does_what_it_says(mended: Session, line_id: str) -> None:
    before = assess(mended).line(line_id)
    assert before is not None
    found = influences(mended, line_id)
    assert len(found) >= 3
    for influence in found:
        after = assess(set_control(mended, influence.change)).line(line_id)
        assert after is not None
        assert after.state.peak_dbfs is not None
        assert before.state.peak_dbfs is not None
        change_db = after.state.peak_dbfs - before.state.peak_dbfs
        assert influence.level_db == pytest.approx(change_db, abs=1e-9)
        now, then = before.state.levels, after.state.levels
        assert now is not None
        assert then is not None
        assert now.snr_db is not None
        assert then.snr_db is not None
        assert influence.snr_db == pytest.approx(then.snr_db - now.snr_db, abs=1e-6)


def test_they_come_with_the_greatest_change_first(mended: Session) -> None:
    sizes = [i.size_db for i in influences(mended, "voice")]
    assert sizes == sorted(sizes, reverse=True)


def test_a_gain_moves_level_and_noise_alike(mended: Session) -> None:
    gain = of(mended, "harp_left", "gain")
    assert abs(gain.level_db) == pytest.approx(6.0)
    assert gain.snr_db == pytest.approx(0.0, abs=0.05)


def test_going_closer_wins_over_the_noise(mended: Session) -> None:
    closer = of(mended, "voice", "distance 6 cm")
    assert closer.level_db > 4.0
    assert closer.noise_db == pytest.approx(0.0, abs=0.1)


def test_the_wrong_mode_is_seen_to_cost(mended: Session) -> None:
    line_mode = of(mended, "cello_line", "input mode line")
    assert line_mode.level_db < -15.0


def test_phantom_power_is_not_played_with(mended: Session) -> None:
    for line_id in ("voice", "harp_left"):
        assert not [i for i in influences(mended, line_id) if "phantom" in i.words]


def test_a_dead_or_unknown_line_has_none(demo: Session) -> None:
    assert influences(demo, "voice") == ()
    assert influences(demo, "nobody") == ()
