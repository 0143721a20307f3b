"""A microphone heard where it stands: who is asked for, and nobody else; the same loudness from spot to spot."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.demo import demo_session
from verve.core.errors import FileError, InputError
from verve.core.place import Key, brought, put, with_number
from verve.core.session import Placement, Session, Stand, place_source, set_placement
from verve.core.units import FloatArray
from verve.devices import SpotRequest, spot_sound, write_spot

VOICE = "voice_mic:capsule"


def rms_dbfs(sound: FloatArray) -> float:
    return 20.0 * float(np.log10(np.sqrt(2.0 * np.mean(sound**2))))


def test_everybody_is_the_wanted_one_and_the_others() -> None:
    session = demo_session()
    sounds = {
        whom: spot_sound(session, SpotRequest(microphone=VOICE, whom=whom))
        for whom in ("all", "wanted", "others")
    }
    assert {rate for _, rate in sounds.values()} == {48_000}
    assert all(rms_dbfs(sound) == pytest.approx(-23.0, abs=0.2) for sound, _ in sounds.values())
    everybody, wanted, others = (sounds[whom][0] for whom in ("all", "wanted", "others"))
    # The voice is 39 dB above the harp there: all of it is nearly the voice alone.
    assert np.corrcoef(everybody, wanted)[0, 1] > 0.99
    assert abs(np.corrcoef(wanted, others)[0, 1]) < 0.2


def test_two_spots_are_heard_equally_loud() -> None:
    near = spot_sound(demo_session(), SpotRequest(microphone=VOICE))[0]
    far = spot_sound(
        with_number(demo_session(), Key("microphone", VOICE), "distance_m", 2.0),
        SpotRequest(microphone=VOICE),
    )[0]
    assert rms_dbfs(near) == pytest.approx(rms_dbfs(far), abs=0.3)


def test_a_fan_is_heard_among_the_others() -> None:
    session, key = brought(set_placement(demo_session(), Placement()), "fan")
    session = put(session, key, 6.0, 4.0)
    loud = with_number(session, key, "level_dba", 90.0)
    sound, _ = spot_sound(loud, SpotRequest(microphone=VOICE, whom="others"))
    # It runs all the time: even where the harp rests.
    blocks = sound[4_800:].reshape(-1, 4_800) if len(sound[4_800:]) % 4_800 == 0 else None
    assert blocks is not None
    levels = 10.0 * np.log10(np.mean(blocks**2, axis=1))
    assert levels.max() - levels.min() < 6.0


def test_who_is_not_there_is_refused_in_words() -> None:
    with pytest.raises(InputError, match="stand in the room"):
        spot_sound(demo_session(), SpotRequest(microphone="nobody:capsule"))
    alone = alone_with_the_voice()
    with pytest.raises(InputError, match="nobody else"):
        spot_sound(alone, SpotRequest(microphone=VOICE, whom="others"))


def alone_with_the_voice() -> Session:
    session = place_source(demo_session(), "singer_voice", Stand(x_m=4.0, y_m=4.0))
    setup = session.setup
    kept = tuple(s for s in setup.sources if s.id != "harp")
    links = tuple(link for link in setup.links if not link.id.startswith("harp"))
    lines = tuple(line for line in setup.lines if line.pair != "harp")
    changed = setup.model_copy(update={"sources": kept, "links": links, "lines": lines})
    return session.model_copy(update={"setup": changed})


def test_it_is_written_whole_or_not_at_all(tmp_path: Path) -> None:
    path = write_spot(demo_session(), SpotRequest(microphone=VOICE), tmp_path / "spot.wav")
    sound, rate_hz = soundfile.read(path)
    assert (len(sound), rate_hz) == (6 * 48_000, 48_000)
    # What is a file is no folder.
    with pytest.raises((FileError, OSError)):
        write_spot(demo_session(), SpotRequest(microphone=VOICE), path / "spot.wav")
