"""What is said of phantom power, mains and the run sheet, apart from how they are judged."""

from verve.core.findings import RuleWords

CAUTION = "Monitors and headphones down first; then switch, and wait ten seconds."

# ── findings ──
MISSING = RuleWords(
    title="{device} needs phantom power",
    brief="silent: no phantom power",
    cost="{line} records nothing: {device} does not work without phantom power.",
    advice="Switch phantom power on at {place}.",
    button="Switch phantom on",
    caution=CAUTION,
)
MISSING_WITHOUT_SWITCH = MISSING.but(
    advice="Take an input that gives phantom power, or a box with a battery."
)
MISSING_BUT_HARMS = MISSING.but(
    advice="Not on this switch: {harmed} shares it and cannot take phantom power. Move one of them to "
    "another input."
)
MISSING_ELSEWHERE = MISSING.but(
    advice="Move the signal to a microphone input: {place} is none, and gives no phantom power."
)
MISSING_IN_OTHER_MODE = MISSING.but(
    advice="Make {place} a microphone input, and switch its phantom power on.",
    button="Make it a microphone input",
)
KEPT = RuleWords(
    title="{keeper} blocks phantom power to {device}",
    brief="silent: no phantom power",
    cost="{line} records nothing: {keeper} lets no phantom power through.",
    advice="Take {keeper} out, or put {device} on an input of its own.",
    caution=CAUTION,
)
KEPT_BY_SPLITTER = KEPT.but(
    advice="Ask the other desk, on the direct output, to give phantom power; or take the direct output "
    "yourself.",
    button="The other desk gives it",
)
HARMS = RuleWords(
    title="{device} must not get phantom power",
    brief="phantom power can harm it",
    cost="48 V can damage {device}; a fault in the cable is enough.",
    advice="Switch it off, wait, and only then plug or unplug.",
    button="Switch phantom off",
    caution=CAUTION,
)
HARMS_OUTPUT = HARMS.but(
    cost="48 V meets the output of {device}, which is made to give and not to take."
)
IDLE = RuleWords(
    title="Phantom power is on, and nothing here uses it",
    brief="phantom power without use",
    cost="Nothing while it stays plugged in; a bang or worse when something is plugged.",
    advice="Switch it off where nothing needs it.",
    button="Switch phantom off",
    caution=CAUTION,
)
SAGS = RuleWords(
    title="Only {arrives_v:.0 V} arrive at {device}",
    brief="{arrives_v:.0 V} of phantom power",
    cost="It wants {least_v:g V}: below that it clips early, hisses or falls silent.",
    advice="A supply of its own, or another box, if it sounds strained.",
)
MAY_SAG = SAGS.but(
    cost="It may clip early or hiss; look into its data sheet for the least it wants."
)
OVER_JACK = RuleWords(
    title="Phantom power on a jack connection of {line}",
    brief="phantom power on a jack",
    cost="While a jack is plugged or pulled it shorts 48 V to the signal: that can destroy.",
    advice="Switch phantom power off: nothing here needs it.",
    button="Switch phantom off",
    caution=CAUTION,
)
OVER_JACK_USED = OVER_JACK.but(
    advice="Use an XLR cable; phantom power off and wait before you change it.",
    button="",
)
LOUDSPEAKER_LEVEL = RuleWords(
    title="{source} gives loudspeaker level into {device}",
    brief="loudspeaker level",
    cost="Tens of volts: they can destroy an input that is made for one.",
    advice="Only a box made for loudspeaker level, with its pad in, and the loudspeaker stays connected.",
    caution="A valve amplifier never runs without its load: the loudspeaker stays plugged in. Inside an "
    "amplifier are deadly voltages; that is for a licensed technician.",
)
WITHOUT_LOAD = RuleWords(
    title="{source} runs without its load",
    brief="valve amplifier without load",
    cost="Without loudspeaker or load its output transformer can be destroyed within seconds.",
    advice="Switch it off, plug the loudspeaker or a load made for it in, and only then switch it on.",
    button="Loudspeaker is connected",
    caution="Inside a valve amplifier are deadly voltages, also when it is off; that is for a licensed "
    "technician.",
)
OVER_BUDGET = RuleWords(
    title="Phantom supply of {device} overloaded",
    brief="phantom supply overloaded",
    cost="The voltage sags: microphones clip early, hiss or fall silent.",
    advice="Power one of them otherwise, or use a box with a battery.",
)

# ── the numbers beside them ──
NEEDS_48_V, MUST_NOT_GET_48_V = "needs 48 V", "must not get 48 V"
PHANTOM_AT, OFF = "Phantom at {input}", "off"
ARRIVES = "Arrives"
ARRIVES_HOW = (
    "48 V − {feed_resistance_ohm:g Ω} × {current_ma:g mA} ÷ 2; at least {least_v:g V} is needed"
)
ARRIVES_HOW_TYPICAL = ARRIVES_HOW + " (typical)"
LOADED_LABEL, NO = "Loudspeaker connected", "no"
ASKED_FOR, SUPPLY = "Asked for", "Supply"

