"""Things that turn, break, burst and fall, and animals. Shapes are in units of the subject's own height, y upwards."""

import math
import random

from rapzel.core.subjects.pen import Layer, NewPen


def wheel(new_pen: NewPen) -> list[Layer]:
    """A lettered target with spokes of four widths on a rod; all of it moves."""
    wheel = new_pen()
    wheel.line([(0.0, -0.46), (0.0, -0.9)], 0.02, 0.35)
    wheel.disc((0.0, 0.0), 0.46, 0.08)
    wheel.ring((0.0, 0.0), 0.46, 0.03, 0.85)
    for spoke in range(48):
        angle = math.tau * spoke / 48
        inner, outer = 0.10, 0.42
        ends = [(r * math.cos(angle), r * math.sin(angle)) for r in (inner, outer)]
        # Four widths in turn: the finest that is still seen tells how sharp it is.
        wheel.line(ends, 0.002 * 2 ** (spoke % 4), 0.85)
    wheel.disc((0.0, 0.0), 0.13, 0.82)
    wheel.letters("RAPZEL", (0.0, 0.03), 0.055, 0.05)
    wheel.letters("1 2 4 8", (0.0, -0.04), 0.045, 0.05)
    return [wheel.layer(1.0)]


def drop(new_pen: NewPen) -> list[Layer]:
    """A crown of splash with a jet and beads above still liquid; what is above the surface moves."""
    still = new_pen()
    still.polygon([(-9.0, -0.3), (9.0, -0.3), (9.0, -3.0), (-9.0, -3.0)], 0.16)
    # Rings that run out over the still liquid.
    for wave in range(7):
        still.ring((0.0, -0.5), 0.42 + 0.2 * wave, 0.006, 0.4, flatten=0.16)
    splash = new_pen()
    splash.polygon([(-0.30, -0.5), (-0.36, -0.16), (0.36, -0.16), (0.30, -0.5)], 0.45)
    # The crown: teeth that rise towards the middle, each with a bead on top.
    for tooth in range(11):
        x = -0.36 + tooth * 0.072
        height = -0.16 + 0.10 * (1 - (tooth - 5) ** 2 / 40) + 0.03 * (-1) ** tooth
        splash.line([(x, -0.18), (x * 1.06, height)], 0.016, 0.62)
        splash.disc((x * 1.09, height + 0.03), 0.014, 0.88)
    # The jet with its drop, a highlight on it, and beads above.
    splash.line([(0.0, -0.30), (0.0, 0.26)], 0.035, 0.7)
    splash.disc((0.0, 0.33), 0.062, 0.75)
    splash.disc((-0.02, 0.352), 0.014, 0.98)
    for bead in range(5):
        splash.disc((0.02 * math.sin(bead * 2.1), 0.43 + bead * 0.024), 0.006, 0.9)
    return [still.layer(0.0), splash.layer(1.0)]


def spray(new_pen: NewPen) -> list[Layer]:
    """A fan of water thrown from a bowl: threads that break into beads."""
    bowl = new_pen()
    bowl.polygon([(-0.62, -0.36), (-0.30, -0.30), (-0.36, -0.46), (-0.54, -0.48)], 0.4)
    water, draw = new_pen(), random.Random(5)
    # Threads of the fan, from flat to steep, bending down with the square of their way.
    for thread in range(26):
        angle = math.radians(8 + thread * 2.6)
        reach = 0.75 + 0.2 * draw.random()
        points = [
            (
                -0.42 + reach * part * math.cos(angle),
                -0.33 + reach * part * math.sin(angle) - 0.25 * part**2,
            )
            for part in (0.0, 0.3, 0.6, 0.8)
        ]
        water.line(points, 0.006 + 0.006 * draw.random(), 0.5 + 0.3 * draw.random())
        for bead in range(9):
            part = 0.82 + bead * 0.035
            x = -0.42 + reach * part * math.cos(angle) + 0.01 * draw.random()
            y = -0.33 + reach * part * math.sin(angle) - 0.25 * part**2
            radius = 0.004 + 0.008 * draw.random()
            water.disc((x, y), radius, 0.62)
            # A highlight on each bead.
            water.disc((x - radius * 0.3, y + radius * 0.3), radius * 0.3, 0.97)
    return [bowl.layer(0.0), water.layer(1.0)]


def glass(new_pen: NewPen) -> list[Layer]:
    """A glass that has just been hit: the foot stands, shards with cut edges fly, and what was in it."""
    foot, shards, draw = new_pen(), new_pen(), random.Random(11)
    foot.polygon([(-0.16, -0.49), (0.16, -0.49), (0.14, -0.46), (-0.14, -0.46)], 0.6)
    foot.line([(0.0, -0.47), (0.0, -0.20)], 0.022, 0.55)
    # Shards, the nearer to the middle the more of them.
    for _ in range(46):
        angle, away = math.tau * draw.random(), 0.06 + 0.36 * draw.random() ** 0.7
        x, y = away * math.cos(angle), 0.10 + away * math.sin(angle)
        size, turn = 0.02 + 0.05 * draw.random(), math.tau * draw.random()
        corners = [
            (
                x + size * (0.5 + draw.random()) * math.cos(turn + at),
                y + size * math.sin(turn + at),
            )
            for at in (0.0, 1.9, 2.6, 4.4)
        ]
        shards.polygon(corners, 0.35 + 0.3 * draw.random())
        # A cut edge shines; the crack across a shard is dark.
        shards.line([*corners, corners[0]], 0.0025, 0.95)
        shards.line([corners[0], corners[2]], 0.0015, 0.2)
    # Drops of what was in the glass.
    for _ in range(60):
        angle, away = math.tau * draw.random(), 0.05 + 0.42 * draw.random()
        shards.disc(
            (away * math.cos(angle), 0.08 + away * math.sin(angle)),
            0.003 + 0.008 * draw.random(),
            0.8,
        )
    shards.letters("RAPZEL", (0.02, 0.12), 0.03, 0.9)
    return [foot.layer(0.0), shards.layer(1.0)]


