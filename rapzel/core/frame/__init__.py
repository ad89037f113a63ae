"""How large the motion is in the picture: optics, the criterion of sharpness, depth of field, diffraction (science §3).

Kernels only: plain functions of numbers with units in their names. A scene's framing is put together in
`physics.framing`.
"""
