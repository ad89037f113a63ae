"""People in motion. Shapes are in units of the subject's own height, its middle at 0, y upwards."""

import math
from itertools import pairwise

from rapzel.core.subjects.pen import Layer, NewPen, Pen, Point

_SKIN, _CLOTH, _DARK = 0.55, 0.72, 0.2


def _head(pen: Pen, at: Point, radius: float = 0.06) -> None:
    """A head with a plait of hair about it."""
    pen.disc(at, radius, _SKIN, 1.15)
    for strand in range(7):
        x = at[0] - radius + strand * radius / 3
        pen.line(
            [
                (x, at[1] + radius * 0.4),
                (at[0] + (x - at[0]) * 0.5, at[1] + radius * 1.2),
            ],
            0.004,
            _DARK,
        )


def _limb(pen: Pen, points: list[Point], width: float, tone: float = _CLOTH) -> None:
    """A limb with seams across it."""
    pen.line(points, width, tone)
    for (x0, y0), (x1, y1) in pairwise(points):
        for part in (0.3, 0.5, 0.7):
            x, y = x0 + (x1 - x0) * part, y0 + (y1 - y0) * part
            # Square to the limb; one without length has no direction.
            long = math.hypot(x1 - x0, y1 - y0) or 1.0
            dx, dy = -(y1 - y0) / long * width * 0.42, (x1 - x0) / long * width * 0.42
            pen.line([(x - dx, y - dy), (x + dx, y + dy)], 0.003, tone * 0.6)


def _shoe(pen: Pen, at: Point, ahead: float = 0.1) -> None:
    """A shoe with laces and a striped sole."""
    pen.line([at, (at[0] + ahead, at[1])], 0.05, 0.8)
    for lace in range(6):
        x = at[0] + ahead * (0.1 + lace * 0.14)
        pen.line([(x, at[1] - 0.012), (x + 0.006, at[1] + 0.022)], 0.002, 0.1)


def fencer(new_pen: NewPen) -> list[Layer]:
    """A fencer in a lunge: the body follows, the sword arm is the fast part."""
    body = new_pen()
    # Hind leg, front leg, and their shoes.
    body.line([(-0.10, -0.06), (-0.26, -0.26), (-0.44, -0.46)], 0.085, 0.62)
    body.line([(0.00, -0.08), (0.20, -0.18), (0.22, -0.46)], 0.095, 0.68)
    body.line([(-0.47, -0.475), (-0.36, -0.475)], 0.045, 0.5)
    body.line([(0.20, -0.475), (0.33, -0.475)], 0.045, 0.5)
    # The arm behind, raised for balance, and the jacket with its folds.
    body.line([(-0.08, 0.20), (-0.26, 0.24), (-0.38, 0.33)], 0.062, 0.66)
    body.polygon([(-0.13, -0.09), (0.05, -0.11), (0.09, 0.22), (-0.09, 0.25)], 0.74)
    for fold in range(5):
        x = -0.10 + fold * 0.04
        body.line([(x, -0.07), (x + 0.02, 0.20)], 0.006, 0.5)
    # The mask: its mesh is as wide as the disc at each height.
    body.disc((0.03, 0.345), 0.082, 0.30, 1.15)
    for bar in range(-4, 5):
        tall = 0.094 * math.sqrt(1 - (bar / 4.8) ** 2)
        wide = 0.082 * math.sqrt(1 - (bar / 4.8) ** 2)
        body.line(
            [(0.03 + bar * 0.017, 0.345 - tall), (0.03 + bar * 0.017, 0.345 + tall)],
            0.002,
            0.13,
        )
        body.line(
            [(0.03 - wide, 0.345 + bar * 0.0196), (0.03 + wide, 0.345 + bar * 0.0196)],
            0.002,
            0.13,
        )
    arm = new_pen()
    # The sword arm with lettering and the threads of its cuff.
    arm.line([(0.05, 0.18), (0.20, 0.155), (0.355, 0.175)], 0.062, 0.74)
    arm.letters("RAPZEL 7", (0.235, 0.163), 0.026, 0.12)
    for thread in range(9):
        arm.line(
            [(0.30 + thread * 0.007, 0.148), (0.303 + thread * 0.007, 0.192)],
            0.0012,
            0.4,
        )
    # The guard: spokes as fine as a smear of two pixels, with a bright rim.
    arm.disc((0.385, 0.178), 0.042, 0.55)
    for spoke in range(24):
        angle = math.tau * spoke / 24
        arm.line(
            [
                (0.385, 0.178),
                (0.385 + 0.040 * math.cos(angle), 0.178 + 0.040 * math.sin(angle)),
            ],
            0.0012,
            0.16,
        )
    arm.ring((0.385, 0.178), 0.042, 0.004, 0.86)
    # The blade, and its point.
    arm.line([(0.385, 0.178), (0.82, 0.215)], 0.0055, 0.8)
    arm.disc((0.823, 0.215), 0.006, 0.9)
    return [body.layer(0.3), arm.layer(1.0)]


