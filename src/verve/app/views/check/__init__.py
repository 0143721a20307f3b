"""The step Check."""

from verve.app.views.check.view import CheckView

__all__ = ["CheckView"]
