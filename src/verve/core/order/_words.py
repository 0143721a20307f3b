"""What is said when a card comes too early."""

STOPPED = "Stop: {words} {instead}"
TOO_EARLY = "Too early: later “{step}” would then go wrong. {words} {instead}"
NOTHING_TO_WAIT_FOR = ("There is nothing yet to wait for.", "Switch first, then wait.")
UNDONE_LATER = ("A later step would undo this one.", "First what goes down, then what comes up.")
DONE = "All of it, in a safe order."
DONE_AT_ONCE = "All of it, in a safe order, without a stop."
STOPS = (
    "{stops:n stop|stops} on the way; in the room each would have cost something, here none does."
)
