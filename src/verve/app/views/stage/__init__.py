"""The step Stage."""

from verve.app.views.stage.view import StageView

__all__ = ["StageView"]
