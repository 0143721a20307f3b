"""Sessions as people may have left them, each made from its number alone."""

from __future__ import annotations

import random
from collections.abc import Callable

from verve.core.air import positions_of
from verve.core.catalogue import add_chain, between, catalogue, stand_ins
from verve.core.connections import recabled_beside
from verve.core.demo import demo_session
from verve.core.errors import EditError, InputError
from verve.core.kind import Control, ControlValue
from verve.core.place import brought, put
from verve.core.session import (
    Aim,
    Change,
    Device,
    Line,
    Link,
    Session,
    Source,
    Stand,
    add_parts,
    apply_changes,
    change_cue,
    controls_of,
    insert_device,
    listeners,
    move_input,
    place_microphone,
    place_source,
    replace_device,
    set_audio,
    take_out_device,
)
from verve.core.session import routes as routes_of

_CHAINS = 4
_TURNS = 6


def _owners(session: Session) -> list[str]:
    setup = session.setup
    return [*(source.id for source in setup.sources), *(device.id for device in setup.devices)]


def controls(session: Session) -> list[Control]:
    """Everything that can be set."""
    return [c for owner in _owners(session) for c in controls_of(session.setup, owner)]


def somewhere(control: Control, rng: random.Random) -> ControlValue:
    """A position a control may be in, its ends more often than chance."""
    if control.kind == "range":
        span = control.maximum - control.minimum
        where = rng.choice([0.0, 1.0, rng.random(), rng.random()])
        return control.clamped(control.minimum + where * span)
    if control.choices:
        return rng.choice(control.choices)
    return rng.random() < 0.5


def _turn(session: Session, rng: random.Random) -> Session:
    control = rng.choice(controls(session))
    change = Change(
        owner=control.owner,
        channel=control.channel,
        name=control.name,
        value=somewhere(control, rng),
    )
    return apply_changes(session, (change,))


def _put_in(session: Session, rng: random.Random) -> Session:
    cables = [link.id for link in session.setup.links if link.cable is not None]
    if not cables:
        return session
    box = rng.choice(between(catalogue(), ()))
    return insert_device(session, rng.choice(cables), box.figures, box.name, box.out_port)  # type: ignore[arg-type]


def _replace(session: Session, rng: random.Random) -> Session:
    device = rng.choice(session.setup.devices)
    other = rng.choice(stand_ins(catalogue(), (), device.figures))
    return replace_device(session, device.id, other.figures, other.name)  # type: ignore[arg-type]


def _take_out(session: Session, rng: random.Random) -> Session:
    return take_out_device(session, rng.choice(session.setup.devices).id)


def _one_side(session: Session, rng: random.Random) -> Session:
    """One side of a pair is not as the other: a pad, a fader, a distance, a volume."""
    sides = [route for route in routes_of(session.setup) if route.line.pair]
    if not sides:
        return session
    route = rng.choice(sides)
    owners = {route.source.id, *(step.owner for step in route.steps)} if route.has_source else set()
    own = [
        control
        for control in controls(session)
        if control.owner in owners
        and control.name in {"pad_db", "fader_db", "distance_m", "gain_db", "volume_position"}
    ]
    if not own:
        return session
    control = rng.choice(own)
    value = somewhere(control, rng)
    change = Change(owner=control.owner, channel=control.channel, name=control.name, value=value)
    return apply_changes(session, (change,))


def _mixer_line(session: Session, rng: random.Random) -> Session:
    """One or two microphones or outputs through a mixer into an interface."""
    entries = catalogue()
    number = len(session.setup.devices)
    mixer_key = rng.choice([k for k, d in entries.devices.items() if d.figures.mixes])
    recorder_key = rng.choice(["interface_two", "interface_four", "interface_eight"])
    mixer, recorder = entries.devices[mixer_key], entries.devices[recorder_key]
    devices = [
        Device(id=f"mixer_{number}", name=mixer.name, figures=mixer.figures),
        Device(id=f"recorder_{number}", name=recorder.name, figures=recorder.figures),
    ]
    cable, links, sources, lines = entries.cables["balanced_5"].figures, [], [], []
    for side in range(rng.choice([1, 2])):
        key, ports = f"{number}_{side}", mixer.figures.input_ports()
        if side >= len(ports):
            break
        is_sung = rng.random() < 0.7
        source = entries.sources["voice_singing" if is_sung else "keyboard_output"]
        sources.append(Source(id=f"source_{key}", name=f"Source {key}", figures=source.figures))
        start, first = f"source_{key}:out", f"cable_{key}"
        if is_sung:
            entry = entries.devices[rng.choice(["moving_coil", "condenser_large", "ribbon"])]
            devices.append(Device(id=f"mic_{key}", name=entry.name, figures=entry.figures))
            links.append(Link(id=first, start=start, end=f"mic_{key}:capsule"))
            start, first = f"mic_{key}:out", f"cable_{key}_b"
        links.append(Link(id=first, start=start, end=f"mixer_{number}:{ports[side]}", cable=cable))
        lines.append(
            Line(id=f"line_{key}", name=f"Line {key}", first_link=f"cable_{key}", pair=None)
        )
    for port, end in zip(
        mixer.figures.output_ports(), recorder.figures.input_ports(), strict=False
    ):
        links.append(
            Link(
                id=f"out_{number}_{port.replace('.', '_')}",
                start=f"mixer_{number}:{port}",
                end=f"recorder_{number}:{end}",
                cable=cable,
            )
        )
    return add_parts(
        session,
        sources=tuple(sources),
        devices=tuple(devices),
        links=tuple(links),
        lines=tuple(lines),
    )


