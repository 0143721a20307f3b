"""Every way a signal could take through the kit, and what it would give here."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from verve.core import patch
from verve.core.connections import _words as words
from verve.core.connections._signals import Signal
from verve.core.connections._stock import (
    WEAK_MV_PER_PA,
    Box,
    InputGroup,
    Stock,
    channels_for,
    phantom_of,
)
from verve.core.engine import Engine
from verve.core.errors import CancelledError
from verve.core.gain import MARGIN_DB, Optimum, optimum
from verve.core.kind import (
    NOTHING_SET,
    CableFigures,
    ChannelSettings,
    Mode,
    PhantomNeed,
    phantom_channel,
)
from verve.core.network import LineState, devices_reached, is_alive, network_of
from verve.core.session import (
    Device,
    Line,
    Link,
    Session,
    Setup,
    Source,
)
from verve.core.stage import LEAST_SNR_DB
from verve.core.words import fill

Progress = Callable[[float], None]
_CHUNK = 96
_BALANCED = CableFigures(
    length_m=10.0,
    capacitance_f_per_m=1e-10,
    resistance_ohm_per_m=0.08,
    balanced=True,
    plugs=("xlr", "xlr"),
    origin="assumed",
)
_UNBALANCED = CableFigures(
    length_m=3.0,
    capacitance_f_per_m=1.1e-10,
    resistance_ohm_per_m=0.08,
    plugs=("jack_6", "jack_6"),
    origin="assumed",
)
"""What stands for a cable while ways are compared; the real one is picked afterwards."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Connection:
    """A signal through boxes into a kind of socket, in a mode; `power` is what 48 V does to it there."""

    signal: Signal
    boxes: tuple[Box, ...]
    inputs: InputGroup
    recorder: Box
    mode: Mode
    power: PhantomNeed
    current_ma: float

    @property
    def physics(self) -> tuple[object, ...]:
        """What its rating depends on besides the signal: equal for sockets that differ in name alone."""
        return (
            tuple(box.id for box in self.boxes),
            self.recorder.id,
            self.mode,
            self.inputs.physics(self.mode),
        )

    @property
    def words(self) -> str:
        """Boxes and kind of input: "Ribbon, Inline preamp → microphone input"."""
        names = ", ".join(box.name for box in self.boxes) or "straight"
        return fill(words.WAY, names=names, mode=self.mode, recorder=self.recorder.name)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rated:
    """A way with what it would give once its gain is set for the aim.

    unit: dB; `flaws` is how many findings it would leave to mend, `why` names them; `before_db` is the
    least room at any ceiling before the recorder, None where there is none
    """

    connection: Connection
    snr_db: float
    headroom_db: float
    flaws: int
    why: str
    before_db: float | None = None

    @property
    def quality_db(self) -> float:
        """Noise first, and a dB for each that is missing of the room to every ceiling."""
        return self.snr_db + min(0.0, self.headroom_db - MARGIN_DB)


def _microphone_ways(
    signal: Signal, stock: Stock, *, is_short: bool
) -> Iterator[tuple[tuple[Box, ...], Mode]]:
    wanted = signal.part.principle
    for box in stock.microphones:
        figures = box.figures
        capsule = figures.capsule(figures.input_ports()[0])
        if capsule is None or (wanted is not None and capsule.principle != wanted):
            continue
        yield (box,), "microphone"
        need = figures.phantom_need()
        if need != "needs" and capsule.sensitivity_mv_per_pa < WEAK_MV_PER_PA:
            for inline in stock.inlines:
                yield (box, inline), "microphone"
        for other in (*stock.preamps, *stock.mixers):
            ports = channels_for(other.figures, is_microphone=True)
            # Two lines of a mixer are kept apart there, so two of its channels take a microphone.
            if len(ports) < other.figures.lines_kept_apart():
                continue
            gives = other.figures.phantom_switch(ports[0]) is not None
            # Where every signal finds a microphone input with phantom power, these are no better way.
            if not is_short and (other.figures.mixes or need == "needs"):
                continue
            # What must not get phantom power stays away from a switch that others may need.
            if (need == "needs" and not gives) or (need == "never" and other.figures.mixes):
                continue
            yield (box, other), "line"


