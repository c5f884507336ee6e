"""Neck, string and arc heights worked out independently with SciPy. Writes neck.csv.

- relief: the elastic line of a beam under an end moment is integrated (Euler-Bernoulli, solve_ivp),
  the curvature that shows a given gap in one school is found by root search, and the gap another
  school reads on that same neck is taken from the integrated line.
- inner: height of an inner string's saddle for an action blended between the outer two, by root
  search on the distance to the fret top of a cylinder or cone; and the circle through all crowns by
  general least squares.
- swing: the plucked ideal string by d'Alembert's travelling waves, sampled over a whole period.
"""
import csv
import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq, least_squares

rows = []


def place(scale, n):
    return scale * (1 - 2 ** (-n / 12))


def line(scale, joint, kappa):
    """Height of the neck by integrating z'' = kappa from the joint toward the nut."""
    end = place(scale, joint)
    found = solve_ivp(lambda s, y: [y[1], kappa], (0, end), [0, 0], dense_output=True, rtol=1e-10, atol=1e-13)
    return lambda n: float(found.sol(max(0.0, end - place(scale, n)))[0]) if place(scale, n) < end else 0.0


def gap(z, scale, low, high, at):
    share = (place(scale, at) - place(scale, low)) / (place(scale, high) - place(scale, low))
    return z(low) + (z(high) - z(low)) * share - z(at)


for scale, frets, joint in [(0.648, 22, 16), (0.864, 20, 16), (0.6858, 24, 18)]:
    schools = [(1, 12, 6), (1, 17, 8), (1, joint, 7), (1, frets, 8)]
    for start in schools:
        read = 0.25e-3
        kappa = brentq(lambda k: gap(line(scale, joint, k), scale, *start) - read, 1e-6, 1.0, xtol=1e-12)
        for other in schools:
            rows.append(["relief", scale, frets, joint, *start, *other, f"{gap(line(scale, joint, kappa), scale, *other) / read:.8f}"])


def top(scale, frets, nut_radius, last_radius, y, x):
    radius = nut_radius + (last_radius - nut_radius) * x / place(scale, frets)
    return np.sqrt(radius**2 - y**2) - radius


for name, nut_radius, last_radius in [("cylinder", 0.24130, 0.24130), ("cone", 0.254, 0.4064)]:
    scale, frets, strings, nut_spread, bridge_spread, length = 0.648, 22, 6, 0.0355, 0.0525, 0.651
    crowns = []
    for index in range(strings):
        across = 0.5 - index / (strings - 1)
        y = lambda x: (nut_spread + (bridge_spread - nut_spread) * x / scale) * across
        action = 1.6e-3 + (2.0e-3 - 1.6e-3) * index / (strings - 1)
        slot = top(scale, frets, nut_radius, last_radius, y(0), 0) + 0.6e-3
        x12 = place(scale, 12)
        over = lambda z: slot + (z - slot) * x12 / length - top(scale, frets, nut_radius, last_radius, y(x12), x12) - action
        z = brentq(over, -0.02, 0.02, xtol=1e-15)
        crowns.append((y(scale), z))
        rows.append(["inner", name, index, f"{action:.8f}", f"{z:.10f}"])
    crowns = np.array(crowns)
    # The same action under every string: the arc at the bridge a little flatter than the board.
    equal = []
    for index in range(strings):
        across = 0.5 - index / (strings - 1)
        y = lambda x: (nut_spread + (bridge_spread - nut_spread) * x / scale) * across
        slot = top(scale, frets, nut_radius, last_radius, y(0), 0) + 0.6e-3
        over = lambda z: slot + (z - slot) * x12 / length - top(scale, frets, nut_radius, last_radius, y(x12), x12) - 1.6e-3
        equal.append((y(scale), brentq(over, -0.02, 0.02, xtol=1e-15)))
    equal = np.array(equal)
    fit = least_squares(lambda p: np.hypot(equal[:, 0] - p[0], equal[:, 1] - p[1]) - p[2], [0, -0.2, 0.2], xtol=1e-14, ftol=1e-14)
    rows.append(["arc", name, f"{fit.x[2]:.8f}"])

for length, pluck in [(0.65, 0.12), (0.65, 0.30), (0.4, 0.12)]:
    # y(x, 0) is the triangle, carried on as an odd function of period 2 l; y(x, t) is half the sum
    # of the two shapes that run apart.
    def shape(x):
        x = np.mod(x + length, 2 * length) - length
        a = np.abs(x)
        return np.sign(x) * np.where(a < pluck, a / pluck, (length - a) / (length - pluck))

    t = np.linspace(0, 2 * length, 40001)
    for u in [0.05, 0.12, 0.2, 0.3, 0.36]:
        moved = (shape(u - t) + shape(u + t)) / 2
        rows.append(["swing", length, pluck, u, f"{max(moved.max(), -moved.min()):.6f}"])

with open("neck.csv", "w", newline="") as file:
    file.write("# SciPy; see neck.py\n")
    csv.writer(file).writerows(rows)
