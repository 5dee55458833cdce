"""The pages under the stage of the Sheet bench, beside the Now card: the selected span, the section under the
playhead, the whole action."""
