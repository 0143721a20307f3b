"""What the next thing to do says, where it comes from no finding."""

NO_FINDING = "in its corridor"
SHOW = "Show it"
CONNECT = "Find a way in for all {parts} parts: which microphone, box and socket for whom."
CONNECT_ONE = "Find a way in for the part: which microphone, box and socket for whom."
CONNECT_WHY = "Every way through the kit is computed in this room, and the best of all is chosen."
NEXT_PASS = "{take} is clean: record it for good. After that, find a way in for {name}."
NEXT_PASS_WHY = (
    "It is in the brief, not connected, and in no take yet. The lines of now give way then; their takes keep "
    "every setting."
)
CONNECT_BUTTON = "Find a way in"
EMPTY = "Say who plays what, in Brief; or add a first line, all the way to the recorder."
EMPTY_WHY = "Every line is followed from its source to the recorder."
EMPTY_BUTTON = "Add a line"
REHEARSE = "Everything is in its corridor. Record a test take of {lines}."
REHEARSE_LEFT = (
    "No setting is left to change. Worth knowing{line}: {title}. Record a test take of {lines}."
)
REHEARSE_LEFT_WHY = "{cost} {advice}"
LATER = "{title:later}"
OF_LINE = " about {line}"
REHEARSE_WHY = (
    "What is left before recording: a rehearsal, measured and compared with what was computed."
)
REHEARSE_BUTTON = "Go to Check"
REHEARSE_BUTTON_THERE = "Record it"
CLEAN = "Nothing is wrong: {take} is clean, and every setting is as it was then."
CLEAN_LEFT = "{take} is clean, and every setting is as it was then. Worth knowing{line}: {title}."
CLEAN_WHY = "Record when the players are ready; a knob that moves from here on will be noticed."
CLEAN_BUTTON = "See the takes"
NEXT = "{line}: {advice:later}"
NEXT_WHY = "{title}. {cost}"
LINES = "lines"

PEAK_RANGE = "{low_db:.0} to {high_db:.0} dBFS"
"""A peak that is not one figure: a clipped wave can overshoot behind a filter."""
