"""What a proof found: so many tries, and what went wrong in them."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field


@dataclass(slots=True)
class Tally:
    """Tries of one kind, what came of them, and each fault with how to do it again."""

    name: str
    tries: int = 0
    outcomes: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)

    def note(self, outcome: str) -> None:
        """A try that went as it should."""
        self.tries += 1
        self.outcomes[outcome] += 1

    def fault(self, what: str) -> None:
        """A try that did not: a loss, a traceback, a hang, too much memory."""
        self.tries += 1
        self.faults.append(what)

    def add(self, other: Tally) -> None:
        """Tries of the same kind from elsewhere."""
        self.tries += other.tries
        self.outcomes += other.outcomes
        self.faults += other.faults

    def text(self) -> str:
        """One line, and the first faults below it."""
        went = ", ".join(f"{count} {what}" for what, count in self.outcomes.most_common())
        lines = [f"{self.name:<44} {self.tries:>7} tries, {len(self.faults)} faults ({went})"]
        return "\n".join([*lines, *(f"    {what}" for what in self.faults[:8])])