def dancer(new_pen: NewPen) -> list[Layer]:
    """A dancer at the top of a leap: the whole of it moves, the skirt's hem has the finest lines."""
    body = new_pen()
    # Legs in a split.
    _limb(body, [(0.02, -0.02), (0.24, -0.10), (0.46, -0.06)], 0.06)
    _limb(body, [(-0.02, -0.02), (-0.22, -0.12), (-0.46, -0.16)], 0.06)
    # Arms held long, one high.
    _limb(body, [(0.04, 0.24), (0.24, 0.30), (0.40, 0.40)], 0.036, _SKIN)
    _limb(body, [(-0.04, 0.24), (-0.22, 0.26), (-0.38, 0.20)], 0.036, _SKIN)
    body.polygon([(-0.07, -0.02), (0.07, -0.02), (0.06, 0.25), (-0.06, 0.25)], 0.66)
    skirt = [
        (-0.07, 0.05),
        (0.07, 0.05),
        (0.26, -0.16),
        (0.12, -0.22),
        (-0.10, -0.22),
        (-0.26, -0.14),
    ]
    body.polygon(skirt, 0.78)
    # Pleats that fan out from the waist: the finest lines of the figure.
    for pleat in range(25):
        share = pleat / 24
        body.line(
            [
                (-0.06 + 0.12 * share, 0.04),
                (-0.25 + 0.5 * share, -0.20 + 0.05 * abs(share - 0.5)),
            ],
            0.0022,
            0.35,
        )
    body.letters("RAPZEL", (0.0, 0.13), 0.03, 0.12)
    # Ribbons that fly from the raised hand.
    for ribbon in range(5):
        bend = (0.46 + 0.01 * ribbon, 0.34 - 0.03 * ribbon)
        body.line([(0.40, 0.40), bend, (0.54, 0.36 - 0.04 * ribbon)], 0.003, 0.9)
    _head(body, (0.0, 0.34))
    return [body.layer(1.0)]


def turner(new_pen: NewPen) -> list[Layer]:
    """A dancer in a turn: the axis stays, hem and hands fly; the far hand goes the other way."""
    far = new_pen()
    _limb(far, [(-0.05, 0.20), (-0.20, 0.17), (-0.33, 0.19)], 0.036, _SKIN)
    _hand(far, (-0.33, 0.19), -1)
    axis = new_pen()
    # The standing leg on its toe, the other drawn up to its knee.
    _limb(axis, [(0.01, -0.04), (0.02, -0.27), (0.01, -0.45)], 0.062)
    axis.polygon([(-0.01, -0.44), (0.03, -0.44), (0.02, -0.50)], 0.8)
    _limb(axis, [(-0.02, -0.04), (0.15, -0.19), (0.04, -0.25)], 0.058)
    axis.polygon([(-0.065, -0.02), (0.065, -0.02), (0.075, 0.23), (-0.075, 0.23)], 0.66)
    axis.letters("RAPZEL", (0.0, 0.12), 0.03, 0.12)
    axis.line([(0.0, 0.20), (0.0, 0.30)], 0.03, _SKIN)
    _head(axis, (0.0, 0.34))
    skirt = new_pen()
    skirt.polygon(
        [
            (-0.06, 0.03),
            (0.06, 0.03),
            (0.27, -0.10),
            (0.16, -0.15),
            (-0.16, -0.15),
            (-0.27, -0.10),
        ],
        0.78,
    )
    for pleat in range(27):
        across = -0.26 + 0.52 * pleat / 26
        # The hem rises at its sides, where it flies furthest out.
        hem = -0.15 + 0.05 * (abs(across) / 0.26) ** 3
        skirt.line([(across * 0.22, 0.02), (across, hem)], 0.0022, 0.35)
        skirt.disc((across, hem - 0.006), 0.006, 0.9)
    near = new_pen()
    _limb(near, [(0.05, 0.20), (0.19, 0.15), (0.32, 0.16)], 0.038, _SKIN)
    _hand(near, (0.32, 0.16), 1)
    # The far hand comes as the near one goes; the axis hardly moves.
    return [far.layer(-1.0), axis.layer(0.05), skirt.layer(0.4), near.layer(1.0)]


