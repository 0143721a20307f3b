"""What a finding is; each package brings its own, next to the physics it judges."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from verve.core.session import Audio, Change, Origin, Session, apply_changes, set_audio

Severity = Literal["stop", "mend", "know"]
"""`stop`: a take would be lost or something harmed. `mend`: a take would suffer. `know`: no harm."""
Step = Literal["brief", "patch", "power", "stage", "check", "takes"]
SEVERITIES: tuple[Severity, ...] = ("stop", "mend", "know")
STEPS: tuple[Step, ...] = ("brief", "patch", "power", "stage", "check", "takes")


ORIGIN_WORDS: Mapping[str, str] = {
    "data_sheet": "data sheet",
    "typical": "typical figure",
    "measured": "measured",
    "assumed": "assumed",
    "yours": "your figure",
    "computed": "computed",
    "set": "as set",
}
"""Where a number comes from, as a person is told."""


def level_text(value: float, unit: str, decimals: int = 1) -> str:
    """A level with sign, true minus and unit: "−7.8 dBFS"."""
    return f"{value:+.{decimals}f} {unit}".replace("-", "−")


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """A number that reaches a person, with its unit, where it comes from and how it came about."""

    label: str
    text: str
    origin: Origin | Literal["computed", "set"]
    how: str = ""


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
class Finding:
    """What is wrong, what it would cost, what to do, in plain words."""

    rule: str
    severity: Severity
    step: Step
    line: str | None
    title: str
    brief: str
    cost: str
    advice: str
    remedy: Remedy | None = None
    facts: tuple[Fact, ...] = ()
    size_db: float = 0.0
    caution: str = ""
    also_lines: tuple[str, ...] = field(default=())

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
