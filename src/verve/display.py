"""Whether there is a display to show a window on, asked before the window system ends the program."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import socket

_WITHOUT = ("offscreen", "minimal", "vnc", "linuxfb", "eglfs")
_REMEDY = "start it on a desktop, or on a virtual display: xvfb-run verve"
_WAIT_S = 3.0


def missing_display(environment: Mapping[str, str]) -> str:
    """Why no window can be shown, as a rule for whoever started it; empty where one can."""
    if environment.get("QT_QPA_PLATFORM", "").startswith(_WITHOUT):
        return ""
    x11, wayland = environment.get("DISPLAY", ""), environment.get("WAYLAND_DISPLAY", "")
    if not x11 and not wayland:
        return f"must be there to show a window; {_REMEDY}"
    if wayland and _answers_wayland(wayland, environment.get("XDG_RUNTIME_DIR", "")):
        return ""
    if x11 and _answers_x11(x11):
        return ""
    return f"{x11 or wayland} does not answer; {_REMEDY}"


def _connects(family: socket.AddressFamily, address: str | tuple[str, int]) -> bool:
    # Imported here, as below: with a window system that needs no display nobody asks.
    import socket

    with socket.socket(family, socket.SOCK_STREAM) as tried:
        tried.settimeout(_WAIT_S)
        try:
            tried.connect(address)
        except (OSError, ValueError):
            return False
    return True


def _answers_wayland(name: str, folder: str) -> bool:
    import socket

    return _connects(socket.AF_UNIX, str(Path(folder) / name))


def _answers_x11(name: str) -> bool:
    import re
    import socket

    found = re.fullmatch(r"(?:unix/?)?(.*):(\d+)(?:\.\d+)?", name)
    if found is None:
        return False
    host, number = found[1], int(found[2])
    if host and not host.startswith("/"):
        return _connects(socket.AF_INET, (host, 6000 + number))
    place = f"/tmp/.X11-unix/X{number}"
    return _connects(socket.AF_UNIX, place) or _connects(socket.AF_UNIX, f"\0{place}")
