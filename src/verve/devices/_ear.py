"""A process of its own that talks to the sound devices: a driver that breaks takes this one with it, never a session.

Started by `_system`, as a script and without the rest of Verve. `list` writes the devices as JSON and ends. `record`
writes messages to its standard output until its standard input is closed: a letter, a length of four bytes, and so
many bytes: `r` it is running, `b` a block of interleaved 32-bit floats, `l` sound was lost, `e` why it ends, in JSON.
Where it also gives, each line of its standard input is JSON that names a file of interleaved 32-bit floats to `play`,
null for silence, and a `loop` of two frames or null; `p` says that it begins to play with the block that follows.
"""

from __future__ import annotations

import io
import json
import queue
import struct
import sys
import threading
from pathlib import Path
from typing import Any, Final

NO_LIBRARY_CODE: Final = 3
_Message = tuple[bytes, bytes]


def _devices(library: Any) -> str:
    usual = [index for index in library.default.device if index >= 0]
    rows = [
        {
            "key": index,
            "name": str(row["name"]),
            "channels_in": int(row["max_input_channels"]),
            "channels_out": int(row["max_output_channels"]),
            "usual_rate_hz": round(row["default_samplerate"]),
            "is_usual": index in usual,
        }
        for index, row in enumerate(library.query_devices())
    ]
    return json.dumps(rows)


def _record(library: Any, asked: dict[str, Any]) -> None:
    messages: queue.SimpleQueue[_Message | None] = queue.SimpleQueue()
    common: dict[str, Any] = {
        "samplerate": asked["rate_hz"], "dtype": "float32", "latency": asked["latency_s"],
        "blocksize": asked["block_frames"],
        "finished_callback": lambda: messages.put(None),
    }  # fmt: skip

    playing = _Playing()

    def take(came: Any, _: int, __: object, status: Any) -> None:
        if status.input_overflow:
            messages.put((b"l", b""))
        messages.put((b"b", bytes(came)))

    sent = io.BytesIO(Path(asked["sent"]).read_bytes() if asked.get("sent") else b"")

    def take_and_give(came: Any, wanted: Any, frames: int, when: object, status: Any) -> None:
        part = sent.read(len(wanted))
        wanted[: len(part)] = part
        wanted[len(part) :] = bytes(len(wanted) - len(part))
        take(came, frames, when, status)

    def take_and_play(came: Any, wanted: Any, frames: int, when: object, status: Any) -> None:
        part, begins = playing.next(len(wanted))
        wanted[: len(part)] = part
        wanted[len(part) :] = bytes(len(wanted) - len(part))
        if begins:
            messages.put((b"p", b""))
        take(came, frames, when, status)

    gives = bool(asked.get("gives"))
    try:
        if not asked.get("sent") and not gives:
            stream = library.RawInputStream(
                device=asked["key"], channels=asked["channels"], callback=take, **common
            )
        else:
            stream = library.RawStream(
                device=(asked["key"], asked["output"]),
                channels=(asked["channels"], asked["channels_out"]),
                callback=take_and_play if gives else take_and_give,
                **common,
            )
        stream.start()
    except (library.PortAudioError, ValueError) as error:
        _write((b"e", json.dumps(str(error)).encode()))
        return
    _write((b"r", b""))

    def until_closed() -> None:
        for line in sys.stdin.buffer:
            told = json.loads(line)
            playing.change(told["play"], told["loop"], asked.get("channels_out", 2) * 4)
        messages.put(None)

    threading.Thread(target=until_closed, daemon=True).start()
    while (message := messages.get()) is not None:
        _write(message)
    _write((b"e", json.dumps("").encode()))
    stream.abort()


class _Playing:
    """What is played now; it is changed by another thread, all at once."""

    def __init__(self) -> None:
        self._now: tuple[bytes, tuple[int, int] | None] = (b"", None)
        self._at, self._is_new = 0, False
        self._lock = threading.Lock()

    def change(self, path: str | None, loop: list[int] | None, frame_bytes: int) -> None:
        """Play another file from its beginning; None for silence."""
        body = b"" if path is None else Path(path).read_bytes()
        ends = (
            None if loop is None else (loop[0] * frame_bytes, min(loop[1] * frame_bytes, len(body)))
        )
        with self._lock:
            self._now, self._at, self._is_new = (body, ends), 0, path is not None

    def next(self, count: int) -> tuple[bytes, bool]:
        """So many bytes of it, fewer at its end, and whether it begins with them."""
        with self._lock:
            body, loop = self._now
            begins, self._is_new = self._is_new, False
            found = b""
            while len(found) < count and self._at < len(body):
                end = len(body) if loop is None else loop[1]
                part = body[self._at : min(end, self._at + count - len(found))]
                if not part and loop is None:
                    break
                found += part
                self._at += len(part)
                if loop is not None and self._at >= loop[1]:
                    if loop[1] <= loop[0]:
                        break
                    self._at = loop[0]
            return found, begins


def _write(message: _Message) -> None:
    kind, body = message
    sys.stdout.buffer.write(kind + struct.pack("<I", len(body)) + body)
    sys.stdout.buffer.flush()


def main() -> int:
    """Do what the first argument says; the exit code."""
    try:
        import sounddevice
    except (ImportError, OSError):
        return NO_LIBRARY_CODE
    if sys.argv[1] == "list":
        sys.stdout.write(_devices(sounddevice))
        return 0
    _record(sounddevice, json.loads(sys.argv[2]))
    return 0


if __name__ == "__main__":
    sys.exit(main())
