"""Every way a signal could take through the kit, and what it would give here."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from verve.core import patch, stage
from verve.core.chain import LineState, devices_reached, is_alive, line_states
from verve.core.errors import CancelledError
from verve.core.session import (
    NOTHING_SET,
    ActiveDiFigures,
    CableFigures,
    ChannelSettings,
    Device,
    DeviceFigures,
    Line,
    LineOutputFigures,
    Link,
    MicrophoneFigures,
    MixerFigures,
    Mode,
    PhantomNeed,
    PreampFigures,
    Session,
    Setup,
    Source,
    apply_changes,
    phantom_channel,
    routes,
)
from verve.core.units import power_to_db
from verve.core.way._signals import Signal
from verve.core.way._stock import WEAK_MV_PER_PA, Box, Sockets, Stock

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
class Way:
    """A signal through boxes into a kind of socket, in a mode; `power` is what 48 V does to it there."""

    signal: Signal
    boxes: tuple[Box, ...]
    sockets: Sockets
    recorder: Box
    mode: Mode
    power: PhantomNeed
    current_ma: float

    @property
    def physics(self) -> tuple[object, ...]:
        """What its rating depends on besides the signal: equal for sockets that differ in name alone."""
        socket = self.sockets.figures
        return (
            tuple(box.id for box in self.boxes),
            self.recorder.id,
            self.mode,
            id(socket.capsule) if socket.capsule is not None else None,
            repr(socket.modes[self.mode]),
            socket.pads_db,
            socket.high_pass_hz,
            socket.phantom_switch is not None,
        )

    @property
    def words(self) -> str:
        """Boxes and kind of input: "Ribbon, Inline preamp → microphone input"."""
        names = ", ".join(box.name for box in self.boxes) or "straight"
        return f"{names} → {self.mode} input of {self.recorder.name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rated:
    """A way with what it would give once its gain is set for the aim.

    unit: dB; `flaws` is how many findings it would leave to mend, `why` names them; `before_db` is the
    least room at any ceiling before the recorder, None where there is none
    """

    way: Way
    snr_db: float
    headroom_db: float
    flaws: int
    why: str
    before_db: float | None = None

    @property
    def quality_db(self) -> float:
        """Noise first, and a dB for each that is missing of the room to every ceiling."""
        return self.snr_db + min(0.0, self.headroom_db - stage.MARGIN_DB)


def _microphone_ways(signal: Signal, stock: Stock) -> Iterator[tuple[tuple[Box, ...], Mode]]:
    wanted = signal.part.principle
    for box in stock.microphones:
        figures = box.figures
        assert isinstance(figures, MicrophoneFigures)
        if wanted is not None and figures.principle != wanted:
            continue
        yield (box,), "microphone"
        if figures.phantom != "needs":
            if figures.sensitivity_mv_per_pa < WEAK_MV_PER_PA:
                for inline in stock.inlines:
                    yield (box, inline), "microphone"
            for preamp in stock.preamps:
                yield (box, preamp), "line"


def _plug_ways(signal: Signal, stock: Stock) -> Iterator[tuple[tuple[Box, ...], Mode]]:
    is_line = isinstance(signal.figures, LineOutputFigures)
    yield (), "line" if is_line else "instrument"
    if is_line:
        yield (), "instrument"
    for box in stock.boxes:
        yield (box,), "microphone"
    if is_line:
        for mixer in stock.mixers:
            yield (mixer,), "line"


def _power(boxes: Sequence[Box], mode: Mode) -> tuple[PhantomNeed, float]:
    """What the input's phantom power does to the first box it meets, and what that draws."""
    if mode != "microphone" or not boxes:
        return "tolerates", 0.0
    figures = boxes[-1].figures
    if isinstance(figures, ActiveDiFigures) and figures.has_battery:
        return "tolerates", 0.0
    if isinstance(figures, MicrophoneFigures | ActiveDiFigures | PreampFigures):
        drawn = figures.phantom_current_ma if figures.phantom == "needs" else 0.0
        return figures.phantom, drawn
    return "tolerates", 0.0


