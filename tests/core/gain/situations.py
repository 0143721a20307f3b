"""Twelve typical situations, each as a session of one line, and what the solver says of it."""

from __future__ import annotations

from dataclasses import dataclass

from tests.core.connections.builders import ENTRIES
from verve.core.catalogue import Chain, ChainLine, add_chain
from verve.core.certificates import Certificate, certificates
from verve.core.kind import Mode
from verve.core.session import Change, Device, Session, add_parts, set_control, set_room


@dataclass(frozen=True, slots=True, kw_only=True)
class Situation:
    """A source through boxes into a kind of input, in a room."""

    name: str
    source: str
    boxes: tuple[str, ...] = ()
    mode: Mode = "microphone"
    interface: str = "interface_eight"
    distance_m: float | None = None
    room_dba: float = 30.0


SITUATIONS = (
    Situation(
        name="Quiet voice, low-output microphone",
        source="voice_whispered",
        boxes=("moving_coil_low",),
        distance_m=0.1,
    ),
    Situation(
        name="The same with an inline preamp",
        source="voice_whispered",
        boxes=("moving_coil_low", "inline_preamp"),
        distance_m=0.1,
    ),
    Situation(
        name="Singing voice, condenser, quiet room",
        source="voice_singing",
        boxes=("condenser_large",),
        distance_m=0.2,
        room_dba=22.0,
    ),
    Situation(
        name="Singing voice, condenser, noisy room",
        source="voice_singing",
        boxes=("condenser_large",),
        distance_m=0.2,
        room_dba=48.0,
    ),
    Situation(
        name="Loud drum, condenser",
        source="snare_drum",
        boxes=("condenser_large",),
        distance_m=0.1,
    ),
    Situation(
        name="Loud drum, moving coil",
        source="snare_drum",
        boxes=("moving_coil_instrument",),
        distance_m=0.1,
    ),
    Situation(name="Pickup, instrument input", source="single_coil", mode="instrument"),
    Situation(name="Pickup, line input", source="single_coil", mode="line"),
    Situation(name="Pickup, passive DI box", source="single_coil", boxes=("passive_di",)),
    Situation(name="Hot synthesiser, line input", source="modular_hot", mode="line"),
    Situation(name="Hot synthesiser, DI box", source="modular_hot", boxes=("active_di",)),
    Situation(
        name="Voice, old and noisy interface",
        source="voice_singing",
        boxes=("moving_coil",),
        distance_m=0.1,
        interface="interface_old",
    ),
)


def session_of(situation: Situation) -> Session:
    """The situation as a session, every gain at its lowest, powered where it must be."""
    entry = ENTRIES.devices[situation.interface]
    session = add_parts(
        Session(), devices=(Device(id="io", name="Interface", figures=entry.figures),)
    )
    is_air = ENTRIES.sources[situation.source].figures.kind == "acoustic"
    cables = ("balanced_5",) * (len(situation.boxes) - is_air + 1)
    if not is_air:
        cables = ("instrument_6", *cables[1:])
    part = ChainLine(
        suffix="",
        source=situation.source,
        devices=situation.boxes,
        cables=cables,
        mode=situation.mode,
    )
    chain = Chain(
        id="x",
        name="x",
        line_name="Line",
        says="x",
        distance_m=situation.distance_m,
        lines=(part,),
    )
    session, _ = add_chain(session, ENTRIES, chain)
    room = session.setup.room.model_copy(update={"noise_dba": situation.room_dba})
    session = set_room(session, room)
    for link in session.setup.links:
        if link.end.startswith("io:"):
            port = link.end.removeprefix("io:")
            switch = entry.figures.phantom_switch(port)
            if switch is not None:
                channel = f"phantom.{switch}"
                change = Change(owner="io", channel=channel, name="phantom", value=True)
                session = set_control(session, change)
    return session


def solved(situation: Situation) -> Certificate:
    """What the solver says of a situation."""
    (found,) = certificates(session_of(situation))
    return found


def row(situation: Situation) -> str:
    """One row of the table in the docs."""
    one = solved(situation)
    best = one.best
    peak = f"{best.peak_dbfs:.0f}".replace("-", "−")
    noise = f"{best.noise_dbfs_a:.0f}".replace("-", "−")
    reached = "yes" if best.reaches_target else "no"
    first = one.improvements[0].sentence(is_reached=best.reaches_target) if one.improvements else ""
    words = "; ".join(best.words) or "as it is"
    why = one.noise if best.reaches_target else one.why_not_louder
    return (
        f"| {situation.name} | {words} | {peak} | {noise} | {reached} | {why} {first}".rstrip()
        + " |"
    )


HEAD = (
    "| Situation | What is set | Peak dBFS | Noise dBFS A | Target reached | Why, and the best way on |\n"
    "|---|---|---|---|---|---|"
)


def table() -> str:
    """The whole table."""
    return "\n".join((HEAD, *(row(situation) for situation in SITUATIONS))) + "\n"


__all__ = ["SITUATIONS", "session_of", "solved", "table"]


def page() -> str:
    """The page in docs/."""
    return (
        "# Twelve situations, and what the solver says\n\n"
        "Typical figures of the catalogue, the target “highest peak below −6” (aim −8), every gain at its\n"
        "lowest before. The table is written by `python -m tests.core.gain.situations`; a test holds it\n"
        "against what the solver says today, and the levels against a full assessment.\n\n"
        + table()
    )


if __name__ == "__main__":
    from pathlib import Path

    path = Path(__file__).resolve().parents[3] / "docs" / "situations.md"
    path.write_text(page(), encoding="utf-8")
