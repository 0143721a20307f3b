"""What is read from three metres while one records, and in a line right after it."""

from __future__ import annotations

import re

from verve.core.assess import Assessment
from verve.core.errors import InputError
from verve.core.mix import SILENT_DBFS, noise_over_db
from verve.core.session import Session, Take, TakeTrack
from verve.core.sheets._check import SignText
from verve.core.sheets._recordings import time_text
from verve.core.takes import Knob, Ready
from verve.core.words import listed


def song_time_text(seconds: float) -> str:
    """Where in the song: before it begins with a minus."""
    return time_text(seconds, 1) if seconds >= 0.0 else f"−{time_text(-seconds, 1)}"


def standing_sign(
    state: str,
    *,
    section: str,
    song_s: float | None,
    seconds: float,
    round_number: int,
    counts: int,
    marks: int,
) -> SignText:
    """What a recording shows just now: the beats that are counted in, then the time or the round."""
    where = "" if song_s is None else f"{section}, at {song_time_text(song_s)}"
    if state == "counting":
        return SignText(
            word="Count-in" if counts else "Lead-in",
            number=str(counts) if counts else "",
            says=where,
            shape="ring",
        )
    if state == "recording":
        marked = f" {marks} marked." if marks else ""
        loop = "A to begin anew, M to mark a good one, R to stop."
        return SignText(
            word=f"Round {round_number}" if round_number else "Recording",
            number=time_text(seconds, 0),
            says=f"{where}.{marked} {loop}",
            shape="ring",
        )
    return SignText(
        word="Ready",
        number="",
        says=f"{section}. R records, P plays the last take, K keeps what was just played.",
        shape="tick",
    )


def off_sign(section: str) -> SignText:
    """What is shown before anybody stands by."""
    return SignText(
        word="Record",
        number="",
        says=f"{section}. R records at once; meanwhile what is armed is listened to, and nothing played is lost.",
        shape="ring",
    )


def ready_sign(ready: Ready) -> SignText:
    """What stands in the way of the next take, the first of it large."""
    more = len(ready.items) - 1
    others = "" if not more else " And one more thing." if more == 1 else f" And {more} more."
    said = ready.items[0].words if ready.items else ""
    return SignText(
        word="First this", number="", says=f"{said}{others} R records as it is.", shape="ear"
    )


def knob_sign(knob: Knob) -> SignText:
    """The one knob that a hand has to turn, alone."""
    where, _, value = knob.words.rpartition(" to ")
    return SignText(
        word="Turn",
        number=value,
        says=f"{where}. Play; it is ready when the level is as it was. R goes on.",
        shape="up",
    )


def spans_text(spans: tuple[tuple[float, float], ...]) -> str:
    """From when to when, several times: "0:12–0:40, 1:02–1:30"."""
    return ", ".join(f"{time_text(a, 0)}–{time_text(b, 0)}" for a, b in spans)


def parsed_spans(said: str) -> tuple[tuple[float, float], ...]:
    """What somebody types of that, with any dash and any commas; nothing for nothing.

    raises: InputError naming the part that is none
    """
    found = []
    for part in (one.strip() for one in said.replace(";", ",").split(",")):
        if not part:
            continue
        ends = [one.strip() for one in _DASHES.split(part)]
        times = [_seconds(one) for one in ends]
        if len(times) != 2 or None in times or (times[0] or 0.0) >= (times[1] or 0.0):
            raise InputError("sung", "must be times such as 0:12–0:40, 1:02–1:30", part)
        found.append((float(times[0] or 0.0), float(times[1] or 0.0)))
    return tuple(sorted(found))


_DASHES = re.compile(r"\s*[-–—−]\s*|\s+to\s+")


def _seconds(said: str) -> float | None:
    """A time of a song: 1:02, 0:12.5, 75."""
    parts = said.split(":")
    if not 1 <= len(parts) <= 3 or any(not _NUMBER.fullmatch(one) for one in parts):
        return None
    total = 0.0
    for one in parts:
        total = 60.0 * total + float(one.replace(",", "."))
    return total


_NUMBER = re.compile(r"\d+(?:[.,]\d+)?")


def armed_text(ready: Ready) -> str:
    """What is recorded in the next take."""
    return f"Armed: {listed(ready.armed)}." if ready.armed else "Nothing is armed."


def verdict_text(take: Take, assessment: Assessment) -> str:
    """How a take was, as far as its levels tell, in a sentence; the worst first."""
    said = [sentence for track in take.tracks for sentence in _verdicts(track, assessment)]
    worst = sorted(said, key=lambda one: one[0])
    told = " ".join(sentence for _, sentence in worst[:3])
    return f"{take.name}: {told or 'clean, levels as planned.'}"


def _verdicts(track: TakeTrack, assessment: Assessment) -> list[tuple[int, str]]:
    found = []
    peak = track.peak_dbfs.measured
    if track.clipped_frames:
        found.append((0, f"{track.name} clipped, {track.clipped_frames} samples."))
    elif peak is None or peak < SILENT_DBFS:
        found.append((1, f"{track.name} is silent."))
    elif peak > _hottest_dbfs(track, assessment):
        found.append((2, f"{track.name} is too hot: {peak:.1f} dBFS.".replace("-", "−")))
    over_db = noise_over_db(track)
    if over_db is not None:
        found.append((3, f"{track.name} has {over_db:.0f} dB more noise than computed."))
    return found


def _hottest_dbfs(track: TakeTrack, assessment: Assessment) -> float:
    """The highest peak that the level target of a signal allows."""
    item = assessment.line(track.line)
    target = None if item is None else item.target
    return -1.0 if target is None else min(-0.5, target.highest_dbfs + 3.0)


def layer_name(session: Session, take: Take) -> str:
    """What the layer of a take is called; empty for one that belongs to none."""
    names = {one.id: one.name for one in session.brief.passes}
    return names.get(take.layer or "", "")
