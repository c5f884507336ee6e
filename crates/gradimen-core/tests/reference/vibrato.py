"""Vibrato balance worked out independently with SciPy and NumPy vectors. Writes vibrato.csv.

Springs are 3-D vectors between their hooks, the plate a rigid body turned by a rotation matrix, and
the rest angle the root of the summed torque about the knife edge (cross products). Pitch follows
from the crown's displacement by Hooke and Mersenne.
"""
import csv
import itertools
import numpy as np
from scipy.optimize import brentq

rows = []


def rotate(point, angle):
    x, y, z = point
    return np.array([x * np.cos(angle) - z * np.sin(angle), y, x * np.sin(angle) + z * np.cos(angle)])


def torque(angle, pull, crown, hooks, claw, spring):
    rate, free, preload = spring
    total = np.cross(rotate(crown, angle), np.array([-pull, 0, 0]))
    for hook, end in zip(hooks, claw):
        at = rotate(hook, angle)
        along = np.array(end) - at
        length = np.linalg.norm(along)
        stretch = length - free
        force = preload + rate * stretch if stretch > 0 else 0.0
        total = total + np.cross(at, along / length * force)
    return total[1]


for pull, count, rate, aside, claw_in in itertools.product([420.0, 480.0], [3, 4], [900.0, 1050.0], [0.0, 0.010], [-0.003, 0.0, 0.004]):
    crown = (0.006, 0.0, 0.011)
    spring = (rate, 0.052, 8.0)
    hooks = [(0.002, (i - (count - 1) / 2) * 0.010, -0.040) for i in range(count)]
    claw = [(-0.080 - claw_in, hook[1] + aside, -0.041) for hook in hooks]
    signs = [torque(a, pull, crown, hooks, claw, spring) for a in (-0.2, 0.3)]
    if signs[0] * signs[1] > 0:
        rest, gap, cents = "", "", ""
    else:
        rest = brentq(lambda a: torque(a, pull, crown, hooks, claw, spring), -0.2, 0.3, xtol=1e-13)
        gap = 0.030 * np.sin(rest)
        # The first string, .010 plain on 648 mm, when the plate is pulled level from there.
        back = rotate(crown, 0.0)[0] - rotate(crown, rest)[0]
        tension, ea, free, speaking = 72.0, 10134.0, 0.79, 0.65
        cents = 1200 * np.log2(np.sqrt((tension + ea * back / free) / tension) / (1 + back / speaking))
        rest, gap, cents = f"{rest:.10f}", f"{gap:.10f}", f"{cents:.6f}"
    rows.append([pull, count, rate, aside, claw_in, rest, gap, cents])

with open("vibrato.csv", "w", newline="") as file:
    file.write("# SciPy; see vibrato.py\n")
    writer = csv.writer(file)
    writer.writerow(["pull", "springs", "rate", "aside", "claw_in", "rest", "gap", "cents_to_level"])
    writer.writerows(rows)
