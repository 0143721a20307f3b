"""The step Brief."""

from verve.app.views.brief.pages import PAGES
from verve.app.views.brief.view import BriefView

__all__ = ["PAGES", "BriefView"]
