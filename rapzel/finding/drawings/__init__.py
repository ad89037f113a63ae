"""The drawings of methods and searches, from the core's numbers."""
