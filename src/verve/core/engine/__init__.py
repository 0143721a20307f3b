"""What is remembered from one assessment to the next: an engine, which somebody owns."""

from verve.core.engine._engine import Engine
from verve.core.engine._remembered import Remembered

__all__ = ["Engine", "Remembered"]
