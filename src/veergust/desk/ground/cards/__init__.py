"""The pages of the Ground bench: a state, a group, a transition, parameters, the body, and what plays."""
