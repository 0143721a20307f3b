"""What a pass needs, what is missing for it, the ways out, what gear would change, the computer."""

from verve.core.needs._computer import Check, checks_of, stream_mb_per_s
from verve.core.needs._microphones import MicrophoneRow, microphone_rows
from verve.core.needs._needs import Need, needs_of, spare_devices
from verve.core.needs._outs import WayOut, ways_out
from verve.core.needs._worth import Worth, by_money, worth_of

__all__ = [
    "Check",
    "MicrophoneRow",
    "Need",
    "WayOut",
    "Worth",
    "by_money",
    "checks_of",
    "microphone_rows",
    "needs_of",
    "spare_devices",
    "stream_mb_per_s",
    "ways_out",
    "worth_of",
]
