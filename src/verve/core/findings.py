"""What a finding is; each package brings its own, next to the physics it judges."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Literal

from verve.core.session import (
    Audio,
    Change,
    Monitoring,
    Placement,
    Session,
    apply_changes,
    set_audio,
    set_monitoring,
    set_placement,
)
from verve.core.words import Fact, Places, fill

Severity = Literal["stop", "mend", "know"]
"""`stop`: a take would be lost or something harmed. `mend`: a take would suffer. `know`: no harm."""
Step = Literal["brief", "patch", "place", "power", "stage", "monitor", "check", "takes"]
SEVERITIES: tuple[Severity, ...] = ("stop", "mend", "know")
STEPS: tuple[Step, ...] = (
    "brief", "patch", "place", "power", "stage", "monitor", "check", "takes",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedy:
    """An edit that mends a finding with one press."""

    label: str
    changes: tuple[Change, ...] = ()
    audio: Audio | None = None
    placement: Placement | None = None
    monitoring: Monitoring | None = None

    def apply(self, session: Session) -> Session:
        """raises: EditError if the session no longer allows it"""
        session = apply_changes(session, self.changes)
        if self.placement is not None:
            session = set_placement(session, self.placement)
        if self.monitoring is not None:
            session = set_monitoring(session, self.monitoring)
        return session if self.audio is None else set_audio(session, self.audio)


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """What to do about a finding: in words, and as an edit where one does it.

    `by_hand` is what a person must do where the edit turns out to be none.
    """

    advice: str
    remedy: Remedy | None = None
    by_hand: str = ""


class Later:
    """A proposal that is worked out when it is first asked for: the solver that finds it takes a while."""

    def __init__(self, make: Callable[[], Proposal]) -> None:
        self._make = make
        self._made: Proposal | None = None

    @property
    def is_made(self) -> bool:
        """Whether somebody has asked for it already."""
        return self._made is not None

    def proposal(self) -> Proposal:
        """It, worked out once."""
        if self._made is None:
            self._made = self._make()
        return self._made


Scope = Literal["line", "pair", "bus", "input", "session"]
"""What a rule looks at: one line, two sides of a pair, lines of a bus, lines of an input, all of it."""
Promise = Literal["gone", "less"]
"""What a remedy does: the finding is gone with it, or at least smaller."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """A rule: what it looks at, where it is mended, how grave it can be, and what its remedy promises."""

    id: str
    scope: Scope
    step: Step
    severities: tuple[Severity, ...]
    promise: Promise | None = None


def _rule(
    key: str, scope: Scope, step: Step, *severities: Severity, promise: Promise | None = None
) -> Rule:
    return Rule(id=key, scope=scope, step=step, severities=severities, promise=promise)


RULES: Mapping[str, Rule] = {
    rule.id: rule
    for rule in (
        # ── patch ──
        _rule("not_connected", "line", "patch", "stop"),
        _rule("feedback", "line", "patch", "stop"),
        _rule("pickup_loaded", "line", "patch", "mend", promise="gone"),
        _rule("wrong_mode", "line", "patch", "mend", promise="gone"),
        _rule("volume_down", "line", "patch", "stop", "mend", promise="gone"),
        _rule("input_shared", "input", "patch", "mend"),
        _rule("bass_thin", "line", "patch", "know"),
        _rule("separate_recorders", "session", "patch", "know"),
        # ── place ──
        _rule("bleed", "line", "place", "mend", promise="less"),
        _rule("pair_bleed", "pair", "place", "mend", promise="less"),
        _rule("pair_arrival", "pair", "place", "mend", promise="gone"),
        _rule("far_in_room", "line", "place", "know"),
        _rule("may_howl", "line", "place", "mend"),
        _rule("wrong_side", "line", "place", "mend", promise="gone"),
        _rule("plosives", "line", "place", "know", promise="gone"),
        _rule("leak", "line", "place", "mend", promise="less"),
        # ── power ──
        _rule("phantom_missing", "line", "power", "stop", promise="gone"),
        _rule("phantom_blocked", "line", "power", "stop", promise="gone"),
        _rule("phantom_harms", "line", "power", "stop", promise="gone"),
        _rule("phantom_idle", "line", "power", "know", promise="gone"),
        _rule("phantom_sags", "line", "power", "mend", "know"),
        _rule("phantom_over_jack", "line", "power", "mend", promise="gone"),
        _rule("loudspeaker_level", "line", "power", "stop"),
        _rule("valve_without_load", "line", "power", "stop", promise="gone"),
        _rule("phantom_budget", "session", "power", "mend"),
        # ── stage ──
        _rule("clips", "line", "stage", "stop", promise="less"),
        _rule("above_window", "line", "stage", "mend", promise="less"),
        _rule("below_window", "line", "stage", "mend", promise="less"),
        _rule("gain_runs_out", "line", "stage", "mend", promise="less"),
        _rule("tight_before", "line", "stage", "mend", promise="less"),
        _rule("noisy", "line", "stage", "mend", "know"),
        _rule("needless_pad", "line", "stage", "know", promise="gone"),
        _rule("driven", "line", "stage", "know", promise="gone"),
        _rule("silent", "line", "stage", "stop", promise="gone"),
        _rule("preamp_behind_mixer", "line", "stage", "mend", promise="gone"),
        _rule("fader_off_unity", "line", "stage", "know", promise="gone"),
        _rule("pair_unequal", "pair", "stage", "mend", "know", promise="less"),
        _rule("bus_too_loud", "bus", "stage", "stop", "mend", promise="less"),
        # ── monitor ──
        _rule("buffer_large", "session", "monitor", "mend", "know", promise="gone"),
        _rule("heard_twice", "line", "monitor", "mend", promise="gone"),
        _rule("heard_late", "line", "monitor", "mend", promise="gone"),
        _rule("one_ear", "line", "monitor", "mend", promise="gone"),
        _rule("no_monitor", "line", "monitor", "know"),
        _rule("loudspeaker_open", "line", "monitor", "mend", promise="gone"),
        _rule("printed", "line", "monitor", "know"),
        _rule("too_loud", "line", "monitor", "mend", promise="gone"),
        _rule("extra_on", "line", "monitor", "know", promise="gone"),
        _rule("two_clocks", "session", "monitor", "know"),
        # ── check ──
        _rule("sixteen_bits", "session", "check", "know", promise="gone"),
        _rule("level_changed", "line", "check", "know"),
        # ── takes ──
        _rule("moved_since_take", "session", "takes", "know", promise="gone"),
        _rule("take_clipped", "line", "takes", "mend"),
        _rule("take_surprises", "line", "takes", "know"),
    )
}
"""Every rule there is; a finding of another one cannot be made."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleWords:
    """What a finding of a rule says: templates, whose places the judge names (see `words.fill`)."""

    title: str
    brief: str
    cost: str
    advice: str = ""
    button: str = ""
    caution: str = ""

    def but(self, **others: str) -> RuleWords:
        """The same rule found in another way: some of the sentences are others."""
        return replace(self, **others)


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What is wrong, what it would cost, what to do: a rule, numbers and names; `words` says it.

    `edits` or `audio` mend it with one press, where one does; `later` works out advice and edits where
    the solver has to be asked.
    """

    rule: str
    severity: Severity
    line: str | None
    words: RuleWords
    places: Places = field(default_factory=dict, hash=False)
    edits: tuple[Change, ...] | None = None
    audio: Audio | None = None
    facts: tuple[Fact, ...] = ()
    size_db: float = 0.0
    also_lines: tuple[str, ...] = field(default=())
    later: Later | None = field(default=None, compare=False, repr=False)

    def __post_init__(self) -> None:
        """raises: KeyError or ValueError for what no rule says; a slip of whoever wrote the judge"""
        if self.severity not in RULES[self.rule].severities:
            raise ValueError(f"{self.rule}: is never {self.severity}")
        object.__setattr__(self, "places", MappingProxyType(dict(self.places)))

    @property
    def step(self) -> Step:
        """Where it is mended."""
        return RULES[self.rule].step

    @property
    def title(self) -> str:
        """What is wrong."""
        return fill(self.words.title, self.places)

    @property
    def brief(self) -> str:
        """The same in a few words, beside its line."""
        return fill(self.words.brief, self.places)

    @property
    def cost(self) -> str:
        """What it would cost."""
        return fill(self.words.cost, self.places)

    @property
    def caution(self) -> str:
        """What to mind while mending it; empty for nothing."""
        return fill(self.words.caution, self.places)

    @property
    def is_worked_out(self) -> bool:
        """Whether advice and remedy are at hand; else asking for them takes some milliseconds."""
        return self.later is None or self.later.is_made

    @property
    def advice(self) -> str:
        """What to do, as a sentence."""
        if self.later is not None:
            return self.later.proposal().advice
        return fill(self.words.advice, self.places)

    @property
    def by_hand(self) -> str:
        """What a person must do where the edit turns out to be none; empty where nobody has said."""
        return "" if self.later is None else self.later.proposal().by_hand

    @property
    def remedy(self) -> Remedy | None:
        """The edit that does it with one press; None where a person must."""
        if self.later is not None:
            return self.later.proposal().remedy
        if self.edits is None and self.audio is None:
            return None
        label = fill(self.words.button, self.places)
        return Remedy(label=label, changes=self.edits or (), audio=self.audio)

    def with_later(self, later: Later) -> Finding:
        """The same finding, whose advice and remedy come from `later`."""
        return replace(self, later=later)

    def concerns(self, line_id: str) -> bool:
        """Whether it is about this line."""
        return line_id == self.line or line_id in self.also_lines


def by_urgency(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    """Most urgent first: severity, working order, size; equals stay in their order."""
    return tuple(
        sorted(
            findings,
            key=lambda f: (SEVERITIES.index(f.severity), STEPS.index(f.step), -f.size_db),
        )
    )
