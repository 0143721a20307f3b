"""What a finding is; each package brings its own, next to the physics it judges."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from verve.core.session import Audio, Change, Session, apply_changes, set_audio
from verve.core.words import Fact

Severity = Literal["stop", "mend", "know"]
"""`stop`: a take would be lost or something harmed. `mend`: a take would suffer. `know`: no harm."""
Step = Literal["brief", "patch", "power", "stage", "check", "takes"]
SEVERITIES: tuple[Severity, ...] = ("stop", "mend", "know")
STEPS: tuple[Step, ...] = ("brief", "patch", "power", "stage", "check", "takes")


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedy:
    """An edit that mends a finding with one press."""

    label: str
    changes: tuple[Change, ...] = ()
    audio: Audio | None = None

    def apply(self, session: Session) -> Session:
        """raises: EditError if the session no longer allows it"""
        session = apply_changes(session, self.changes)
        return session if self.audio is None else set_audio(session, self.audio)


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """What to do about a finding: in words, and as an edit where one does it."""

    advice: str
    remedy: Remedy | None = None


class Later:
    """A proposal that is worked out when it is first asked for: the solver that finds it takes a while."""

    def __init__(self, make: Callable[[], Proposal]) -> None:
        self._make = make
        self._made: Proposal | None = None

    def proposal(self) -> Proposal:
        """It, worked out once."""
        if self._made is None:
            self._made = self._make()
        return self._made


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What is wrong, what it would cost, what to do, in plain words.

    What to do is `advice` and `remedy`; `later` works them out where they are not given as `to_do` and
    `offered`.
    """

    rule: str
    severity: Severity
    step: Step
    line: str | None
    title: str
    brief: str
    cost: str
    to_do: str = ""
    offered: Remedy | None = None
    facts: tuple[Fact, ...] = ()
    size_db: float = 0.0
    caution: str = ""
    also_lines: tuple[str, ...] = field(default=())
    later: Later | None = field(default=None, compare=False, repr=False)

    @property
    def advice(self) -> str:
        """What to do, as a sentence."""
        return self.to_do if self.later is None else self.later.proposal().advice

    @property
    def remedy(self) -> Remedy | None:
        """The edit that does it with one press; None where a person must."""
        return self.offered if self.later is None else self.later.proposal().remedy

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