def _hand(pen: Pen, at: Point, side: int) -> None:
    """A hand with five fingers and a banded wrist."""
    pen.disc(at, 0.02, _SKIN)
    for band in range(4):
        x = at[0] - side * (0.022 + band * 0.006)
        pen.line([(x, at[1] - 0.018), (x, at[1] + 0.018)], 0.0016, 0.15)
    for finger in range(5):
        tip = (
            at[0] + side * (0.052 - 0.004 * abs(finger - 2)),
            at[1] + 0.022 - finger * 0.010,
        )
        pen.line([at, tip], 0.006, 0.6)


def kicker(new_pen: NewPen) -> list[Layer]:
    """A high kick: the standing leg stays, the kicking leg is the fast part."""
    body = new_pen()
    # The standing leg.
    _limb(body, [(-0.06, 0.0), (-0.10, -0.24), (-0.08, -0.46)], 0.085)
    _shoe(body, (-0.09, -0.475))
    body.polygon([(-0.14, -0.02), (0.02, -0.02), (-0.04, 0.27), (-0.18, 0.25)], 0.78)
    # The belt, and both arms in guard.
    body.line([(-0.15, 0.05), (0.01, 0.04)], 0.03, 0.15)
    _limb(body, [(-0.14, 0.22), (-0.28, 0.12), (-0.18, 0.04)], 0.05, 0.7)
    _limb(body, [(-0.06, 0.22), (0.06, 0.14), (-0.02, 0.24)], 0.05, 0.7)
    _head(body, (-0.14, 0.36))
    leg = new_pen()
    _limb(leg, [(-0.02, 0.0), (0.22, 0.10), (0.46, 0.22)], 0.08, 0.76)
    leg.letters("RAPZEL 9", (0.22, 0.105), 0.026, 0.1)
    # The kicking foot with its toes.
    leg.line([(0.46, 0.22), (0.52, 0.30)], 0.05, _SKIN)
    for toe in range(5):
        leg.disc((0.50 + toe * 0.011, 0.325 - toe * 0.009), 0.009, 0.62)
    for thread in range(11):
        x, y = thread * 0.005, thread * 0.0028
        leg.line([(0.40 + x, 0.165 + y), (0.385 + x, 0.225 + y)], 0.0012, 0.35)
    return [body.layer(0.15), leg.layer(1.0)]


def runner(new_pen: NewPen) -> list[Layer]:
    """A sprinter: the body runs, the lower leg that swings forward is twice as fast as it."""
    body = new_pen()
    # The thigh that swings forward; its lower leg is the fast layer.
    _limb(body, [(-0.02, -0.02), (0.16, -0.08), (0.20, -0.12)], 0.085)
    # The leg that pushes off behind, with its shoe.
    _limb(body, [(-0.04, -0.02), (-0.12, -0.22), (-0.30, -0.38)], 0.075)
    _shoe(body, (-0.33, -0.40), -0.08)
    # The shirt, leaning into the run.
    body.polygon([(-0.12, -0.04), (0.04, -0.04), (0.14, 0.24), (0.0, 0.27)], 0.74)
    body.letters("RAPZEL 3", (0.02, 0.13), 0.028, 0.1)
    # Arms, the one forward and the one back.
    _limb(body, [(0.10, 0.22), (0.22, 0.10), (0.34, 0.18)], 0.045, _SKIN)
    _limb(body, [(0.03, 0.22), (-0.12, 0.14), (-0.22, 0.02)], 0.045, _SKIN)
    _head(body, (0.13, 0.35))
    leg = new_pen()
    _limb(leg, [(0.20, -0.12), (0.17, -0.28), (0.20, -0.42)], 0.062, _SKIN)
    _shoe(leg, (0.19, -0.45))
    # Spikes and laces are the fine detail by which a smear is seen.
    for spike in range(6):
        leg.line(
            [(0.19 + spike * 0.018, -0.478), (0.193 + spike * 0.018, -0.495)],
            0.003,
            0.9,
        )
    return [body.layer(0.6), leg.layer(1.0)]