def balloon(new_pen: NewPen) -> list[Layer]:
    """A balloon as it bursts: the skin tears back in strips, the water keeps its shape for a moment."""
    water, skin = new_pen(), new_pen()
    water.disc((0.0, 0.05), 0.34, 0.35, 1.1)
    # The water keeps the balloon's shape for a moment, and ripples run over it.
    for ripple in range(9):
        water.ring((0.0, 0.05), 0.06 + ripple * 0.032, 0.004, 0.55, 1.1)
    water.disc((-0.12, 0.20), 0.05, 0.9, 0.8)
    # Strips of the skin, torn away outwards.
    for strip in range(11):
        begin = math.radians(150 + strip * 22)
        inner, outer = 0.33, 0.38 + 0.03 * (strip % 3)
        points = [
            (r * math.cos(begin + bend), 0.05 + 1.1 * r * math.sin(begin + bend))
            for r, bend in ((inner, 0.0), (outer, 0.12), (outer + 0.05, 0.30))
        ]
        skin.line(points, 0.026, 0.72)
        skin.line(points, 0.003, 0.2)
    skin.line([(0.0, -0.36), (0.02, -0.48)], 0.02, 0.7)
    skin.letters("RAPZEL", (-0.36, 0.30), 0.03, 0.1)
    return [water.layer(0.1), skin.layer(1.0)]


def moth(new_pen: NewPen) -> list[Layer]:
    """A hawk-moth at a flower: the flower stands, the wings beat, veins and scales on them."""
    flower, body, wings = new_pen(), new_pen(), new_pen()
    # The flower stands; the moth hovers before it.
    for petal in range(5):
        angle = math.radians(140 + petal * 30)
        flower.line(
            [
                (0.62, -0.05),
                (0.62 + 0.2 * math.cos(angle), -0.05 + 0.2 * math.sin(angle)),
            ],
            0.05,
            0.7,
        )
    flower.line([(0.64, -0.06), (0.80, -0.5)], 0.02, 0.35)
    body.line([(-0.34, -0.14), (0.10, 0.06)], 0.13, 0.4)
    for band in range(9):
        x, y = -0.32 + band * 0.045, -0.13 + band * 0.0205
        body.line(
            [(x - 0.02, y + 0.05), (x + 0.02, y - 0.05)],
            0.006,
            0.62 if band % 2 else 0.16,
        )
    body.disc((0.13, 0.075), 0.055, 0.45)
    body.disc((0.15, 0.09), 0.018, 0.08)
    body.line([(0.17, 0.07), (0.36, 0.02), (0.56, -0.04)], 0.006, 0.5)
    # Both wings, the far one a little higher.
    for side, lift in ((-1, 0.46), (1, 0.40)):
        tip = (-0.10 + side * 0.20, lift)
        wings.polygon(
            [(0.02, 0.06), tip, (-0.26 + side * 0.12, 0.30), (-0.18, -0.02)], 0.55
        )
        for vein in range(9):
            end = (tip[0] + (-0.16) * vein / 8, tip[1] - 0.16 * vein / 8)
            wings.line([(0.0, 0.05), end], 0.003, 0.16)
        # Scales along the wing's hind edge.
        back = (-0.26 + side * 0.12, 0.30)
        for scale in range(16):
            x = tip[0] + (back[0] - tip[0]) * scale / 16
            y = tip[1] + (back[1] - tip[1]) * scale / 16
            wings.line([(x, y), (x + 0.012, y - 0.026)], 0.002, 0.85)
    return [flower.layer(0.0), body.layer(0.05), wings.layer(1.0)]


def machine(new_pen: NewPen) -> list[Layer]:
    """A gear in its housing: teeth, spokes and a scale turn past a fixed mark."""
    housing, gear = new_pen(), new_pen()
    housing.polygon([(-0.62, -0.5), (0.62, -0.5), (0.62, -0.40), (-0.62, -0.40)], 0.3)
    housing.line([(0.0, -0.45), (0.0, -0.36)], 0.05, 0.3)
    housing.polygon([(-0.015, 0.50), (0.015, 0.50), (0.0, 0.455)], 0.95)
    gear.disc((0.0, 0.0), 0.38, 0.5)
    # A tooth, and the mark of the scale under it; every third is longer.
    for tooth in range(36):
        angle, mark = math.tau * tooth / 36, 0.30 if tooth % 3 else 0.27
        cosine, sine = math.cos(angle), math.sin(angle)
        gear.line(
            [(0.37 * cosine, 0.37 * sine), (0.43 * cosine, 0.43 * sine)], 0.032, 0.62
        )
        gear.line(
            [(0.33 * cosine, 0.33 * sine), (mark * cosine, mark * sine)], 0.003, 0.1
        )
    for hole in range(6):
        angle = math.tau * hole / 6
        gear.disc((0.2 * math.cos(angle), 0.2 * math.sin(angle)), 0.06, 0.06)
    gear.disc((0.0, 0.0), 0.09, 0.75)
    gear.letters("RAPZEL", (0.0, 0.02), 0.035, 0.08)
    gear.letters("36", (0.0, -0.035), 0.035, 0.08)
    return [housing.layer(0.0), gear.layer(1.0)]
