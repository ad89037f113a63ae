"""Views of the bench by noun: recordings, what goes out of them, and the simulated instrument."""