def ways_of(signal: Signal, stock: Stock) -> Iterator[Way]:
    """Every way that is not forbidden from the outset."""
    options = _microphone_ways(signal, stock) if signal.is_air else _plug_ways(signal, stock)
    recorders = {box.id: box for box in stock.recorders}
    for boxes, mode in options:
        power, current_ma = _power(boxes, mode)
        for sockets in stock.sockets:
            figures = sockets.figures
            if mode not in figures.modes or figures.capsule is not None:
                continue
            if power == "needs" and figures.phantom_switch is None:
                continue
            yield Way(
                signal=signal,
                boxes=boxes,
                sockets=sockets,
                recorder=recorders[sockets.recorder],
                mode=mode,
                power=power,
                current_ma=current_ma,
            )
    if signal.is_air and signal.part.principle in {None, "condenser"}:
        for sockets in stock.sockets:
            if sockets.figures.capsule is not None:
                yield Way(
                    signal=signal,
                    boxes=(),
                    sockets=sockets,
                    recorder=recorders[sockets.recorder],
                    mode="microphone",
                    power="tolerates",
                    current_ma=0.0,
                )


def _devices(number: int, way: Way) -> list[tuple[Device, str, str]]:
    """The devices of a way in order, each with the port it is entered and left by."""
    found: list[tuple[Device, str, str]] = []
    for place, box in enumerate(way.boxes):
        figures: DeviceFigures = box.figures
        settings: dict[str, ChannelSettings] = {}
        enter, leave = "in", "out"
        if isinstance(figures, MicrophoneFigures):
            enter = "capsule"
            settings[enter] = ChannelSettings(distance_m=way.signal.distance_m)
        elif isinstance(figures, MixerFigures):
            first = figures.channels[0].name
            enter, leave = f"in.{first}", "main.left"
            if figures.direct_outs:
                leave = f"direct.{first}"
            settings[enter] = ChannelSettings(pan=-1.0)
        elif isinstance(figures, ActiveDiFigures) and figures.has_battery:
            settings["in"] = ChannelSettings(battery=True)
        device = Device.model_construct(
            id=f"d{number}_{place}",
            name=box.name,
            figures=figures,
            settings=settings,
            kit_item=None,
        )
        found.append((device, enter, leave))
    socket = way.sockets.figures
    port = f"in.{socket.name}"
    settings = {port: ChannelSettings(mode=way.mode)}
    if socket.capsule is not None:
        settings[port] = ChannelSettings(mode=way.mode, distance_m=way.signal.distance_m)
    if way.power == "needs" and socket.phantom_switch is not None:
        settings[phantom_channel(socket.phantom_switch)] = ChannelSettings(phantom=True)
    recorder = Device.model_construct(
        id=f"r{number}",
        name=way.recorder.name,
        figures=way.recorder.figures,
        settings=settings,
        kit_item=None,
    )
    return [*found, (recorder, port, "")]


