"""The step Brief."""

from verve.app.views.brief.view import PAGES, BriefView

__all__ = ["PAGES", "BriefView"]
