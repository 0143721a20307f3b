"""Place with many players: a microphone is dragged, and plan, map and table are painted anew."""

from __future__ import annotations

import math
import statistics
import time
from collections.abc import Iterator

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from verve.app.document import Document
from verve.app.player import Player
from verve.app.tasks import Tasks
from verve.app.views.place import PlaceView
from verve.core.demo import demo_session
from verve.core.place import Key
from verve.core.session import Line, Link, Session, Stand, add_parts, place_source

PLAYERS, MOVES = 16, 200
_FRAME_MS = 16.0


def ensemble(players: int = PLAYERS) -> Session:
    """So many singers in a ring, each with a microphone."""
    demo = demo_session()
    voice = next(s for s in demo.setup.sources if s.id == "singer_voice")
    microphone = next(d for d in demo.setup.devices if d.id == "harp_mic_left")
    session = Session(setup=demo.setup.model_validate({"room": demo.setup.room.model_dump()}))
    for number in range(players):
        source, device = f"voice_{number}", f"microphone_{number}"
        link = Link(id=f"air_{number}", start=f"{source}:out", end=f"{device}:capsule")
        session = add_parts(
            session,
            sources=(
                voice.model_copy(
                    update={"id": source, "name": f"Voice {number + 1}", "performer": None}
                ),
            ),
            devices=(
                microphone.model_copy(update={"id": device, "name": f"Microphone {number + 1}"}),
            ),
            links=(link,),
            lines=(Line(id=f"line_{number}", name=f"Voice {number + 1}", first_link=link.id),),
        )
        turn = 2.0 * math.pi * number / players
        stand = Stand(
            x_m=6.0 + 3.0 * math.sin(turn), y_m=4.8 + 3.0 * math.cos(turn), height_m=1.5,
            facing_deg=math.degrees(turn) % 360.0,
        )  # fmt: skip
        session = place_source(session, source, stand)
    return session


def drag_ms() -> float:
    """Median from a move of the hand until everything is painted."""
    application = QApplication.instance() or QApplication([])
    tasks = Tasks()
    view = PlaceView(Document(ensemble()), tasks, lambda: Player(tasks))
    view.resize(990, 575)
    view.refresh()
    view.show()
    application.processEvents()
    key = Key("microphone", "microphone_0:capsule")
    view.choose(key)
    application.processEvents()
    point = view.plan.point_of(key)
    assert point is not None
    # Taken hold of, as by a hand.
    press = QMouseEvent(
        QEvent.Type.MouseButtonPress, point, point, Qt.MouseButton.LeftButton,
        Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    view.plan.mousePressEvent(press)
    found = []
    for move in range(MOVES):
        turn = 2.0 * math.pi * move / MOVES
        began = time.perf_counter()
        view.plan.dragged.emit(key, 6.0 + 0.5 * math.sin(turn), 8.2 + 0.4 * math.cos(turn))
        application.processEvents()
        found.append((time.perf_counter() - began) * 1000.0)
    view.close()
    return statistics.median(found)


def figures() -> Iterator[tuple[str, float, str, float]]:
    """Name, value, unit and limit of each row."""
    yield f"{PLAYERS} × {PLAYERS}: a microphone dragged, to painted", drag_ms(), "ms", _FRAME_MS
