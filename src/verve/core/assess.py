"""The one door: a session in, everything that can be known about it out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from verve.core import _assess_words as words
from verve.core import monitor, patch, power, stage, takes
from verve.core.engine import Engine
from verve.core.explain import (
    NoisePart,
    Response,
    Span,
    cable_facts,
    device_facts,
    junction_facts,
    noise_parts,
    noise_walk,
    response_facts,
    response_of,
    source_facts,
    spans_of,
    walk,
)
from verve.core.findings import STEPS, Finding, Remedy, Step, by_urgency
from verve.core.gain import Window, windows_of
from verve.core.kind import PlayingRange
from verve.core.network import (
    BusLevel,
    LineState,
    Network,
    PeakRange,
    end_range,
    is_alive,
    network_of,
)
from verve.core.session import Change, Line, Pass, Play, Route, Session, Setup, layer_of
from verve.core.trial import tried
from verve.core.words import Fact, clock_list, fill, level_text

_ONE_FIGURE_DB = 2.0
"""Less apart than this, the least and the most of a peak are told as one figure."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LineAssessment:
    """Everything about one line."""

    state: LineState
    target: Window
    findings: tuple[Finding, ...]
    is_alive: bool
    buses: tuple[BusLevel, ...] = ()

    @property
    def line(self) -> Line:
        """The line as it stands in the session."""
        return self.state.line

    @property
    def spans(self) -> tuple[Span, ...]:
        """Its corridor, stage by stage; worked out when somebody looks."""
        return spans_of(self.state)

    @property
    def route(self) -> Route:
        """Its way through the gear."""
        return self.state.route

    @property
    def playing(self) -> PlayingRange:
        """Its source's range."""
        return self.state.playing

    @property
    def worst(self) -> Finding | None:
        """Its most urgent finding."""
        return self.findings[0] if self.findings else None

    @property
    def verdict(self) -> str:
        """How it stands, in three or four words."""
        return self.worst.brief if self.worst else words.NO_FINDING

    def why(self) -> tuple[Fact, ...]:
        """How its level at the recorder comes about."""
        return walk(self.state) + tuple(f for bus in self.buses for f in stage.bus_facts(bus))

    def noise(self) -> tuple[Fact, ...]:
        """Whose its noise is."""
        return noise_walk(self.state)

    def response(self) -> Response | None:
        """What it does to bass and treble."""
        return response_of(self.state)

    def response_facts(self) -> tuple[Fact, ...]:
        """Where its bass and treble end."""
        response = self.response()
        return () if response is None else response_facts(response)

    def noise_parts(self) -> tuple[NoisePart, ...]:
        """The origins of its noise, with their levels."""
        return noise_parts(self.state)

    def facts_at(self, owner: str, role: str) -> tuple[Fact, ...]:
        """Every number of one stage: its figures, then the levels behind it.

        `role` is "source", "cable" or the port the line comes in at; empty for what is not on the line.
        """
        state, steps = self.state, self.route.steps
        if role == "source" and not self.route.has_source:
            return ()
        if role == "source":
            return source_facts(state) + self._behind(None)
        for index, step in enumerate(steps):
            if role == "cable" and step.link.id == owner and step.cable is not None:
                return cable_facts(step.cable) + self._behind(index, is_cable=True)
            if step.owner == owner and step.in_port == role:
                return device_facts(step) + self._behind(index)
        return ()

    def _behind(self, step: int | None, *, is_cable: bool = False) -> tuple[Fact, ...]:
        parts = () if self.state.staged is None else self.state.staged.parts
        at = [
            i
            for i, p in enumerate(parts)
            if p.step_index == step and (p.role == "cable") == is_cable
        ]
        return junction_facts(self.state, at[-1]) if at else ()

    def predicted_peak_dbfs(self, play: Play) -> float | None:
        """Peak at the recorder for a way of playing, with everything else that reaches the same input; what
        clips on the way ends there, what clips last at full scale. In the middle of `predicted_range`."""
        found = self.predicted_range(play)
        return None if found is None else found.middle_dbfs

    def predicted_range(self, play: Play) -> PeakRange | None:
        """The same between its least and its most: a clipped wave can overshoot behind a filter."""
        found = end_range(self.state, play, self.buses) if self.is_alive else None
        if found is None:
            return None
        return PeakRange(low_dbfs=min(0.0, found.low_dbfs), high_dbfs=min(0.0, found.high_dbfs))

    def hardest_text(self, decimals: int = 0) -> str:
        """The hardest peak in words: "−8 dBFS"; a range where it clips on the way; empty without one."""
        found = self.predicted_range("hardest")
        if found is None:
            return ""
        if found.high_dbfs - found.low_dbfs < _ONE_FIGURE_DB:
            return level_text(found.middle_dbfs, "dBFS", decimals)
        return fill(words.PEAK_RANGE, low_db=found.low_dbfs, high_db=found.high_dbfs)

    @property
    def noise_dbfs_a(self) -> float | None:
        """A-weighted noise in the recording; None for a line that is dead or cannot be computed."""
        levels = self.state.levels
        return levels.noise_dbfs_a if levels is not None and self.is_alive else None

    @property
    def snr_db(self) -> float | None:
        """Hardest peak over A-weighted noise in the recording; None as above."""
        levels = self.state.levels
        return levels.snr_db if levels is not None and self.is_alive else None


