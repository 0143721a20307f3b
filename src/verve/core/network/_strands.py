"""Strands: what lies between two places where signals meet or split, each solved as a ladder of its own.

A strand begins at a source, at a bus where signals meet, or at an active output that drives several ways;
behind those it has one volt of drive. It ends at an input, where it meets others, or in the open. Where a
passive place goes several ways, each way is a strand in which the other ways lie across it as a branch.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from verve.core.line import Branch, Driver, LadderStage
from verve.core.network._graph import Graph
from verve.core.network._origins import SideKeys
from verve.core.network._staging import NodeKey
from verve.core.stages import Amplifier, Microphone, Sound, Stage

_MOST_STRANDS = 4096


@dataclass(slots=True, eq=False)
class Strand:
    """Stages in a row with the place of each; None for a driver or a branch, which are no places.

    `fed_by` are strands whose ends meet at its head, `driven_by` the one whose active output drives it.
    `is_join` is where outputs come together in one wire, each with the others across it. `sides` are the
    places of its branches, by their number among the stages. `is_noisy` is off where another strand has
    counted the noise of these places already.
    """

    stages: list[LadderStage]
    keys: list[NodeKey | None]
    source: NodeKey | None = None
    fed_by: list[Strand] = field(default_factory=list)
    driven_by: Strand | None = None
    is_noisy: bool = True
    is_join: bool = False
    sides: dict[int, SideKeys] = field(default_factory=dict)
    number: int = -1

    @property
    def ladder(self) -> tuple[LadderStage, ...]:
        """Its stages as a value."""
        return tuple(self.stages)

    def last_key(self) -> NodeKey:
        """The place it ends at."""
        return next(key for key in reversed(self.keys) if key is not None)


def _is_active(stage: Stage) -> bool:
    return isinstance(stage, Amplifier)


class _Cutter:
    """Cuts a component of a graph into strands."""

    def __init__(self, graph: Graph, group: list[NodeKey]) -> None:
        self.graph = graph
        self.group = group
        self.found: list[Strand] = []
        self.heads: dict[NodeKey, Strand] = {}

    def cut(self) -> list[Strand]:
        """All strands, those first that feed others."""
        graph = self.graph
        for key in self.group:
            if not graph.before[key]:
                self._from_source(key)
        ordered: list[Strand] = []
        waiting = list(self.found)
        while waiting:
            ready = [s for s in waiting if all(f.number >= 0 for f in self._needed(s))]
            if not ready:  # cannot be: circles are cut before
                break
            for strand in ready:
                strand.number = len(ordered)
                ordered.append(strand)
            waiting = [s for s in waiting if s.number < 0]
        return ordered

    @staticmethod
    def _needed(strand: Strand) -> list[Strand]:
        own = [] if strand.driven_by is None else [strand.driven_by]
        return [*strand.fed_by, *own]

    def _from_source(self, key: NodeKey) -> None:
        stage = self.graph.stages[key]
        strand = Strand(stages=[stage], keys=[key], source=key)
        if isinstance(stage, Sound):
            following = self.graph.following[key]
            if not following:
                return
            capsule = following[0]
            own = self.graph.stages[capsule]
            assert isinstance(own, Microphone)
            heard = self.graph.before[capsule]
            strand.stages.append(own)
            strand.keys.append(capsule)
            if len(heard) > 1:
                # Sounds that one microphone hears meet in it: its own noise is counted with the first.
                strand.is_noisy = key == heard[0]
                if not strand.is_noisy:
                    sound = replace(stage, room_noise_dba=None)
                    strand.stages[0] = sound
                self.found.append(strand)
                self._feed_capsule(strand, capsule, own)
                return
            self._walk(strand, capsule)
            return
        self._walk(strand, key)

    def _feed_capsule(self, strand: Strand, capsule: NodeKey, own: Microphone) -> None:
        head = self.heads.get(capsule)
        if head is not None:
            head.fed_by.append(strand)
            return
        driver = Driver(output_impedance_ohm=own.output_impedance_ohm)
        head = Strand(stages=[driver], keys=[capsule], fed_by=[strand])
        self.heads[capsule] = head
        self._walk(head, capsule)

    def _walk(self, strand: Strand, key: NodeKey) -> None:
        """Go on from a place that is in the strand already, to its end."""
        graph = self.graph
        while True:
            following = graph.following[key]
            if not following or len(self.found) > _MOST_STRANDS:
                self.found.append(strand)
                return
            meets = [len(graph.before[other]) > 1 for other in following]
            if len(following) == 1 and not meets[0]:
                key = following[0]
                strand.stages.append(graph.stages[key])
                strand.keys.append(key)
                continue
            if _is_active(graph.stages[key]):
                self.found.append(strand)
                self._split_active(strand, key, following, meets)
                return
            for number, other in enumerate(following):
                others = [k for i, k in enumerate(following) if i != number]
                branch, side = self._beside(others)
                copy = Strand(
                    stages=[*strand.stages, branch],
                    keys=[*strand.keys, None],
                    sides={**strand.sides, len(strand.stages): side},
                    source=strand.source,
                    # One list for all ways: what meets at the head comes to each of them.
                    fed_by=strand.fed_by,
                    driven_by=strand.driven_by,
                    is_noisy=strand.is_noisy,
                    is_join=strand.is_join,
                )
                if meets[number]:
                    self.found.append(copy)
                    self._feed(copy, other)
                    continue
                copy.stages.append(graph.stages[other])
                copy.keys.append(other)
                self._walk(copy, other)
            return

    def _split_active(
        self, strand: Strand, key: NodeKey, following: list[NodeKey], meets: list[bool]
    ) -> None:
        stage = self.graph.stages[key]
        impedance = stage.output_impedance_ohm if isinstance(stage, Amplifier) else 0.0
        for other, is_meeting in zip(following, meets, strict=True):
            if is_meeting and len(following) == 1:
                self._feed(strand, other)
                continue
            driver = Driver(output_impedance_ohm=impedance)
            head = Strand(stages=[driver], keys=[key], driven_by=strand)
            beside = [k for k in following if k != other]
            if impedance and beside:
                branch, head.sides[1] = self._beside(beside)
                head.stages.append(branch)
                head.keys.append(None)
            if is_meeting:
                self.found.append(head)
                self._feed(head, other)
                continue
            head.stages.append(self.graph.stages[other])
            head.keys.append(other)
            self._walk(head, other)

    def _feed(self, strand: Strand, key: NodeKey) -> None:
        """Let a strand end where others end too; what begins there is one strand."""
        head = self.heads.get(key)
        if head is not None:
            head.fed_by.append(strand)
            return
        driver = Driver(output_impedance_ohm=0.0)
        head = Strand(
            stages=[driver, self.graph.stages[key]],
            keys=[None, key],
            fed_by=[strand],
            # A bus adds what comes to it; a wire has the mean of what is tied to it.
            is_join=self.graph.roles[key] != "bus",
        )
        self.heads[key] = head
        self._walk(head, key)

    def _beside(self, others: list[NodeKey]) -> tuple[Branch, SideKeys]:
        """Other ways that lie across a place."""
        found = [self._branch(key) for key in others]
        branch = Branch(stages=(), branches=tuple(branch for branch, _ in found))
        return branch, SideKeys(keys=(), sides=tuple(side for _, side in found))

    def _branch(self, key: NodeKey) -> tuple[Branch, SideKeys]:
        """What lies across a place: everything from there to the next active inputs."""
        stages: list[Stage] = []
        keys: list[NodeKey] = []
        while True:
            stage = self.graph.stages[key]
            stages.append(stage)
            keys.append(key)
            following = self.graph.following[key]
            if _is_active(stage) or not following:
                return Branch(stages=tuple(stages)), SideKeys(keys=tuple(keys))
            if len(following) > 1:
                inner, side = self._beside(following)
                return (
                    Branch(stages=tuple(stages), branches=inner.branches),
                    SideKeys(keys=tuple(keys), sides=side.sides),
                )
            key = following[0]


def strands_of(graph: Graph, group: list[NodeKey]) -> list[Strand]:
    """A component of a graph in strands, those first that feed or drive others."""
    return _Cutter(graph, group).cut()
