"""The step Power."""

from verve.app.views.power.view import PowerView

__all__ = ["PowerView"]
