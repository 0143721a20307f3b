"""The response and the noise of a line as they are drawn: they agree with the physics."""

from __future__ import annotations

import math

import numpy as np
import pytest

from verve.core.assess import LineAssessment, assess
from verve.core.session import Change, Session, set_control, with_setup


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def test_a_piezo_in_a_line_input_has_its_bass_taken_away(demo: Session) -> None:
    response = line(demo, "cello_line").response()
    assert response is not None
    assert response.low_edge_hz is not None
    assert response.low_edge_hz > 500.0
    assert response.high_edge_hz is None
    assert "all the treble" in response.sentence()
    # By itself it has all of it: an EMF behind a capacitor, with nothing connected.
    assert np.allclose(response.open_db, 0.0, atol=1e-6)


def test_the_edge_of_a_piezo_is_where_its_corner_is(mended: Session) -> None:
    response = line(mended, "cello_line").response()
    assert response is not None
    # 1.2 nF with 0.33 nF of cable and 80 pF of input across 1 MΩ, against 1 kHz.
    corner_hz = 1.0 / (2.0 * math.pi * 1e6 * (1.2e-9 + 3 * 1.1e-10 + 8e-11))
    assert response.low_edge_hz is not None
    assert response.low_edge_hz == pytest.approx(corner_hz, rel=0.08)


def test_every_response_is_nothing_at_a_kilohertz(mended: Session) -> None:
    for item in assess(mended).lines:
        response = item.response()
        assert response is not None
        assert float(np.interp(1000.0, response.hz, response.whole_db)) == pytest.approx(
            0.0, abs=0.1
        )


def test_a_low_cut_and_a_foam_are_seen(mended: Session) -> None:
    def at(session: Session, hz: float) -> float:
        response = line(session, "harp_left").response()
        assert response is not None
        return float(np.interp(hz, response.hz, response.whole_db))

    cut = set_control(
        mended, Change(owner="interface", channel="in.2", name="high_pass", value=True)
    )
    assert at(cut, 40.0) < at(mended, 40.0) - 8.0
    foam = set_control(
        mended, Change(owner="harp_mic_left", channel="capsule", name="foam", value=True)
    )
    assert at(foam, 15_000.0) == pytest.approx(at(mended, 15_000.0) - 4.9, abs=0.5)


def test_origins_of_noise_add_up_to_all_of_it(mended: Session) -> None:
    for item in assess(mended).lines:
        parts = item.noise_parts()
        total = sum(10.0 ** (part.level_dbfs_a / 10.0) for part in parts)
        assert item.noise_dbfs_a is not None
        assert 10.0 * math.log10(total) == pytest.approx(item.noise_dbfs_a, abs=0.1)
        assert [part.share for part in parts] == sorted((p.share for p in parts), reverse=True)


def test_a_louder_room_is_more_of_the_noise(mended: Session) -> None:
    def share(session: Session) -> float:
        parts = {part.name: part.share for part in line(session, "voice").noise_parts()}
        return parts["Room"]

    room = mended.setup.room.model_copy(update={"noise_dba": 50.0})
    loud = mended.model_copy(update={"setup": mended.setup.model_copy(update={"room": room})})
    assert share(loud) > 0.95 > share(mended)


def test_a_line_that_cannot_be_computed_has_neither(mended: Session) -> None:
    links = tuple(
        link.model_copy(update={"end": "voice_mic:capsule"})
        if link.id == "baritone_cable"
        else link
        for link in mended.setup.links
        if link.id != "voice_air"
    )
    lines = tuple(x for x in mended.setup.lines if x.id == "baritone_line")
    session = with_setup(mended, links=links, lines=lines)
    item = line(session, "baritone_line")
    assert item.response() is None
    assert item.noise_parts() == ()
