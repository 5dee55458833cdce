"""The state machine under the actions: which state, in which phase, with which clips."""
