"""The practice window: faults, gains, orders, listening, the day, advice; before anybody is waiting."""

from verve.app.practice.window import PAGES, PracticeWindow

__all__ = ["PAGES", "PracticeWindow"]