def trial_setup(base: Setup, ways: Sequence[Way]) -> Setup:
    """All ways side by side, each with boxes of its own: one assessment rates them together."""
    sources: list[Source] = []
    devices: list[Device] = []
    links: list[Link] = []
    lines: list[Line] = []
    for number, way in enumerate(ways):
        # Every field is given: what is left out would be copied deeply, thousands of times.
        source = Source.model_construct(
            id=f"s{number}",
            name=way.signal.name,
            performer=None,
            figures=way.signal.figures,
            settings=NOTHING_SET,
            part=None,
        )
        sources.append(source)
        start, is_electric = f"s{number}:out", not way.signal.is_air
        is_balanced = False
        for place, (device, enter, leave) in enumerate(_devices(number, way)):
            devices.append(device)
            cable = None
            if is_electric:
                cable = _BALANCED if is_balanced else _UNBALANCED
            links.append(
                Link.model_construct(
                    id=f"l{number}_{place}",
                    start=start,
                    end=f"{device.id}:{enter}",
                    cable=cable,
                    kit_item=None,
                )
            )
            start, is_electric = f"{device.id}:{leave}", True
            is_balanced = not isinstance(device.figures, MixerFigures)
        lines.append(
            Line.model_construct(
                id=f"w{number}",
                name=way.signal.name,
                first_link=f"l{number}_0",
                colour=0,
                pair=None,
                is_fixed=False,
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
        school=base.school,
    )


def rate(
    base: Setup,
    ways: Sequence[Way],
    progress: Progress | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> list[Rated | None]:
    """What every way would give; None for one that stays silent, is harmed, or clips whatever is set.

    raises: CancelledError if it is no longer wanted
    """
    found: list[Rated | None] = []
    for start in range(0, len(ways), _CHUNK):
        if is_cancelled is not None and is_cancelled():
            raise CancelledError
        found += _rate_chunk(base, ways[start : start + _CHUNK])
        if progress is not None:
            progress(min(1.0, (start + _CHUNK) / len(ways)))
    return found


def _rate_chunk(base: Setup, ways: Sequence[Way]) -> list[Rated | None]:
    setup = trial_setup(base, ways)
    states = line_states(routes(setup), setup)
    windows = stage.windows_of(states, setup)
    found: list[Rated | None] = []
    again: list[tuple[int, tuple[stage.Plan, ...]]] = []
    for number, (way, state) in enumerate(zip(ways, states, strict=True)):
        plan = stage.plan(state, windows[state.line.id])
        gain = state.recorder_controls().get("gain_db")
        others = plan is not None and any(
            gain is None or (c.owner, c.name) != (gain.owner, "gain_db") for c in plan.changes
        )
        if others and plan is not None:
            again.append((number, (plan,)))
            found.append(None)
        else:
            moved_db = 0.0 if plan is None else plan.peak_dbfs - (state.peak_dbfs or 0.0)
            found.append(_rated(way, state, windows[state.line.id], moved_db))
    if again:
        session = Session.model_construct(setup=setup)
        for _, plans in again:
            for plan in plans:
                session = apply_changes(session, plan.changes)
        changed = session.setup
        numbers = [number for number, _ in again]
        some = Setup.model_construct(
            **{
                **{name: getattr(changed, name) for name in Setup.model_fields},
                "lines": tuple(changed.lines[number] for number in numbers),
            }
        )
        for number, state in zip(numbers, line_states(routes(some), some), strict=True):
            found[number] = _rated(ways[number], state, windows[state.line.id], 0.0)
    return found


def _rated(way: Way, state: LineState, window: stage.Window, moved_db: float) -> Rated | None:
    """A way from its computed line, the recorder's gain moved by so much.

    source: derivation, the last gain moves all noise but the converter's dB for dB
    """
    levels, reading = state.levels, state.reading
    if levels is None or reading is None or levels.peak_dbfs is None:
        return None
    if not is_alive(state.route) or _is_harmed(way, state):
        return None
    peak = levels.peak_dbfs + moved_db
    *before, converter = reading.powers.end_noise_a_v2
    noise = sum(before) * 10.0 ** (moved_db / 10.0) + converter
    now = sum(before) + converter
    rise = power_to_db(noise / now) if now > 0.0 else 0.0
    noise_dbfs = (levels.noise_dbfs_a or -200.0) + (rise or 0.0)
    rooms = [room for room in levels.headroom_db[:-1] if room is not None]
    headroom = min([*rooms, -peak])
    if headroom < 0.0:
        return None
    reasons = [
        f.brief
        for f in patch.findings([state])
        if f.severity == "mend" or f.rule in {"bass_thin", "noisy"}
    ]
    if not window.lowest_dbfs - 0.05 <= peak <= window.highest_dbfs + 0.05:
        reasons.append(f"{window.aim_dbfs - peak:.0f} dB short of the aim")
    snr = peak - noise_dbfs
    typical = snr - state.below_hardest_db("typical")
    share = levels.noise_shares[0] if way.signal.is_air else 0.0
    if typical < stage.LEAST_SNR_DB and share < 0.5:
        reasons.append("hisses in soft passages")
    return Rated(
        way=way,
        snr_db=snr,
        headroom_db=headroom,
        flaws=len(reasons),
        why="; ".join(reasons),
        before_db=min(rooms) if rooms else None,
    )


def _is_harmed(way: Way, state: LineState) -> bool:
    is_on = way.power == "needs"
    return is_on and any(fed.need == "never" for fed in devices_reached(state.route))
