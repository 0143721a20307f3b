"""The views of a window by their names."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from verve.core.findings import Step

if TYPE_CHECKING:
    from verve.app.views.brief import BriefView
    from verve.app.views.check import CheckView
    from verve.app.views.making import View
    from verve.app.views.monitor import MonitorView
    from verve.app.views.patch import PatchView
    from verve.app.views.place import PlaceView
    from verve.app.views.power import PowerView
    from verve.app.views.stage import StageView
    from verve.app.views.takes import TakesView


class NamedViews:
    """Whatever has a view for each step."""

    def view(self, step: Step) -> View:
        """The view of a step."""
        raise NotImplementedError

    @property
    def brief(self) -> BriefView:
        """The view of Brief."""
        return cast("BriefView", self.view("brief"))

    @property
    def patch(self) -> PatchView:
        """The view of Patch."""
        return cast("PatchView", self.view("patch"))

    @property
    def place(self) -> PlaceView:
        """The view of Place."""
        return cast("PlaceView", self.view("place"))

    @property
    def power(self) -> PowerView:
        """The view of Power."""
        return cast("PowerView", self.view("power"))

    @property
    def stage(self) -> StageView:
        """The view of Stage."""
        return cast("StageView", self.view("stage"))

    @property
    def monitor(self) -> MonitorView:
        """The view of Monitor."""
        return cast("MonitorView", self.view("monitor"))

    @property
    def check(self) -> CheckView:
        """The view of Check."""
        return cast("CheckView", self.view("check"))

    @property
    def takes(self) -> TakesView:
        """The view of Takes."""
        return cast("TakesView", self.view("takes"))
