"""How much light arrives: guide numbers, the room, exposures put together, the ladder (science §5, §6).

Kernels only: plain functions of numbers or arrays. The lights of a scene are put together in `physics.lights`.
"""
