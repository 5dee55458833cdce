"""Two states of a project held against each other: what answers to what, what was changed, in the animator's words,
and both put together."""
