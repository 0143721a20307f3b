"""What one can do to find a fault: looks, swaps, switches, with what each takes and what it shows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from verve.core.errors import EditError
from verve.core.hunt import _words as words
from verve.core.hunt._kinds import IN_ROOM, NOTES, PHONES, PREFERENCES, TRACK, TRACKS
from verve.core.hunt._world import Case, Signs, World, looked_at, sheet_at, signs_of
from verve.core.words import fill

LIVE, PAUSE, BACK = "live", "pause", "back"
SECONDS: Final = {
    LIVE: 5.0, PAUSE: 5.0, BACK: 15.0, TRACK: 5.0, TRACKS: 4.0, PREFERENCES: 20.0, PHONES: 5.0, NOTES: 20.0,
    IN_ROOM: 30.0, "source": 5.0, "device": 12.0, "recorder": 5.0, "cable": 15.0, "swap": 60.0, "battery": 60.0,
    "turn": 5.0,
    "laptop": 15.0, "strip": 90.0, "lift": 10.0, "quiet": 20.0, "loudspeakers": 5.0, "mute": 4.0,
}  # fmt: skip
"""What each takes, with the way there; typical."""
_LOOKS: Final = {
    TRACK: words.LOOK_TRACK, TRACKS: words.LOOK_TRACKS, PREFERENCES: words.LOOK_PREFERENCES,
    PHONES: words.LOOK_PHONES, NOTES: words.LOOK_NOTES, IN_ROOM: words.LOOK_ROOM,
}  # fmt: skip
_SWITCHES: Final = {
    "turn": words.TURN, "laptop": words.LAPTOP, "strip": words.STRIP, "lift": words.LIFT, "quiet": words.QUIET,
    "loudspeakers": words.TURN_DOWN, "mute": words.MUTE,
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Action:
    """Something one can do; `key` says what, with the place or cable it is done at."""

    key: str
    kind: Literal["listen", "look", "swap", "switch"]
    text: str
    seconds: float


def actions_of(case: Case) -> tuple[Action, ...]:
    """Everything that can be done about a signal, what is quick first within its kind."""
    route = case.state.route
    recorder = route.recorder
    assert recorder is not None
    found = [
        Action(key=PAUSE, kind="listen", text=words.PLAY_PAUSE, seconds=SECONDS[PAUSE]),
        Action(key=BACK, kind="listen", text=words.PLAY_BACK, seconds=SECONDS[BACK]),
    ]
    source = route.source
    if "unheard" not in signs_of(case.world(())).live:
        text = words.PLAY_LIVE
        found.insert(0, Action(key=LIVE, kind="listen", text=text, seconds=SECONDS[LIVE]))
    if looked_at(case.world(()), source.id):
        text = fill(words.LOOK_AT, device=source.name)
        found.append(Action(key=source.id, kind="look", text=text, seconds=SECONDS["source"]))
    for step in route.steps:
        seconds = SECONDS["recorder" if step.owner == recorder.owner else "device"]
        text = fill(words.LOOK_AT, device=step.name)
        if all(one.key != step.owner for one in found):
            found.append(Action(key=step.owner, kind="look", text=text, seconds=seconds))
    found += [
        Action(key=place, kind="look", text=text, seconds=SECONDS[place])
        for place, text in _LOOKS.items()
    ]
    for step in route.steps:
        if step.cable is None:
            continue
        for kind, key, said in (
            ("look", "cable", words.LOOK_CABLE),
            ("swap", "swap", words.SWAP_CABLE),
        ):
            found.append(
                Action(
                    key=f"{key}:{step.link.id}",
                    kind="look" if kind == "look" else "swap",
                    text=fill(said, device=step.name),
                    seconds=SECONDS[key],
                )
            )
        battery = step.controls.get("battery")
        if battery is not None and battery.value:
            text = fill(words.SWAP_BATTERY, device=step.name)
            key = f"battery:{step.owner}"
            found.append(Action(key=key, kind="swap", text=text, seconds=SECONDS["battery"]))
    found += [
        Action(key=key, kind="switch", text=text, seconds=SECONDS[key])
        for key, text in _SWITCHES.items()
        if _makes_sense(case, key)
    ]
    return tuple(found)


def _makes_sense(case: Case, key: str) -> bool:
    """A switch that could end something here; all that hum is offered together, so that none gives it away."""
    figures = case.state.route.source.figures
    if key in {"turn", "laptop", "strip", "lift"}:
        return not figures.is_acoustic
    if key in {"quiet", "loudspeakers"}:
        return figures.is_acoustic
    return True


def outcome(world: World, action: Action) -> tuple[object, ...]:
    """What an action shows, as far as it can be told apart; equal where nobody could tell it apart.

    raises: EditError where two of the faults exclude each other
    """
    if action.key == LIVE:
        return (signs_of(world).live,)
    if action.key == PAUSE:
        return (signs_of(world).pause,)
    if action.key == BACK:
        return (signs_of(world).back,)
    if action.kind == "look":
        return looked_at(world, action.key)
    before, after = signs_of(world), signs_of(world.without(action.key))
    return (after != before, after.listened if after != before else ())


def shown(world: World, action: Action) -> str:
    """The same in words."""
    if action.key == LIVE:
        return live_text(signs_of(world))
    if action.key == PAUSE:
        return pause_text(signs_of(world))
    if action.key == BACK:
        return back_text(signs_of(world))
    if action.kind == "look":
        sheet = sheet_at(world.case, action.key)
        rows = [
            fill(words.ROW_WITH_SHEET, row=row, said=said, sheet=sheet[row])
            if row in sheet
            else fill(words.ROW, row=row, said=said)
            for row, said in looked_at(world, action.key)
        ]
        return f"{'; '.join(rows)}."
    after = signs_of(world.without(action.key))
    if after == signs_of(world):
        return words.NO_DIFFERENCE
    return fill(words.NOW_IT_IS, meter=meter_text(after), live=live_text(after))


def is_possible(world: World) -> bool:
    """Whether its faults can be there together."""
    try:
        signs_of(world)
    except EditError:
        return False
    return True


def meter_text(signs: Signs) -> str:
    """What the meters show while one plays."""
    said = fill(words.METER[signs.meter], peak_dbfs=signs.meter_dbfs or 0.0)
    return f"{said} {words.MOVES}" if signs.moves else said


def live_text(signs: Signs) -> str:
    """What is heard while one plays."""
    return fill(words.LIVE, sounds=_sounds(signs.live))


def back_text(signs: Signs) -> str:
    """What the playback sounds like."""
    return fill(words.BACK, sounds=_sounds(signs.back))


def pause_text(signs: Signs) -> str:
    """What the meter shows in a pause."""
    return fill(words.PAUSE[signs.pause], noise_dbfs=signs.pause_dbfs or 0.0)


def _sounds(found: frozenset[str]) -> str:
    said = [text for key, text in words.SOUNDS.items() if key in found]
    return ", ".join(said) or words.AS_USUAL
