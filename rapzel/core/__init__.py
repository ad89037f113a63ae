"""The physics of stopping motion with light: plain functions of numbers, without any interface.

Two doors: `evaluate.evaluate(scene)` answers a scene document, `rehearsal.render.render(scene, size)` computes its
picture. Nothing is loaded with the package itself: a process that only decodes pictures does without the physics.
"""