def _move(session: Session, rng: random.Random) -> Session:
    route = rng.choice(routes_of(session.setup))
    if route.recorder is None:
        return session
    device = next(d for d in session.setup.devices if d.id == route.recorder.owner)
    port = rng.choice(device.figures.input_ports())
    return move_input(session, route.line.id, port, rng.choice(list(device.figures.modes(port))))


_DEEDS: tuple[tuple[Callable[[Session, random.Random], Session], int], ...] = (
    (_turn, 8),
    (_put_in, 2),
    (_replace, 2),
    (_take_out, 1),
    (_move, 2),
    (_one_side, 3),
)


def session_of(number: int) -> Session:
    """The session of a number: some whole chains or the demo, and some deeds of somebody in a hurry."""
    rng = random.Random(f"session {number}")
    session = Session()
    if rng.random() < 0.15:
        session = demo_session()
    elif rng.random() < 0.25:
        session = _mixer_line(session, rng)
    else:
        chains = catalogue().chains
        for _ in range(rng.randint(1, _CHAINS)):
            try:
                session, _line = add_chain(session, catalogue(), rng.choice(chains))
            except EditError:
                continue
    deeds, weights = [d for d, _ in _DEEDS], [w for _, w in _DEEDS]
    for _ in range(rng.randint(0, _TURNS)):
        try:
            after = rng.choices(deeds, weights)[0](session, rng)
            session = recabled_beside(after, session) if rng.random() < 0.7 else after
        except (EditError, InputError):
            # What the program refuses, nobody can have done.
            continue
    session = _placed(session, random.Random(f"places {number}"))
    return _listening(session, random.Random(f"cues {number}"))


def _listening(session: Session, rng: random.Random) -> Session:
    """Half of them have said what everybody hears, as people set it, and some left a buffer for mixing."""
    if rng.random() < 0.5:
        return session
    for who, _ in listeners(session.setup):
        ways = rng.choice(
            (("direct",), ("software",), ("direct", "software"), ("mixer", "software"), ())
        )
        cue = {
            "ways": ways, "worn": rng.choice(_WORN), "effects": rng.choice(("none", "heard", "printed")),
            "effect_frames": rng.choice((0, 0, 64, 2048)), "is_mono": rng.random() < 0.7,
            "headphones": rng.choice((None, "closed_32", "closed_250")),
            "drive_dbu": rng.choice((None, -30.0, 0.0)), "click_db": rng.choice((None, -6.0, 12.0)),
        }  # fmt: skip
        session = change_cue(session, who, cue)
    frames = rng.choice((32, 64, 256, 1024, 2048))
    return set_audio(session, session.setup.audio.model_copy(update={"buffer_frames": frames}))


_WORN = ("closed_headphones", "open_headphones", "in_ears", "loudspeaker", "nothing")


def _placed(session: Session, rng: random.Random) -> Session:
    """Four in ten have put everybody somewhere, near one another or not, and some have a wedge."""
    if rng.random() >= 0.4:
        return session
    room = positions_of(session.setup).room
    across, deep = rng.uniform(0.2, 1.0) * room.length_m, rng.uniform(0.2, 1.0) * room.width_m
    for source in positions_of(session.setup).sources:
        stand = Stand(
            x_m=rng.uniform(0.1, across), y_m=rng.uniform(0.1, deep), height_m=rng.uniform(0.5, 1.7),
            facing_deg=rng.uniform(0.0, 360.0),
        )  # fmt: skip
        session = place_source(session, source.id, stand)
    for mic in positions_of(session.setup).microphones:
        if rng.random() < 0.6:
            aim = Aim(bearing_deg=rng.uniform(-90.0, 90.0), turns_left=rng.random() < 0.5)
            session = place_microphone(session, mic.id, aim)
    if rng.random() < 0.2:
        session, key = brought(session, "wedge")
        session = put(session, key, rng.uniform(0.1, across), rng.uniform(0.1, deep))
    return session