def skater(new_pen: NewPen) -> list[Layer]:
    """A jump on wheels: rider and board move as one, the wheels carry the finest marks."""
    rider = new_pen()
    # Both legs drawn up over the board.
    _limb(rider, [(-0.02, 0.0), (-0.16, -0.12), (-0.10, -0.30)], 0.075)
    _limb(rider, [(0.03, 0.0), (0.18, -0.10), (0.14, -0.28)], 0.075)
    rider.polygon([(-0.09, -0.02), (0.09, -0.02), (0.05, 0.25), (-0.12, 0.23)], 0.7)
    # Arms spread for balance.
    _limb(rider, [(0.03, 0.22), (0.20, 0.24), (0.34, 0.34)], 0.045, _SKIN)
    _limb(rider, [(-0.09, 0.22), (-0.24, 0.16), (-0.36, 0.24)], 0.045, _SKIN)
    rider.letters("RAPZEL", (-0.02, 0.11), 0.03, 0.1)
    _head(rider, (-0.02, 0.34))
    # The helmet.
    rider.disc((-0.02, 0.365), 0.066, 0.3, 0.8)
    rider.line(
        [(-0.30, -0.30), (-0.22, -0.335), (0.26, -0.315), (0.34, -0.27)], 0.03, 0.62
    )
    # Stripes along the deck, then wheels with spokes.
    for stripe in range(12):
        x = -0.2 + stripe * 0.036
        rider.line([(x, -0.335), (x + 0.012, -0.318)], 0.003, 0.1)
    for wheel in (-0.17, 0.21):
        rider.disc((wheel, -0.385), 0.044, 0.85)
        for spoke in range(16):
            angle = math.tau * spoke / 16
            rim = (wheel + 0.038 * math.cos(angle), -0.385 + 0.038 * math.sin(angle))
            rider.line([(wheel, -0.385), rim], 0.0022, 0.12)
        rider.disc((wheel, -0.385), 0.01, 0.2)
    return [rider.layer(1.0)]


def skipper(new_pen: NewPen) -> list[Layer]:
    """A rope skipper in the air: the body is slow, the rope's arc overhead is the fast part."""
    body = new_pen()
    _limb(body, [(-0.03, -0.02), (-0.05, -0.20), (-0.10, -0.36)], 0.07)
    _limb(body, [(0.03, -0.02), (0.08, -0.18), (0.04, -0.34)], 0.07)
    _shoe(body, (-0.12, -0.375), -0.07)
    _shoe(body, (0.03, -0.36), 0.08)
    body.polygon([(-0.08, -0.04), (0.08, -0.04), (0.07, 0.22), (-0.07, 0.22)], 0.74)
    body.letters("RAPZEL", (0.0, 0.10), 0.026, 0.1)
    _limb(body, [(0.06, 0.19), (0.16, 0.06), (0.27, 0.04)], 0.04, _SKIN)
    _limb(body, [(-0.06, 0.19), (-0.16, 0.06), (-0.27, 0.04)], 0.04, _SKIN)
    _head(body, (0.0, 0.31))
    rope = new_pen()
    arc = [
        (0.29 * math.cos(a), 0.04 + 0.47 * math.sin(a))
        for a in (math.pi * step / 24 for step in range(25))
    ]
    rope.line(arc, 0.012, 0.85)
    for (x0, y0), (x1, y1) in pairwise(arc):
        # The lay of the rope: a slanted stroke every third of a piece.
        for part in (0.0, 0.33, 0.66):
            x, y = x0 + (x1 - x0) * part, y0 + (y1 - y0) * part
            rope.line([(x - 0.004, y - 0.004), (x + 0.004, y + 0.004)], 0.002, 0.15)
    return [body.layer(0.1), rope.layer(1.0)]


