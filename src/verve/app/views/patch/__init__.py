"""The step Patch."""

from verve.app.views.patch.view import PatchView

__all__ = ["PatchView"]
