"""Vibrato balance worked out independently with SciPy and NumPy vectors. Writes vibrato.csv.

Springs are 3-D vectors between their hooks, the plate a rigid body turned by a rotation matrix, and
the rest angle the root of the summed torque about the knife edge (cross products). Pitch follows
from the crown's displacement by Hooke and Mersenne. A tail on a pivot with one pressed spring goes
into tail.csv in the same way.
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

# A tail: strings 9 mm above its pivot, a spring pressed between a seat 16 mm before it and the frame.
rows = []


def tail_torque(angle, pull, rate, seat_up):
    at = rotate((-0.016, 0.0, 0.0), angle)
    along = at - np.array([-0.016, 0.0, -0.026 + seat_up])
    length = np.linalg.norm(along)
    push = rate * max(0.040 - length, 0.0)
    moment = np.cross(at, along / length * push) + np.cross(rotate((0.004, 0.0, 0.009), angle), np.array([-pull, 0, 0]))
    return moment[1], length


for pull, rate, seat_up in itertools.product([380.0, 430.0, 480.0], [16000.0, 20000.0], [-0.002, 0.0, 0.003]):
    signs = [tail_torque(a, pull, rate, seat_up)[0] for a in (-0.2, 0.3)]
    if signs[0] * signs[1] > 0:
        found = ["", "", ""]
    else:
        rest = brentq(lambda a: tail_torque(a, pull, rate, seat_up)[0], -0.2, 0.3, xtol=1e-13)
        found = [f"{rest:.10f}", f"{-0.030 * np.sin(rest):.10f}", f"{tail_torque(rest, pull, rate, seat_up)[1]:.10f}"]
    rows.append([pull, rate, seat_up, *found])

with open("tail.csv", "w", newline="") as file:
    file.write("# SciPy; see vibrato.py\n")
    writer = csv.writer(file)
    writer.writerow(["pull", "rate", "seat_up", "rest", "gap", "spring"])
    writer.writerows(rows)
