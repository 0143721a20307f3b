"""Lines that meet in a mixer: each carries the noise of all the others that are mixed to its side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.chain._staging import Part, StagedLine, pan_gain_db
from verve.core.line import Amplifier, Reading
from verve.core.session import FADER_MIN_DB, Hop, MixerFigures
from verve.core.units import db_to_ratio, dbu_to_v_rms, v2_to_dbu


@dataclass(frozen=True, slots=True, kw_only=True)
class _Feed:
    """What one line brings to a mixer: its channel, and the noise behind the channel's gain (V²)."""

    line_id: str
    hop: Hop
    noise_v2: float

    def at(self, side: str) -> float:
        """Its noise on one bus, in V²; what goes to a group is not on the main one."""
        controls = self.hop.controls
        fader_db, pan = controls["fader_db"].value, controls["pan"].value
        assert isinstance(fader_db, float)
        assert isinstance(pan, float)
        own = _bus(self.hop)
        if fader_db <= FADER_MIN_DB or (side != own and "group" in side + own):
            return 0.0
        if side.startswith("group."):
            return self.noise_v2 * db_to_ratio(fader_db) ** 2
        return self.noise_v2 * db_to_ratio(fader_db + pan_gain_db(pan, side)) ** 2


def _bus(hop: Hop) -> str:
    """Which bus a line is followed over: a side of the main one, or a group."""
    port = hop.out_port or ""
    if port.startswith("group."):
        return port
    return "right" if port == "main.right" else "left"


def _feed(staged: StagedLine, reading: Reading) -> _Feed | None:
    for hop in staged.route.hops:
        if isinstance(hop.device.figures, MixerFigures):
            at = staged.index(hop.device.id, "channel")
            noise_v2 = None if at is None else reading.powers.noise_v2[at]
            if noise_v2 is not None:
                return _Feed(line_id=staged.route.line.id, hop=hop, noise_v2=noise_v2)
    return None


def noise_of_others_v2(lines: Sequence[tuple[StagedLine, Reading]]) -> Mapping[str, float]:
    """By line, the noise that other lines bring to its bus, over the band; lines without are left out.

    Only what is plugged in counts: a channel that nothing is in is taken for closed.

    unit: V² at the bus input
    source: derivation, independent noises add as powers
    """
    feeds = [feed for staged, reading in lines if (feed := _feed(staged, reading)) is not None]
    found: dict[str, float] = {}
    for feed in feeds:
        # By channel: one that two lines follow, to the left and to the right, is there once.
        others = {
            other.hop.in_port: other.at(_bus(feed.hop))
            for other in feeds
            if other.hop.device.id == feed.hop.device.id and other.hop.in_port != feed.hop.in_port
        }
        total = sum(others.values())
        if total > 0.0:
            found[feed.line_id] = total
    return found


def with_bus_noise(staged: StagedLine, noise_v2: float) -> StagedLine:
    """The line with so much more noise at the input of its mixer's bus, taken as flat over the band."""
    return replace(staged, parts=tuple(_raised(part, noise_v2) for part in staged.parts))


def _raised(part: Part, noise_v2: float) -> Part:
    if part.role != "bus":
        return part
    assert isinstance(part.stage, Amplifier)
    own_v2 = 0.0 if part.stage.ein_dbu is None else dbu_to_v_rms(part.stage.ein_dbu) ** 2
    stage = replace(part.stage, ein_dbu=v2_to_dbu(own_v2 + noise_v2))
    return replace(part, stage=stage)
