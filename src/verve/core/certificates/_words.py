"""What is said of the best settings, and of what else would help."""

FURTHER = "better"
NEARER = "worse"
EFFECT = "signal-to-noise ratio {by_db:.0} dB {way}"
AIM_REACHED = "the target is reached"
WITH_PHANTOM = ", with phantom power"
GO_BACK = "Go back, to {distance_cm:.0} cm"
TURN_SOURCE_DOWN = "Turn {source} down to {position:.0%}"
KIT_INSTEAD = "{item} from your kit instead of {device}"
KIT_BEHIND = "{item} from your kit behind {device}"
OTHER_INPUT = "Into {input} of {recorder} as {mode} input"
UNLOCK = "Unlock {controls}"
GO_CLOSER = "Go closer, to {distance_cm:.0} cm"
QUIETER_ROOM = "A room {by_db:.0} dB quieter: fans and fridges off, windows shut"
OTHER_TARGET = "Another target: {target}"
EVERYTHING_ELSE = "everything else"
EVERY_GAIN = "every gain"
ABOVE_AIM = (
    "Even with {what} at its lowest and every pad in it arrives {over_db:.0} dB above the target."
)
CEILING = (
    "{stage} is the ceiling: it has {headroom_db:.1} dB of headroom left at the loudest passage, and gain "
    "before it would clip there."
)
WITH_OTHER = "It is set together with {other}, which bears no more."
GAIN_STEPS = "Its gains go in steps: the next one would be above the target."
AT_END_OF_OTHER = "It is set together with {other}, and no position higher up is one of both."
AT_ITS_END = "Every gain of the signal path is at its end."
AT_ITS_END_BUT_LOCKED = "Every gain that is not locked is at its end."
HAS_LEFT = "; {stage} has {headroom_db:.1} dB left"
AT_AIM = "The loudest passage is at the target"
LOWER_FOR_BUS = (
    "It goes {share_db:.1} dB lower for the other signals of its bus: together their loudest passage is at "
    "the target"
)
NOT_LOUDER = "{whose} of {target_dbfs:+.0 dBFS}: a harder phrase needs what is above it{left}."
NOT_QUIETER = "Quieter would not clip less, and the whole take would have to be raised by as much."
CONVERTER_HISS = (
    "The converter’s own noise is {share:.0%} of the noise already; quieter it would be more, and raising "
    "the take brings it up."
)
RAISED = (
    "As it is set now, raised afterwards by {up_db:.0} dB, its noise is {noise_dbfs_a:+.0 dBFS A}"
)
RAISED_ALIKE = "{raised}: no more than with these settings. Nothing is gained by turning up."
RAISED_WORSE = "{raised}: {worse_db:.0} dB more than a take made so."
NO_NOISE = "No noise is known of."
LEAVE_IT = " Accept it: no other gear would be heard."
ROOM_NOISE = "Room noise is {above_db:.1} dB above the equipment noise.{tail}"
LARGEST_NOISE = "{name} is {share:.0%} of the noise that remains."
CABLES = "The cables"
ROOM = "The room"
CONTROL_OF = "the {control} of {place}"
CONTROL_AT = "{control} at {value}"
LOCKED = "Locked: {controls}; the rest is set around it."
LOCKED_APART = (
    " {line} is locked at another position, so the two sides of the pair cannot be set alike: unlock one"
    " of them."
)
WITHIN = (
    "Not every position could be compared in time; nothing else is better in signal-to-noise ratio by more than "
    "{within_db:.1} dB."
)
SILENT = "It is silent until it gets its phantom power, see Power; these are the gains for then."