def racket(new_pen: NewPen) -> list[Layer]:
    """A racket at the ball: strings and frame are the fast part, the ball has a seam and lettering."""
    hand = new_pen()
    hand.line([(-0.62, -0.40), (-0.40, -0.26)], 0.09, _SKIN)
    swung = new_pen()
    swung.line([(-0.42, -0.28), (-0.14, -0.10)], 0.032, 0.5)
    # The grip's winding.
    for turn in range(12):
        x, y = -0.42 + turn * 0.014, -0.28 + turn * 0.009
        swung.line([(x - 0.008, y + 0.012), (x + 0.008, y - 0.012)], 0.003, 0.15)
    # Strings both ways, as long as the frame is wide at their place.
    for string in range(-8, 9):
        reach = 0.235 * math.sqrt(1 - (string / 9) ** 2)
        at = string * 0.028
        swung.line([(0.06 + at, 0.06 - reach), (0.06 + at, 0.06 + reach)], 0.0022, 0.85)
        swung.line([(0.06 - reach, 0.06 + at), (0.06 + reach, 0.06 + at)], 0.0022, 0.85)
    swung.ring((0.06, 0.06), 0.27, 0.026, 0.7)
    swung.letters("RAPZEL", (0.06, -0.196), 0.018, 0.1)
    ball = new_pen()
    ball.disc((0.34, 0.10), 0.075, 0.82)
    ball.line([(0.28, 0.13), (0.33, 0.115), (0.38, 0.15)], 0.006, 0.3)
    # Felt that stands out at the rim of the ball.
    for hair in range(24):
        angle = math.tau * hair / 24
        cosine, sine = math.cos(angle), math.sin(angle)
        ends = [(0.34 + r * cosine, 0.10 + r * sine) for r in (0.070, 0.081)]
        ball.line(ends, 0.0016, 0.9)
    ball.letters("R 7", (0.33, 0.09), 0.034, 0.1)
    return [hand.layer(0.3), swung.layer(1.0), ball.layer(0.7)]


def archer(new_pen: NewPen) -> list[Layer]:
    """A bow at the moment of release: bow and hand stand, arrow, nock and string fly."""
    bow = new_pen()
    angles = [math.pi * (step / 16 - 0.5) for step in range(17)]
    curve = [
        (0.02 + 0.16 * math.cos(angle), 0.48 * math.sin(angle)) for angle in angles
    ]
    bow.line(curve, 0.03, 0.45)
    # Grip and bow hand.
    bow.line([(0.18, -0.07), (0.18, 0.07)], 0.05, 0.3)
    bow.line([(0.19, -0.02), (0.50, -0.16)], 0.07, _SKIN)
    arrow = new_pen()
    # The string, still bent behind the nock.
    arrow.line([(0.02, 0.48), (-0.05, 0.0), (0.02, -0.48)], 0.004, 0.85)
    arrow.line([(-0.30, 0.0), (0.44, 0.0)], 0.011, 0.75)
    arrow.polygon([(0.44, 0.014), (0.52, 0.0), (0.44, -0.014)], 0.9)
    for side in (-1, 1):
        arrow.polygon(
            [(-0.30, 0.0), (-0.27, side * 0.04), (-0.16, side * 0.03), (-0.14, 0.0)],
            0.82,
        )
        # Barbs of the fletching.
        for barb in range(14):
            x = -0.29 + barb * 0.010
            arrow.line([(x, 0.0), (x - 0.012, side * 0.034)], 0.0014, 0.2)
    for mark in range(10):
        arrow.line(
            [(-0.08 + mark * 0.012, -0.005), (-0.08 + mark * 0.012, 0.005)], 0.002, 0.1
        )
    return [bow.layer(0.0), arrow.layer(1.0)]
