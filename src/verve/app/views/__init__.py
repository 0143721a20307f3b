"""One module a step: each draws the assessment and sends edits."""
