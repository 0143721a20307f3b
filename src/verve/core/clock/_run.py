"""The day, played through: event by event, with what goes wrong on the way and what one does about it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from verve.core.clock import _words as words
from verve.core.clock._incidents import Incident, drawn
from verve.core.clock._plan import Day, Event, clock_text, span_text
from verve.core.words import fill


@dataclass(frozen=True, slots=True, kw_only=True)
class Played:
    """An event as it was: when it really began and ended, what went wrong, and whether it was left out."""

    event: Event
    start_s: float
    end_s: float
    incident: Incident | None = None
    is_left_out: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DayRun:
    """Where one is in the day: what has been, when it is now, and what has just gone wrong, if anything."""

    day: Day
    incidents: Mapping[int, Incident] = field(default_factory=dict)
    at: int = 0
    late_s: float = 0.0
    played: tuple[Played, ...] = ()
    pending: Incident | None = None
    leave_out: int = 0
    """So many takes are still to be left out."""

    @staticmethod
    def of(day: Day, per_h: float, seed: int) -> DayRun:
        """At the beginning."""
        return DayRun(day=day, incidents=drawn(day, per_h, seed))

    @property
    def is_over(self) -> bool:
        """Whether the day is through."""
        return self.at >= len(self.day.events) and self.pending is None

    @property
    def now_s(self) -> float:
        """What the clock says, in seconds since midnight."""
        if self.played:
            return max(one.end_s for one in self.played)
        return self.day.events[0].start_s if self.day.events else self.day.end_s

    @property
    def lost_s(self) -> float:
        """What incidents have taken."""
        return sum(
            one.incident.seconds for one in self.played if one.incident and not one.is_left_out
        )

    @property
    def dropped(self) -> int:
        """How many takes were left out."""
        return sum(one.is_left_out for one in self.played)

    @property
    def takes(self) -> int:
        """How many takes there are."""
        return sum(one.event.kind == "take" and not one.is_left_out for one in self.played)

    def forward(self) -> DayRun:
        """The next event; where something goes wrong in it, that has to be decided first."""
        if self.is_over or self.pending is not None:
            return self
        incident = self.incidents.get(self.at)
        if incident is not None:
            return replace(self, pending=incident)
        return self._through(None)

    def decide(self, *, now: bool) -> DayRun:
        """Mend it now, or go on and leave one take out for it; what cannot wait is mended in any case."""
        incident = self.pending
        if incident is None:
            return self
        if now or not incident.can_wait:
            return replace(self, pending=None)._through(incident)
        return replace(self, pending=None, leave_out=self.leave_out + 1)._through(None)

    def _through(self, incident: Incident | None) -> DayRun:
        event = self.day.events[self.at]
        begin = event.start_s + self.late_s
        takes_s = event.seconds + (incident.seconds if incident else 0.0)
        late_s = self.late_s + (incident.seconds if incident else 0.0)
        is_left_out = event.kind == "take" and self.leave_out > 0
        leave_out = self.leave_out
        if is_left_out:
            takes_s, leave_out, incident = 0.0, leave_out - 1, None
            late_s = self.late_s - event.seconds
        if event.kind in {"arrive", "wait"}:
            # Who comes at a time comes then, however late everything else is; what is late eats the waiting.
            spare = min(max(0.0, late_s), event.seconds)
            late_s, takes_s = late_s - spare, takes_s - spare
        if event.kind == "arrive":
            begin, late_s, takes_s = event.start_s, self.late_s, 0.0
        played = Played(
            event=event, start_s=begin, end_s=begin + takes_s, incident=incident, is_left_out=is_left_out
        )  # fmt: skip
        return replace(
            self, at=self.at + 1, late_s=late_s, played=(*self.played, played), leave_out=leave_out
        )

    def says(self) -> tuple[str, ...]:
        """What is told at the end: when, how many takes, what was lost, and what would have helped."""
        over_s = self.now_s - self.day.end_s
        found = [fill(words.DONE, at=clock_text(self.now_s), takes=self.takes)]
        found.append(
            fill(words.LATE, late=span_text(over_s))
            if over_s > 0.0
            else fill(words.IN_TIME, free=span_text(-over_s))
        )
        if self.lost_s or self.dropped:
            lost = span_text(self.lost_s) if self.lost_s else words.NO_TIME
            found.append(fill(words.LOST, lost=lost, dropped=self.dropped))
        seen = dict.fromkeys(one.incident for one in self.played if one.incident)
        return (*found, *(one.prevents for one in seen if one is not None))


def choices(incident: Incident) -> tuple[str, ...]:
    """What one can do about it, in words; the first is to mend it now."""
    time = span_text(incident.seconds)
    if not incident.can_wait:
        return (fill(words.TAKES, time=time),)
    return (fill(words.DO_IT, time=time), words.LEAVE_OUT)
