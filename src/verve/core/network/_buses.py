"""What lines that meet in a mixer are together: level on its buses, on its meter, at the recorder."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from verve.core.network._staging import NodeKey
from verve.core.session import Device
from verve.core.units import dbu_to_v_rms, power_to_db, ratio_to_db

if TYPE_CHECKING:
    from verve.core.network._state import LineState


@dataclass(frozen=True, slots=True, kw_only=True)
class BusLevel:
    """One bus of a mixer with all that is mixed to it playing its hardest.

    `together_dbu` adds independent lines as powers, `worst_dbu` as if all peaks met in one moment;
    `meter_db` is what the mixer's own meter shows, None where it has none there; `recorder_dbfs` is what
    arrives, None where nothing does.
    """

    device: str
    device_name: str
    port: str
    lines: tuple[str, ...]
    together_dbu: float
    worst_dbu: float
    ceiling_dbu: float | None
    meter_db: float | None
    recorder_dbfs: float | None

    @property
    def side(self) -> str:
        """The bus in a word: "left", "group 1"."""
        return self.port.removeprefix("main.").replace(".", " ")


def bus_level(
    device: Device,
    port: str,
    peaks_dbu: Sequence[float],
    lines: Sequence[str],
    ceiling_dbu: float | None,
    recorder_dbfs: float | None,
) -> BusLevel | None:
    """A bus from the peaks of the sources on it; None where nothing arrives.

    source: derivation, independent signals add as powers, coinciding peaks as amplitudes
    """
    volts = [dbu_to_v_rms(peak) for peak in peaks_dbu]
    power, amplitude = power_to_db(sum(v * v for v in volts)), ratio_to_db(sum(volts))
    reference = ratio_to_db(dbu_to_v_rms(0.0))
    if power is None or amplitude is None or reference is None or not lines:
        return None
    together = power - reference
    zero = device.figures.meter_zero_at(port)
    return BusLevel(
        device=device.id,
        device_name=device.name,
        port=port,
        lines=tuple(lines),
        together_dbu=together,
        worst_dbu=amplitude - reference,
        ceiling_dbu=ceiling_dbu,
        meter_db=None if zero is None else together - zero,
        recorder_dbfs=recorder_dbfs,
    )


def plain_buses(
    states: Sequence[LineState],
    mixers: Mapping[str, Device],
    composed: Mapping[NodeKey, int],
) -> Iterator[BusLevel]:
    """Buses that one line alone goes to."""
    for state in states:
        if state.staged is None or state.levels is None:
            continue
        for at, part in enumerate(state.staged.parts):
            if part.role != "bus" or part.key in composed or part.step_index is None:
                continue
            step = state.route.steps[part.step_index]
            peak = state.levels.open_peak_dbu[at]
            if peak is None or step.out_port not in step.figures.sends(step):
                continue
            limit = getattr(part.stage, "max_output_dbu", None)
            port = step.out_port or ""
            lines = (state.line.id,)
            found = bus_level(mixers[step.owner], port, [peak], lines, limit, state.peak_dbfs)
            if found is not None:
                yield found