def _plug_ways(signal: Signal, stock: Stock) -> Iterator[tuple[tuple[Box, ...], Mode]]:
    for mode in signal.figures.direct_modes:
        yield (), mode
    for box in stock.boxes:
        yield (box,), "microphone"
    if "line" in signal.figures.direct_modes:
        for mixer in stock.mixers:
            yield (mixer,), "line"


def _power(boxes: Sequence[Box], mode: Mode) -> tuple[PhantomNeed, float]:
    """What the input's phantom power does to the first box it meets, and what that draws."""
    if mode != "microphone" or not boxes:
        return "tolerates", 0.0
    figures = boxes[-1].figures
    if figures.runs_without_phantom():
        need = figures.phantom_need()
        return ("tolerates" if need == "needs" else need), 0.0
    return figures.phantom_need(), figures.drawn_ma()


def is_short_of_inputs(stock: Stock, signals: int) -> bool:
    """Whether there are recorders, and none has a microphone input with phantom power for each of so many signals."""
    owned = {box.id for box in stock.recorders if box.count}
    found = dict.fromkeys(owned, 0)
    for inputs in stock.inputs:
        if inputs.recorder not in owned:
            continue
        if "microphone" in inputs.modes and inputs.has_phantom and not inputs.has_capsule:
            found[inputs.recorder] += len(inputs.names)
    return bool(owned) and max(found.values()) < signals


def connections_of(signal: Signal, stock: Stock, *, is_short: bool = False) -> Iterator[Connection]:
    """Every way that is not forbidden from the outset.

    Where `is_short` microphones also go through mixers, and condensers through preamps that give them power.
    """
    options = (
        _microphone_ways(signal, stock, is_short=is_short)
        if signal.is_air
        else _plug_ways(signal, stock)
    )
    recorders = {box.id: box for box in stock.recorders}
    for boxes, mode in options:
        power, current_ma = _power(boxes, mode)
        for inputs in stock.inputs:
            if mode not in inputs.modes or inputs.has_capsule:
                continue
            if power == "needs" and not inputs.has_phantom:
                continue
            yield Connection(
                signal=signal,
                boxes=boxes,
                inputs=inputs,
                recorder=recorders[inputs.recorder],
                mode=mode,
                power=power,
                current_ma=current_ma,
            )
    if signal.is_air and signal.part.principle in {None, "condenser"}:
        for inputs in stock.inputs:
            if inputs.has_capsule:
                yield Connection(
                    signal=signal,
                    boxes=(),
                    inputs=inputs,
                    recorder=recorders[inputs.recorder],
                    mode="microphone",
                    power="tolerates",
                    current_ma=0.0,
                )


def _devices(nth: int, connection: Connection) -> list[tuple[Device, str, str]]:
    """The devices of a way in order, each with the port it is entered and left by."""
    found: list[tuple[Device, str, str]] = []
    for place, box in enumerate(connection.boxes):
        figures = box.figures
        before = connection.boxes[:place]
        enter = channels_for(figures, is_microphone=bool(before) and connection.signal.is_air)[0]
        given = figures.settings_for(
            enter, distance_m=connection.signal.distance_m, use_battery=True
        )
        if figures.mixes:
            given = {"pan": -1.0}
        settings = {enter: ChannelSettings(**given)} if given else {}
        fed = phantom_of(box, enter, before)
        if fed is not None:
            settings[phantom_channel(fed)] = ChannelSettings(phantom=True)
        leave = figures.outputs_reached(enter, settings)[0]
        device = Device.model_construct(
            id=f"d{nth}_{place}",
            name=box.name,
            figures=figures,
            settings=settings,
            kit_item=None,
        )
        found.append((device, enter, leave))
    port = connection.inputs.port
    recorder_figures = connection.recorder.figures
    given = recorder_figures.settings_for(port, distance_m=connection.signal.distance_m)
    settings = {port: ChannelSettings(mode=connection.mode, **given)}
    switch = recorder_figures.phantom_switch(port)
    if connection.power == "needs" and switch is not None:
        settings[phantom_channel(switch)] = ChannelSettings(phantom=True)
    recorder = Device.model_construct(
        id=f"r{nth}",
        name=connection.recorder.name,
        figures=recorder_figures,
        settings=settings,
        kit_item=None,
    )
    return [*found, (recorder, port, "")]


