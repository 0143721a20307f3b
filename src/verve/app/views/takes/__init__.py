"""The step Takes."""

from verve.app.views.takes.view import TakesNeeds, TakesView

__all__ = ["TakesNeeds", "TakesView"]