@dataclass(frozen=True, slots=True, kw_only=True)
class NextThing:
    """The most useful thing to do now: why, and a button that does it or goes there.

    `button_there` is what the button says, and does, once one is there.
    """

    sentence: str
    why: str
    button: str
    action: Literal["apply", "go", "add", "connections", "layer"]
    step: Step
    button_there: str = ""
    pass_id: str = ""
    line: str | None = None
    remedy: Remedy | None = None
    finding: Finding | None = None
    caution: str = ""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Assessment:
    """Everything that can be known about a session."""

    session: Session
    lines: tuple[LineAssessment, ...]
    findings: tuple[Finding, ...]
    round_trip_ms: float
    engine: Engine
    _next: list[NextThing] = field(default_factory=list, repr=False)

    @property
    def next(self) -> NextThing:
        """The most useful thing to do now. Its remedy has been tried: worked out when first asked for."""
        if not self._next:
            self._next.append(_next(self.session, self.findings))
        return self._next[0]

    def try_remedies(self, lines: Sequence[LineAssessment]) -> int:
        """Try now what is otherwise tried when somebody first asks: the next thing, and what these lines
        need. Gives back how many remedies passed."""
        found = [self.next.remedy, *(f.remedy for item in lines for f in item.findings)]
        return sum(remedy is not None for remedy in found)

    def line(self, line_id: str) -> LineAssessment | None:
        """One line by its id."""
        return next((item for item in self.lines if item.line.id == line_id), None)

    def open_by_step(self) -> Mapping[Step, int]:
        """How many findings that need mending are open in each step."""
        counts: dict[Step, int] = dict.fromkeys(STEPS, 0)
        for finding in self.findings:
            counts[finding.step] += finding.severity != "know"
        return counts

    def done_steps(self) -> frozenset[Step]:
        """Steps with nothing left to do: patch and stage when no finding is open in them, check and
        takes when moreover the last take was made of all lines with the settings of now."""
        if not self.lines:
            return frozenset()
        counts = self.open_by_step()
        rehearsed = _is_rehearsed(self.session, self.findings)
        return frozenset(
            step
            for step in STEPS
            if not counts[step] and (step not in {"check", "takes"} or rehearsed)
        )

    def round_trip_facts(self) -> tuple[Fact, ...]:
        """How the way through the buffers and back comes about."""
        return monitor.round_trip_facts(self.session.setup.audio)

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Findings that would lose a take."""
        return tuple(finding for finding in self.findings if finding.severity == "stop")


def _all_findings(session: Session, network: Network, engine: Engine) -> tuple[Finding, ...]:
    setup, states = session.setup, network.lines
    found = power.findings([state.route for state in states])
    found += patch.feedback(network) + patch.findings(states, network.circling)
    # A line that something keeps silent or ends before the recorder has no level to judge yet.
    broken = {f.line for f in found if f.severity == "stop" and f.rule != "phantom_missing"}
    broken |= {f.line for f in found if f.rule in {"pickup_loaded", "wrong_mode"}}
    judged = [state for state in states if state.line.id not in broken]
    judge = stage.GainJudge(session, engine, network)
    found += stage.findings(judged, setup, judge, network.buses)
    found += _placed(session, network)
    found += monitor.findings(session, _headphones(setup))
    found += takes.findings(session, states, engine)
    return by_urgency(found)


def _placed(session: Session, network: Network) -> list[Finding]:
    """What is wrong with where things stand; the rules for it are loaded when something stands."""
    if network.hearing is None:
        return []
    from verve.core.place import findings

    return findings(session, network.lines, network.hearing)


def _headphones(setup: Setup) -> dict[str, monitor.Headphones]:
    """Those that somebody wears, by the catalogue; which is read only where somebody has said so."""
    worn = {one.headphones for one in setup.monitoring.cues if one.headphones is not None}
    if not worn:
        return {}
    from verve.core.catalogue import catalogue

    known = catalogue().headphones
    return {
        key: monitor.Headphones(
            impedance_ohm=known[key].figures.impedance_ohm,
            sensitivity_db_per_mw=known[key].figures.sensitivity_db_per_mw,
        )
        for key in worn
        if key in known
    }


def _names(lines: Sequence[Line]) -> str:
    return clock_list([line.name for line in lines], 3, words.LINES)


def _from_finding(finding: Finding, lines: Mapping[str, Line]) -> NextThing:
    line = lines.get(finding.line or "")
    advice = finding.advice
    sentence = fill(words.NEXT, line=line.name, advice=advice) if line is not None else advice
    if finding.remedy is not None:
        return NextThing(
            sentence=sentence,
            why=fill(words.NEXT_WHY, title=finding.title, cost=finding.cost),
            button=finding.remedy.label,
            action="apply",
            step=finding.step,
            line=finding.line,
            remedy=finding.remedy,
            finding=finding,
            caution=finding.caution,
        )
    return NextThing(
        sentence=sentence,
        why=fill(words.NEXT_WHY, title=finding.title, cost=finding.cost),
        button=words.SHOW,
        action="go",
        step=finding.step,
        line=finding.line,
        finding=finding,
        caution=finding.caution,
    )


def _is_rehearsed(session: Session, findings: Sequence[Finding]) -> bool:
    """Whether every signal that is armed has a take, whole, and nothing of it has moved since."""
    wanted = {line.id for line in session.setup.lines if line.is_armed}
    if not session.takes or any(finding.rule == "moved_since_take" for finding in findings):
        return False
    last = session.takes[-1]
    if last.setup == session.setup and wanted <= {track.line for track in last.tracks}:
        return last.ended == "whole"
    since = takes.since_takes(session)
    heard = {line for one in since for line in one.lines if one.take.ended == "whole"}
    return wanted <= heard


def _left(finding: Finding, lines: Mapping[str, Line]) -> dict[str, str]:
    """The worst that no setting mends, and whose it is."""
    line = lines.get(finding.line or "")
    is_named = line is None or line.name in finding.title
    return {
        "line": "" if line is None or is_named else fill(words.OF_LINE, line=line.name),
        "title": finding.title if is_named else fill(words.LATER, title=finding.title),
    }


def _waiting(session: Session) -> Pass | None:
    """The first layer that is not patched and that no take has: what a part is taken with has no say in it."""
    now = {source.part for source in session.setup.sources}
    patched = {one.layer for one in session.patches}
    # Setups of takes stay unread: with hundreds of them that would take longer than all the rest.
    heard = {frozenset(now), *(take.snapshot.parts for take in session.takes)}
    for item in session.brief.passes:
        wanted = {p.id for p in session.brief.parts_of(item) if p.capture != "computer"}
        if wanted and item.id not in patched and not any(wanted <= parts for parts in heard):
            return item
    return None


def _next_layer(session: Session) -> Pass | None:
    """The first layer that is patched, is not set up, and has no take."""
    recorded = {take.layer for take in session.takes}
    patched = {one.layer for one in session.patches}
    here = layer_of(session)
    for item in session.brief.passes:
        if item.id in patched - recorded and item != here:
            return item
    return None


def _next(session: Session, findings: Sequence[Finding]) -> NextThing:
    lines = {line.id: line for line in session.setup.lines}
    first = _waiting(session)
    parts = 0 if first is None else len(first.parts)
    if not lines and first is not None:
        return NextThing(
            sentence=words.CONNECT_ONE if parts == 1 else fill(words.CONNECT, parts=parts),
            why=words.CONNECT_WHY,
            button=words.CONNECT_BUTTON,
            action="connections",
            pass_id=first.id,
            step="patch",
        )
    if not lines:
        return NextThing(
            sentence=words.EMPTY,
            why=words.EMPTY_WHY,
            button=words.EMPTY_BUTTON,
            action="add",
            step="patch",
        )
    for finding in findings:
        if finding.severity != "know" or finding.remedy is not None:
            return _from_finding(finding, lines)
    # Nothing of it is graver than another: the one that is furthest off is told.
    left = max(findings, key=lambda finding: finding.size_db, default=None)
    if not _is_rehearsed(session, findings):
        names = _names(tuple(lines.values()))
        return NextThing(
            sentence=fill(words.REHEARSE, lines=names)
            if left is None
            else fill(words.REHEARSE_LEFT, lines=names, **_left(left, lines)),
            why=words.REHEARSE_WHY
            if left is None
            else fill(words.REHEARSE_LEFT_WHY, cost=left.cost, advice=left.advice),
            line=None if left is None else left.line,
            button=words.REHEARSE_BUTTON,
            button_there=words.REHEARSE_BUTTON_THERE,
            action="go",
            step="check",
        )
    last = session.takes[-1]
    after = _next_layer(session)
    if left is None and after is not None:
        return NextThing(
            sentence=fill(words.NEXT_LAYER, take=last.name, name=after.name),
            why=words.NEXT_LAYER_WHY,
            button=words.LAYER_BUTTON,
            action="layer",
            pass_id=after.id,
            step="takes",
        )
    if left is None and first is not None:
        return NextThing(
            sentence=fill(words.NEXT_PASS, take=last.name, name=first.name),
            why=words.NEXT_PASS_WHY,
            button=words.CONNECT_BUTTON,
            action="connections",
            pass_id=first.id,
            step="patch",
        )
    return NextThing(
        sentence=fill(words.CLEAN, take=last.name)
        if left is None
        else fill(words.CLEAN_LEFT, take=last.name, **_left(left, lines)),
        why=words.CLEAN_WHY,
        button=words.CLEAN_BUTTON,
        action="go",
        step="takes",
    )


def _followed(state: LineState, buses: Mapping[tuple[str, str], BusLevel]) -> tuple[BusLevel, ...]:
    """Buses that a line passes, of those by mixer and output."""
    passed = {(step.owner, step.out_port or "") for step in state.route.steps}
    return tuple(bus for key, bus in buses.items() if key in passed) if buses else ()


def assess(session: Session, engine: Engine | None = None) -> Assessment:
    """Everything that can be known about a session: pure, without side effects.

    An `engine` remembers what earlier ones had in common; with a new one the answer is the same, later.
    """
    engine = engine or Engine()
    setup = session.setup
    network = network_of(setup, engine)
    found = _all_findings(session, network, engine)

    def look(changed: Session) -> Sequence[Finding]:
        return _all_findings(changed, network_of(changed.setup, engine), engine)

    def gains(changed: Session, line_id: str) -> tuple[Change, ...]:
        return stage.GainJudge(changed, engine).changes(line_id)

    findings = tuple(tried(one, session, found, look, gains) for one in found)
    by_line: dict[str, list[Finding]] = {state.line.id: [] for state in network.lines}
    for finding in findings:
        for line_id in {finding.line or "", *finding.also_lines} & by_line.keys():
            by_line[line_id].append(finding)
    windows = windows_of(network.lines, setup)
    by_output = {(bus.device, bus.port): bus for bus in network.buses}
    lines = tuple(
        LineAssessment(
            state=state,
            target=windows[state.line.id],
            findings=tuple(by_line[state.line.id]),
            is_alive=is_alive(state.route),
            buses=_followed(state, by_output),
        )
        for state in network.lines
    )
    return Assessment(
        session=session,
        lines=lines,
        findings=findings,
        round_trip_ms=monitor.monitoring_ms(setup.audio),
        engine=engine,
    )
