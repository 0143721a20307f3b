"""The views of the steps, each made when its step is first opened."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeAlias

from verve.core.findings import Step

if TYPE_CHECKING:
    from verve.app.views.brief import BriefView
    from verve.app.views.check import CheckView
    from verve.app.views.monitor import MonitorView
    from verve.app.views.patch import PatchView
    from verve.app.views.place import PlaceView
    from verve.app.views.power import PowerView
    from verve.app.views.stage import StageView
    from verve.app.views.takes import TakesView
    from verve.app.window import MainWindow

    View: TypeAlias = (
        BriefView
        | PatchView
        | PlaceView
        | PowerView
        | StageView
        | MonitorView
        | CheckView
        | TakesView
    )


def made_view(window: MainWindow, step: Step) -> View:
    """The view of a step, connected with the window."""
    # Imported in the functions: what a step needs is loaded when the step is first opened.
    make = {
        "brief": _brief,
        "patch": _patch,
        "place": _place,
        "power": _power,
        "stage": _stage,
        "monitor": _monitor,
        "check": _check,
        "takes": _takes,
    }
    return make[step](window)


def _monitor(window: MainWindow) -> View:
    from verve.app.views.monitor import MonitorView

    return MonitorView(
        window.document,
        window.tasks,
        lambda: window.player,
        window.take_folder,
    )


def _brief(window: MainWindow) -> View:
    from verve.app.views.brief import BriefView

    brief = BriefView(window.document, window.tasks, window.beside.own_gear)
    brief.connections_wanted.connect(window.suggest_connections)
    return brief


def _patch(window: MainWindow) -> View:
    from verve.app.views.patch import PatchView

    patch = PatchView(window.document, window.tasks)
    patch.page.connections_wanted.connect(lambda: window.suggest_connections(""))
    patch.page.trouble_wanted.connect(window.beside.show_trouble)
    patch.page.move_wanted.connect(window.beside.move_line)
    patch.add_pressed.connect(window.beside.add_line)
    patch.replace_pressed.connect(window.beside.replace)
    return patch


def _place(window: MainWindow) -> View:
    from verve.app.views.place import PlaceView

    place = PlaceView(window.document, window.tasks, lambda: window.player)
    place.add_pressed.connect(window.beside.add_line)
    place.room_pressed.connect(window.beside.edit_session)
    return place


def _power(window: MainWindow) -> View:
    from verve.app.views.power import PowerView

    return PowerView(window.document, window.tasks)


def _stage(window: MainWindow) -> View:
    from verve.app.views.stage import StageView

    stage = StageView(window.document)
    stage.settle_pressed.connect(window.beside.settle)
    return stage


def _check(window: MainWindow) -> View:
    from verve.app.views.check import CheckView

    check = CheckView(
        window.document,
        window.tasks,
        window.rehearsal,
        window.take_folder,
        window.importing,
        lambda: window.player,
    )
    check.rehearse.explanation_wanted.connect(window.beside.explain)
    check.alarmed.connect(window.show_alarm)
    check.guided.trouble_wanted.connect(window.beside.show_trouble)
    return check


def _takes(window: MainWindow) -> View:
    from verve.app.views.takes import TakesNeeds, TakesView

    takes = TakesView(
        window.document,
        window.tasks,
        TakesNeeds(
            connecting=window.connecting,
            suggest=window.suggest_connections,
            standby=window.standby,
            take_folder=window.take_folder,
            player=lambda: window.player,
            live=lambda: window.check.guided.sound.live(),
        ),
    )
    takes.step_wanted.connect(window.go)
    takes.clock_wanted.connect(lambda: window.offering.open("day"))
    takes.explanation_wanted.connect(window.beside.explain)
    takes.recordings_wanted.connect(window.importing.add)
    return takes
