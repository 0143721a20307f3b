"""Every gain where it belongs, as one value: what would be set, why, and the session before and after."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.assess import Assessment, assess
from verve.core.certificates import Certificate, certificates
from verve.core.engine import Engine
from verve.core.gain import all_changes
from verve.core.session import Session, apply_changes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Proposal:
    """The best gains of all lines with their certificates, and both assessments to be compared."""

    certificates: tuple[Certificate, ...]
    before: Assessment
    after: Assessment


def proposal(session: Session, engine: Engine | None = None) -> Proposal:
    """What setting all gains would do, and why; nothing is set by it."""
    engine = engine or Engine()
    found = certificates(session, engine)
    changes = all_changes([one.best for one in found])
    return Proposal(
        certificates=found,
        before=assess(session, engine),
        after=assess(apply_changes(session, changes), engine),
    )
