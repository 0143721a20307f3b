"""The session that ships: an ensemble in a borrowed building, with mistakes planted in it."""

from __future__ import annotations

from pathlib import Path

from verve.core.session import Session, from_json

_FILE = Path(__file__).resolve().parents[1] / "data" / "demo.verve.json"


def demo_session() -> Session:
    """The demo session, fresh each time."""
    return from_json(_FILE.read_text(encoding="utf-8"), _FILE.name)
