"""A session of many lines, no two alike, made from the lines of the demo with other figures; and many takes."""

from __future__ import annotations

from verve.core.demo import demo_session
from verve.core.gear import InterfaceFigures, MicrophoneFigures
from verve.core.session import (
    Change,
    Device,
    Figure,
    Line,
    Link,
    Session,
    Snapshot,
    Source,
    Take,
    TakeTrack,
    add_parts,
    add_take,
    set_control,
)

_KINDS = ("voice", "baritone_line", "organ_l")


def _interface(session: Session, number: int) -> Device:
    pattern = next(d for d in session.setup.devices if d.id == "interface")
    assert isinstance(pattern.figures, InterfaceFigures)
    full_scale_dbu = 12.0 + 0.25 * number
    return Device(
        id=f"interface_{number}",
        name=f"Interface {number}",
        figures=pattern.figures.model_copy(update={"full_scale_dbu": full_scale_dbu}),
        settings=pattern.settings,
    )


def _longer(link: Link, number: int) -> Link:
    cable = link.cable
    if cable is None:
        return link
    return link.model_copy(
        update={"cable": cable.model_copy(update={"length_m": 2.0 + number / 7})}
    )


def big_session(lines: int) -> Session:
    """So many lines, eight to an interface, of six to eight stages each."""
    demo = demo_session()
    devices = {device.id: device for device in demo.setup.devices}
    sources = {source.id: source for source in demo.setup.sources}
    session = Session(
        title=f"{lines} signals",
        setup=demo.setup.model_copy(
            update={
                "lines": (),
                "links": (),
                "devices": (),
                "sources": (),
                "performers": (),
            }
        ),
    )
    for number in range(lines):
        if number % 8 == 0:
            session = add_parts(session, devices=(_interface(demo, number // 8),))
        session = _with_line(session, demo, number, devices, sources)
    return session


def _with_line(
    session: Session,
    demo: Session,
    number: int,
    devices: dict[str, Device],
    sources: dict[str, Source],
) -> Session:
    pattern = next(x for x in demo.setup.lines if x.id == _KINDS[number % len(_KINDS)])
    links = {link.id: link for link in demo.setup.links}
    link, chain = links[pattern.first_link], []
    while True:
        chain.append(link)
        owner, _, port = link.end.partition(":")
        if owner == "interface":
            break
        out = "main.left" if owner == "mixer" else "out"
        link = next(x for x in demo.setup.links if x.start == f"{owner}:{out}")
    suffix = f"_{number}"
    source = sources[chain[0].start.partition(":")[0]]
    own_source = source.model_copy(update={"id": source.id + suffix, "performer": None})
    own_devices, own_links = [], []
    for index, one in enumerate(chain):
        owner, _, port = one.end.partition(":")
        start_owner, _, start_port = one.start.partition(":")
        end = f"{owner}{suffix}:{port}"
        if owner == "interface":
            end = f"interface_{number // 8}:in.{number % 8 + 1}"
        else:
            device = devices[owner]
            figures = device.figures
            if isinstance(figures, MicrophoneFigures):
                figures = figures.model_copy(
                    update={"sensitivity_mv_per_pa": figures.sensitivity_mv_per_pa + number / 50}
                )
            own_devices.append(device.model_copy(update={"id": owner + suffix, "figures": figures}))
        own_links.append(
            _longer(one, number).model_copy(
                update={
                    "id": f"link_{number}_{index}",
                    "start": f"{start_owner}{suffix}:{start_port}",
                    "end": end,
                }
            )
        )
    line = Line(
        id=f"line_{number}",
        name=f"Signal {number + 1}",
        first_link=own_links[0].id,
        colour=number % 8,
    )
    return add_parts(
        session, sources=(own_source,), devices=own_devices, links=own_links, lines=(line,)
    )


def with_takes(session: Session, count: int, owner: str = "interface_0") -> Session:
    """The session with takes of all its lines, each made with one gain elsewhere."""
    made = session
    for number in range(1, count + 1):
        gain_db = 10.0 + number % 300 / 10.0
        change = Change(owner=owner, channel="in.1", name="gain_db", value=gain_db)
        made = set_control(made, change)
        tracks = tuple(
            TakeTrack(
                line=line.id,
                name=line.name,
                file=f"Take {number}/{line.id}.wav",
                peak_dbfs=Figure(measured=-8.0, predicted=-8.1),
                noise_dbfs_a=Figure(measured=-90.0, predicted=-90.2),
                clipped_frames=0,
            )
            for line in made.setup.lines
        )
        made = add_take(
            made,
            Take(
                id=f"take_{number}",
                name=f"Take {number}",
                recorded_at="2026-05-04T20:15:00+02:00",
                seconds=60.0,
                play="phrase",
                tracks=tracks,
                setup=Snapshot.of(made.setup),
            ),
        )
    return made