def trial_setup(base: Setup, connections: Sequence[Connection]) -> Setup:
    """All ways side by side, each with boxes of its own: one assessment rates them together."""
    sources: list[Source] = []
    devices: list[Device] = []
    links: list[Link] = []
    lines: list[Line] = []
    for nth, connection in enumerate(connections):
        # Every field is given: what is left out would be copied deeply, thousands of times.
        source = Source.model_construct(
            id=f"s{nth}",
            name=connection.signal.name,
            performer=None,
            figures=connection.signal.figures,
            settings=NOTHING_SET,
            part=None,
        )
        sources.append(source)
        start, is_electric = f"s{nth}:out", not connection.signal.is_air
        is_balanced = False
        for place, (device, enter, leave) in enumerate(_devices(nth, connection)):
            devices.append(device)
            cable = None
            if is_electric:
                cable = _BALANCED if is_balanced else _UNBALANCED
            links.append(
                Link.model_construct(
                    id=f"l{nth}_{place}",
                    start=start,
                    end=f"{device.id}:{enter}",
                    cable=cable,
                    kit_item=None,
                )
            )
            start, is_electric = f"{device.id}:{leave}", True
            is_balanced = device.figures.output_plug() == "xlr"
        lines.append(
            Line.model_construct(
                id=f"w{nth}",
                name=connection.signal.name,
                first_link=f"l{nth}_0",
                colour=0,
                pair=None,
                is_fixed=False,
                level_target=None,
            )
        )
    return Setup.model_construct(
        room=base.room,
        performers=(),
        sources=tuple(sources),
        devices=tuple(devices),
        links=tuple(links),
        lines=tuple(lines),
        audio=base.audio,
        level_target=base.level_target,
        own_target_dbfs=base.own_target_dbfs,
    )


def rate(
    base: Setup,
    connections: Sequence[Connection],
    progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> list[Rated | None]:
    """What every way would give; None for one that stays silent, is harmed, or clips whatever is set.

    raises: CancelledError if it is no longer wanted
    """
    found: list[Rated | None] = []
    for start in range(0, len(connections), _CHUNK):
        if is_cancelled is not None and is_cancelled():
            raise CancelledError
        found += _rate_chunk(base, connections[start : start + _CHUNK])
        if progress is not None:
            progress(min(1.0, (start + _CHUNK) / len(connections)))
    return found


def _rate_chunk(base: Setup, connections: Sequence[Connection]) -> list[Rated | None]:
    """Ways side by side, the gains of all set by the one who sets gains."""
    session = Session.model_construct(setup=trial_setup(base, connections))
    engine = Engine()
    network = network_of(session.setup, engine)
    best = {one.line: one for one in optimum(session, engine=engine, network=network)}
    return [
        _rated(connection, state, best.get(state.line.id))
        for connection, state in zip(connections, network.lines, strict=True)
    ]


def _rated(connection: Connection, state: LineState, best: Optimum | None) -> Rated | None:
    """A way from its line and the best settings of its gains."""
    if best is None or not is_alive(state.route) or _is_harmed(connection, state):
        return None
    rooms = [limit.headroom_db for limit in best.limits]
    headroom = min([*rooms, -best.peak_dbfs])
    if headroom < 0.0:
        return None
    reasons = [
        f.brief
        for f in patch.findings([state])
        if f.severity == "mend" or f.rule in {"bass_thin", "noisy"}
    ]
    if not best.reaches_target:
        short_db = abs(best.target.target_dbfs - best.peak_dbfs)
        reasons.append(fill(words.SHORT_OF_AIM, short_db=short_db))
    snr = best.peak_dbfs - best.noise_dbfs_a
    typical = snr - state.below_hardest_db("typical")
    share = best.first_share if connection.signal.is_air else 0.0
    if typical < LEAST_SNR_DB and share < 0.5:
        reasons.append(words.HISSES)
    return Rated(
        connection=connection,
        snr_db=snr,
        headroom_db=headroom,
        flaws=len(reasons),
        why="; ".join(reasons),
        before_db=min(rooms) if rooms else None,
    )


def _is_harmed(connection: Connection, state: LineState) -> bool:
    is_on = connection.power == "needs"
    return is_on and any(fed.need == "never" for fed in devices_reached(state.route))