# ── switches and what hangs on them ──
SWITCH = "{device}, {switch}"
NOTE_NEVER = "{device} must not get it"
NOTE_TOLERATES = "{device} does not need it, harmless"
NOTE_WAITS = "{device} needs it"
NOTE_NEEDS = "{device} needs it: {arrives_v:.0 V} arrive"
NOTE_NEEDS_LEAST = "{device} needs it: {arrives_v:.0 V} of at least {least_v:g V} arrive"
NOTE_KEPT = "{keeper} blocks it to {device}"

# ── the run sheet: what to do, and why ──
MONITORS_UP = (
    "Monitors and headphones up again, slowly.",
    "Last of all: until now anything could have banged.",
)
MORE = "{count} more"
MONITORS_UP_OPEN = (
    "Headphones up again, slowly; loudspeakers stay down while {lines} can hear them.",
    "A microphone hears loudspeakers, and so does a pickup in a hollow body: it howls, and they are in the take.",
)
MONITORS_DOWN = (
    "Monitors and headphones all the way down; headphones off the ears.",
    "Plugs and phantom power bang; no ear and no loudspeaker should hear it.",
)
END_OF_CABLE = "{device}, {port}"
PLUG = (
    "Plug {start} into {end}.",
    "Nothing is up and no phantom power is on: a plug harms nothing now.",
)
UNPLUG = ("Unplug {start} from {end}.", "Phantom power is off and has fallen.")
PLACE = ("Put {device} before {source}, at {at}.", "Distance is level, room and bass.")
LOAD = (
    "See that the loudspeaker is plugged into {device}.",
    "A valve amplifier without its load can be destroyed within seconds.",
)
SWITCH_AMPLIFIER_ON = (
    "Switch {device} on.",
    "Everything is plugged; it bangs into nothing that is up.",
)
SWITCH_AMPLIFIER_OFF = (
    "Switch {device} off.",
    "Loudspeaker level is live until it is off; let it cool before it is carried.",
)
SWITCH_ON = ("Switch {device} on.", "From the sources to the monitors.")
SWITCH_OFF = ("Switch {device} off.", "From the monitors to the sources.")
PHANTOM_ON = (
    "Phantom power on at {device}, {switch}.",
    "Every cable is in: from here on nothing on this switch is plugged or unplugged.",
)
PHANTOM_OFF = (
    "Phantom power off at {device}, {switch}.",
    "Before anything on this switch is plugged or unplugged.",
)
WAIT_ON = (
    "Wait {wait_s} seconds, until it has risen.",
    "What is connected to it settles meanwhile.",
)
WAIT_OFF = (
    "Wait {wait_s} seconds, until it has fallen.",
    "What is connected to it settles meanwhile.",
)
GAIN_UP = ("{line}: up to {gains}.", "While the player plays the loudest passage of this song.")
GAIN_DOWN = (
    "{line}: gain all the way down.",
    "What is about to be plugged or switched would come through it.",
)

# ── hazards: what could happen, and what to do instead ──
MONITORS_FIRST = "Monitors and headphones down first."
LIVE_PHANTOM = (
    "A plug moves while phantom power is on it or still falling: it can destroy.",
    "Phantom power off first, and wait.",
)
PLUG_BANGS = ("The plug bangs through monitors or headphones.", MONITORS_FIRST)
LIVE_AMPLIFIER = (
    "The amplifier is on: its loudspeaker output can destroy what is plugged now.",
    "Switch the amplifier off first.",
)
UNLOADED = (
    "A valve amplifier without its load can be destroyed within seconds.",
    "Switch it off; plug its loudspeaker in first.",
)
HARMED = ("{device} must not get phantom power.", "Leave this switch off.")
SWITCH_BANGS = ("The switch bangs through monitors or headphones.", MONITORS_FIRST)
STILL_RISING = (
    "Phantom power is still rising: it thumps in the recording.",
    "Wait {wait_s} seconds first.",
)
MAINS_BANG = ("Switching it bangs through monitors or headphones.", MONITORS_FIRST)
HAZARD = "{words} {instead}"
NOW = "Now: {words} {reason}"
"""What comes next on a sheet."""

# ── hum: what it comes from, by tests of ten seconds ──
HUM_STRINGS = "Touch the strings: if it falls, the screening of instrument or cable is poor."
HUM_TURN = (
    "Let the player turn round: if it changes, the pickup hears a transformer or a screen; turn away, "
    "go further."
)
HUM_LAPTOP = (
    "Run the computer on its battery: if it is gone, its charger makes a ground loop; one power strip for all, "
    "or a transformer."
)
TINGLE = (
    "A tingle between lips and microphone, or hand and strings, is mains voltage: stop, touch nothing, "
    "unplug at the wall, and have an electrician look. Never lift a mains safety earth."
)
# ── what everybody hears ──
ARM = (
    "Arm {armed}; {disarmed} is recorded no more",
    "Two tracks on one input record the same thing.",
)
ARM_ALONE = ("Arm {armed}", "What is not armed is not recorded.")
LISTEN = (
    "{who}: {switches}.",
    "One way alone, or it is heard twice; effects that are not meant for the recording stay out of it.",
)
DIRECT_ON, DIRECT_OFF = "direct monitoring on", "direct monitoring off"
SOFTWARE_ON, SOFTWARE_OFF = "monitoring in the software on", "monitoring in the software off"
DRY = "record dry"
