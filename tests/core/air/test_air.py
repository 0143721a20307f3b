"""Positions, hearing and the map: against single computations, symmetry, and the room by itself."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.acoustics import near_response_db, room_level
from verve.core.air import (
    Hearing,
    Positions,
    aim_at,
    ear_map,
    figures_of,
    hearing_of,
    of_furnishing,
    of_size,
    positions_of,
    reflections,
    size_of,
)
from verve.core.demo import demo_session
from verve.core.line import OCTAVE_CENTRES_HZ, PRESSURE_SHARE
from verve.core.place import Key, brought, moved, put, turned, with_number
from verve.core.session import (
    Aim,
    Placement,
    Room,
    Session,
    Stand,
    place_microphone,
    place_source,
    set_placement,
)

VOICE, LEFT, RIGHT = "voice_mic:capsule", "harp_mic_left:capsule", "harp_mic_right:capsule"


@pytest.fixture(scope="module")
def session() -> Session:
    first = place_source(
        demo_session(), "singer_voice", Stand(x_m=4.0, y_m=5.0, height_m=1.5, facing_deg=180.0)
    )
    return place_source(first, "harp", Stand(x_m=7.0, y_m=5.5, height_m=0.9, facing_deg=200.0))


def heard(session: Session) -> Hearing:
    return hearing_of(positions_of(session.setup))


# ── the room ──────────────────────────────────────────────────────────────────────────────────
def test_a_room_in_three_presses_is_the_room_pressed() -> None:
    room = of_furnishing(of_size(Room(volume_m3=900.0, reverberation_s=1.4), "small"), "soft")
    found = figures_of(room)
    assert size_of(room) == "small"
    assert (found.length_m, found.width_m) == (4.0, 3.0)
    assert not found.is_decay_known
    assert found.least_rt60_s < found.rt60_s < found.most_rt60_s
    bare = figures_of(of_furnishing(room, "bare"))
    assert bare.rt60_s > 3.0 * found.rt60_s


def test_whhereis_measured_goes_before_whhereis_guessed() -> None:
    found = figures_of(Room(volume_m3=900.0, reverberation_s=1.4, furnishing="soft"))
    assert found.volume_m3 == pytest.approx(900.0)
    assert (found.rt60_s, found.is_decay_known) == (1.4, True)
    assert found.length_m * found.width_m * found.height_m == pytest.approx(900.0)


@pytest.mark.parametrize(
    ("room", "wrong"),
    [
        (Room(reverberation_s=0.0), ("reverberation",)),
        (Room(reverberation_s=30.0), ("reverberation",)),
        (Room(length_m=0.2, width_m=4.0), ("lengths",)),
        (Room(volume_m3=0.01), ("volume",)),
        (Room(), ()),
    ],
)
def test_whherecannot_be_is_told_and_left_aside(room: Room, wrong: tuple[str, ...]) -> None:
    found = figures_of(room)
    assert found.wrong == wrong
    assert 0.05 <= found.rt60_s <= 12.0
    assert not found.is_size_known
    assert found.absorbing_m2 > 0.0


# ── where things stand ────────────────────────────────────────────────────────────────────────
def test_without_a_place_everything_stands_within_the_walls_and_apart() -> None:
    found = positions_of(set_placement(demo_session(), Placement()).setup)
    assert {one.id for one in found.sources} == {"singer_voice", "harp"}
    for here in [one.at for one in found.sources] + [one.at for one in found.microphones]:
        assert 0.0 < here.x_m < found.room.length_m
        assert 0.0 < here.y_m < found.room.width_m
    assert not any(one.is_given for one in found.sources)
    assert not any(one.is_given for one in found.microphones)
    first, second = found.sources
    assert math.dist((first.at.x_m, first.at.y_m), (second.at.x_m, second.at.y_m)) > 1.0


def test_a_microphone_stands_as_far_away_as_it_is_set(session: Session) -> None:
    hearing = heard(session)
    for number, mic in enumerate(hearing.positions.microphones):
        own = hearing.wanted[number][0]
        assert hearing.distance_m[number, own] == pytest.approx(mic.distance_m)
        assert hearing.angle_deg[number, own] == pytest.approx(mic.angle_deg, abs=1e-5)


@settings(max_examples=60)
@given(
    st.floats(0.1, 12.0), st.floats(0.1, 9.0), st.floats(0.0, 3.0),
    st.floats(-90.0, 90.0), st.floats(0.1, 9.9),
)  # fmt: skip
def test_a_place_about_a_source_is_found_again(
    x: float, y: float, bearing: float, rise: float, distance: float
) -> None:
    first = place_source(demo_session(), "harp", Stand(x_m=x, y_m=y, height_m=20.0))
    aim = Aim(bearing_deg=bearing * 50.0 - 70.0, rise_deg=rise)
    placed = place_microphone(first, LEFT, aim, distance_m=distance)
    positions = positions_of(placed.setup)
    mic, source = positions.microphone(LEFT), positions.source("harp")
    assert mic is not None
    assert source is not None
    again, far = aim_at(source, mic.at)
    assert far == pytest.approx(distance)
    assert again.rise_deg == pytest.approx(rise, abs=1e-4)
    if abs(rise) < 89.0:
        assert again.bearing_deg == pytest.approx(aim.bearing_deg, abs=1e-4)


# ── what is heard ─────────────────────────────────────────────────────────────────────────────
def test_every_octave_is_whhereit_would_be_by_itself(session: Session) -> None:
    """Each path from its own closed form: distance with size, directivity, pattern with proximity, room."""
    hearing = heard(session)
    room = hearing.positions.room
    for m, mic in enumerate(hearing.positions.microphones):
        assert mic.capsule.pattern is not None
        share = PRESSURE_SHARE[mic.capsule.pattern]
        for s, source in enumerate(hearing.positions.sources):
            figures = source.figures
            assert figures is not None
            bands = np.array(figures.octave_bands_db)
            rms_db = figures.peak_spl.typical_db - figures.crest_db
            at_1m = rms_db + 20.0 * math.log10(
                math.hypot(figures.reference_distance_m, figures.extent_m)
            )
            whole = 10.0 * math.log10(float((10.0 ** (bands / 10.0)).sum()))
            counted = math.hypot(hearing.distance_m[m, s], figures.extent_m)
            for octave, hz in enumerate(OCTAVE_CENTRES_HZ):
                sent = _share_of(figures.player, octave)
                aside = sent + (1.0 - sent) * math.cos(math.radians(hearing.off_axis_deg[m, s]))
                response = near_response_db(
                    share, hz=hz, distance_m=counted, angle_deg=hearing.angle_deg[m, s]
                )
                level = at_1m + bands[octave] - whole + mic.capsule.response_db[octave]
                expected = level + 20.0 * math.log10(abs(aside)) + (response or -60.0)
                expected -= 20.0 * math.log10(counted)
                found = 10.0 * math.log10(hearing.direct[m, s, octave])
                assert found == pytest.approx(max(expected, level - 60.0 - 90.0), abs=1e-6)
                q = 1.0 / (sent**2 + (1.0 - sent) ** 2 / 3.0)
                alone = room_level(
                    level_at_1m_db=level, distance_m=1.0, absorbing_m2=room.absorbing_m2,
                    directivity_q=q, pressure_share=share,
                )  # fmt: skip
                assert 10.0 * math.log10(hearing.room[m, s, octave]) == pytest.approx(
                    alone.reverberant_db, abs=1e-6
                )


def _share_of(player: str, octave: int) -> float:
    from verve.core.air._directivity import _SHARES

    return _SHARES[player][octave]


def test_half_as_far_is_louder_and_drier(session: Session) -> None:
    number = [one.id for one in positions_of(session.setup).microphones].index(LEFT)
    near = place_microphone(session, LEFT, Aim(), distance_m=1.0)
    far = place_microphone(session, LEFT, Aim(), distance_m=2.0)
    own = heard(near).wanted[number][0]
    one, other = heard(near).path(number, own), heard(far).path(number, own)
    assert one.direct_db is not None
    assert other.direct_db is not None
    assert 4.0 < one.direct_db - other.direct_db < 6.1
    assert one.room_db == pytest.approx(other.room_db)
    assert other.delay_ms == pytest.approx(2.0 * one.delay_ms)
    assert other.frames(48_000.0) == pytest.approx(2.0 / 343.0 * 48_000.0)


def test_a_mirror_image_hears_the_same(session: Session) -> None:
    """Everything on the other side of the room, turned the other way: the table is the same."""
    length = positions_of(session.setup).room.length_m
    mirrored = session
    for source in positions_of(session.setup).sources:
        stand = Stand(
            x_m=length - source.at.x_m, y_m=source.at.y_m, height_m=source.at.z_m,
            facing_deg=-source.facing_deg % 360.0,
        )  # fmt: skip
        mirrored = place_source(mirrored, source.id, stand)
    for mic in positions_of(session.setup).microphones:
        aim = Aim(bearing_deg=-mic.aim.bearing_deg, turns_left=not mic.aim.turns_left)
        mirrored = place_microphone(mirrored, mic.id, aim)
    assert heard(mirrored).bleed_db == pytest.approx(heard(session).bleed_db, nan_ok=True, abs=1e-9)


def test_a_null_turned_to_somebody_hears_the_room_alone(session: Session) -> None:
    hearing = heard(session)
    number = [one.id for one in hearing.positions.microphones].index(LEFT)
    angles = [
        heard(turned(session, Key("microphone", LEFT), degrees)).direct_below_db(number, 0)
        for degrees in range(-180, 180, 15)
    ]
    # A cardioid's null costs the other source 20 dB and more of its direct sound.
    assert max(angles) - min(angles) > 20.0


def test_whhereis_off_is_not_heard(session: Session) -> None:
    with_fan, key = brought(session, "fan")
    there = heard(with_fan)
    thing = next(n for n, one in enumerate(there.positions.sources) if one.id == key.id)
    assert np.isfinite(there.bleed_db[0, thing])
    off = with_fan.setup.placement.things[0].model_copy(update={"is_on": False})
    from verve.core.session import change_thing

    assert np.isinf(heard(change_thing(with_fan, off)).bleed_db[0, thing])


def test_an_a_weighted_level_is_whhereit_is_told_to_be(session: Session) -> None:
    from verve.core.air._directivity import band_powers
    from verve.core.units import a_weighting_power

    with_fan, _ = brought(session, "heater")
    source = positions_of(with_fan.setup).sources[-1]
    weighted = band_powers(source) @ a_weighting_power(np.array(OCTAVE_CENTRES_HZ))
    assert source.thing is not None
    assert 10.0 * math.log10(weighted) == pytest.approx(source.thing.level_dba)


# ── the map ───────────────────────────────────────────────────────────────────────────────────
def test_the_map_is_whherea_source_moved_there_would_give(session: Session) -> None:
    """A second player like the wanted one, put on points of the map and turned to the microphone."""
    number = 0
    hearing = heard(session)
    found = ear_map(hearing, number)
    mic = hearing.positions.microphones[number]
    for row, column in ((5, 5), (20, 40), (40, 12)):
        x, y = float(found.x_m[column]), float(found.y_m[row])
        facing = math.degrees(math.atan2(mic.at.x_m - x, mic.at.y_m - y)) % 360.0
        harp = next(s for s in session.setup.sources if s.id == "harp")
        singer = next(s for s in session.setup.sources if s.id == "singer_voice")
        twin = harp.model_copy(update={"figures": singer.figures})
        sources = tuple(twin if one.id == "harp" else one for one in session.setup.sources)
        changed = session.model_copy(
            update={"setup": session.setup.model_copy(update={"sources": sources})}
        )
        stand = Stand(x_m=x, y_m=y, height_m=1.5, facing_deg=facing)
        there = heard(place_source(changed, "harp", stand))
        assert -float(there.bleed_db[number, 1]) == pytest.approx(
            found.level_db[row, column], abs=0.05
        )


def test_lines_of_the_map_lie_where_it_has_their_level(session: Session) -> None:
    found = ear_map(heard(session), 1, (3.0, 2.0, 9.0, 8.0))
    lines = found.lines()
    assert len(lines) >= 3
    for level, curves in lines:
        for curve in curves:
            columns = np.interp(curve[:, 0], found.x_m, np.arange(len(found.x_m)))
            rows = np.interp(curve[:, 1], found.y_m, np.arange(len(found.y_m)))
            near = found.level_db[np.rint(rows).astype(int), np.rint(columns).astype(int)]
            assert np.median(np.abs(near - level)) < 1.0


# ── moved by hand ─────────────────────────────────────────────────────────────────────────────
def at(session: Session, key: Key) -> tuple[float, float]:
    positions: Positions = positions_of(session.setup)
    one = positions.microphone(key.id) if key.kind == "microphone" else positions.source(key.id)
    assert one is not None
    return one.at.x_m, one.at.y_m


@settings(max_examples=60)
@given(
    st.sampled_from([Key("source", "harp"), Key("microphone", LEFT), Key("microphone", VOICE)]),
    st.floats(-30.0, 30.0), st.floats(-30.0, 30.0),
)  # fmt: skip
def test_nothing_is_put_outside_the_walls(key: Key, x: float, y: float) -> None:
    found = put(demo_session(), key, x, y)
    room = positions_of(found.setup).room
    if key.kind == "source":
        here = at(found, key)
        assert 0.0 <= here[0] <= room.length_m
        assert 0.0 <= here[1] <= room.width_m
    mic = positions_of(found.setup).microphone(key.id)
    assert mic is None or 0.02 <= mic.distance_m <= 10.0


def test_a_step_to_the_right_is_undone_by_one_to_the_left(session: Session) -> None:
    for key in (Key("source", "harp"), Key("microphone", LEFT)):
        there = moved(session, key, 0.1, 0.0)
        assert at(there, key)[0] == pytest.approx(at(session, key)[0] + 0.1)
        back = moved(there, key, -0.1, 0.0)
        assert at(back, key) == pytest.approx(at(session, key))


def test_a_player_takes_the_microphones_along(session: Session) -> None:
    there = moved(session, Key("source", "harp"), -0.5, 0.2)
    for mic in (LEFT, RIGHT):
        key = Key("microphone", mic)
        assert at(there, key)[0] == pytest.approx(at(session, key)[0] - 0.5)
        assert at(there, key)[1] == pytest.approx(at(session, key)[1] + 0.2)


def test_turning_all_around_ends_where_it_began(session: Session) -> None:
    for key in (Key("microphone", LEFT), Key("source", "harp")):
        there = session
        for _ in range(24):
            there = turned(there, key, 15.0)
        assert heard(there).bleed_db == pytest.approx(
            heard(session).bleed_db, nan_ok=True, abs=1e-6
        )


def test_a_figure_thherecannot_be_is_refused_and_changes_nothing(session: Session) -> None:
    from verve.core.errors import EditError

    for key, name, value in (
        (Key("source", "harp"), "x_m", 99.0),
        (Key("source", "harp"), "height_m", -1.0),
        (Key("microphone", LEFT), "distance_m", 0.0),
        (Key("microphone", LEFT), "x_m", 1.0),
        (Key("source", "nobody"), "x_m", 1.0),
    ):
        with pytest.raises(EditError):
            with_number(session, key, name, value)  # type: ignore[arg-type]
    there = with_number(session, Key("microphone", LEFT), "turn_deg", -40.0)
    mic = positions_of(there.setup).microphone(LEFT)
    assert mic is not None
    assert (mic.angle_deg, mic.aim.turns_left) == (40.0, True)


# ── reflections ───────────────────────────────────────────────────────────────────────────────
def test_a_desk_under_a_mouth_makes_the_ripple_of_its_mirror_image() -> None:
    """Mouth and microphone 30 cm over a desk, 15 cm apart: 12 dB down, 1.4 ms late, a dip at 370 Hz, 4.3 dB."""
    first = place_source(
        demo_session(), "singer_voice", Stand(x_m=6.0, y_m=4.8, height_m=1.05, facing_deg=180.0)
    )
    first = place_microphone(first, VOICE, Aim(), distance_m=0.15)
    with_desk, key = brought(first, "desk")
    omni = next(d for d in with_desk.setup.devices if d.id == "voice_mic")
    figures = omni.figures.model_copy(update={"pattern": "omni"})
    devices = tuple(
        d.model_copy(update={"figures": figures}) if d.id == "voice_mic" else d
        for d in with_desk.setup.devices
    )
    session = with_desk.model_copy(
        update={"setup": with_desk.setup.model_copy(update={"devices": devices})}
    )
    found = next(one for one in reflections(heard(session), 0, 0, "bare") if one.surface == key.id)
    assert found.extra_m == pytest.approx(math.hypot(0.15, 0.6) - 0.15)
    assert found.sum.delay_ms == pytest.approx(1.365, abs=0.01)
    assert found.sum.first_null_hz == pytest.approx(366.0, abs=2.0)
    # The voice sends a little less down than forwards, and the desk takes a twentieth.
    assert found.level_db == pytest.approx(-12.3, abs=2.0)
    assert found.sum.ripple_db == pytest.approx(4.3, abs=1.0)


@settings(max_examples=40)
@given(st.floats(0.5, 11.5), st.floats(0.5, 9.0), st.floats(0.3, 3.0), st.floats(0.1, 2.0))
def test_a_reflection_is_later_and_no_louder_than_an_open_pattern_allows(
    x: float, y: float, height: float, distance: float
) -> None:
    session = place_source(demo_session(), "harp", Stand(x_m=x, y_m=y, height_m=height))
    session = place_microphone(session, LEFT, Aim(), distance_m=distance)
    hearing = heard(session)
    for one in reflections(hearing, 1, 1, None):
        assert one.extra_m >= 0.0
        assert one.level_db <= 0.1
        assert 0.0 <= one.sum.delay_ms <= 20.0


def test_a_voice_sends_less_behind_as_it_is_said() -> None:
    """5 dB at 1 kHz and 14 at 4 kHz, as the typical figures are told."""
    for octave, below_db in ((5, 5.0), (7, 14.0)):
        behind = abs(2.0 * _share_of("voice", octave) - 1.0)
        assert 20.0 * math.log10(behind) == pytest.approx(-below_db, abs=0.3)
