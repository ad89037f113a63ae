"""Views by noun: shoots, scenes, the inputs of a scene, and what is printed of it."""
