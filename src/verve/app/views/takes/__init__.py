"""The step Takes."""

from verve.app.views.takes.view import TakesView

__all__ = ["TakesView"]
