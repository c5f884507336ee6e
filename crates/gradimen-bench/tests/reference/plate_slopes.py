"""Where a plate comes to rest after a move, and how that hangs on what is not known of it. Writes plate_slopes.csv.

A plate on a knife edge rests at a gap; the claw stands where the springs balance the strings there. Then the claw goes in
or saddles go up, and it rests anew: both places are roots of the summed torque about the edge, found by SciPy on vectors
and rotation matrices. Slopes are central differences of the whole of that, claw and all.
"""
import csv
import numpy as np
from scipy.optimize import brentq

PULLS = [72.0, 68.0, 75.0, 83.0, 86.0, 76.0]
TAIL, CLAW_DOWN, SPRING, FREE, PRELOAD, RATE, COUNT = 30.0, 42.0, 80.0, 55.0, 8.0, 1.5, 3
USUAL = {"level": 1.0, "rate": 0.05, "hook_down": 41.0, "hook_back": 3.0, "tension": 0.01, "crown": 10.6, "setback": 10.5}


def turned(back, up, angle):
    """A point of the plate, behind and above the edge, with the tail raised by an angle."""
    c, s = np.cos(angle), np.sin(angle)
    return np.array([back * c - up * s, 0.0, back * s + up * c])


def torque(of, angle, claw, raised):
    """Of the strings, raising the tail, less that of the springs."""
    total = np.zeros(3)
    for string, pull in enumerate(PULLS):
        back = of["setback"] if string == 0 else 10.0 + 0.3 * string
        up = (of["crown"] if string == 0 else 10.0 + 0.2 * string) + raised[string]
        total += np.cross(turned(back, up, angle), [-pull * np.exp(of["tension"]), 0, 0])
    hook = turned(of["hook_back"], -of["hook_down"], angle)
    end = np.array([-(SPRING - of["hook_back"]) - claw, 0.0, -CLAW_DOWN])
    along = end - hook
    length = np.linalg.norm(along)
    force = (PRELOAD + RATE * (length - FREE)) * np.exp(of["rate"])
    total += COUNT * np.cross(hook, along / length * force)
    return total[1]


def rests(of, gap, further, raised):
    stood = np.arcsin((gap - of["level"]) / TAIL)
    claw = brentq(lambda at: torque(of, stood, at, [0.0] * 6), -25, 25, xtol=1e-13)
    angle = brentq(lambda at: torque(of, at, claw + further, raised), stood - 0.12, stood + 0.12, xtol=1e-14)
    return of["level"] + TAIL * np.sin(angle)


rows = []
for gap, further, raised in [
    (2.5, 0.9, [0.0] * 6),
    (3.4, -0.45, [0.0] * 6),
    (2.0, 0.0, [0.0, 0.0, 0.0, 0.0, 0.0, 0.8]),
    (4.0, 0.5, [-0.5, -0.4, -0.3, -0.2, -0.1, 0.0]),
]:
    after = rests(USUAL, gap, further, raised)
    slopes = [
        (rests(USUAL, gap + 1e-4, further, raised) - rests(USUAL, gap - 1e-4, further, raised)) / 2e-4,
        (rests(USUAL, gap, further + 1e-4, raised) - rests(USUAL, gap, further - 1e-4, raised)) / 2e-4,
    ]
    for name in USUAL:
        there, back = ({**USUAL, name: USUAL[name] + step} for step in (1e-4, -1e-4))
        slopes.append((rests(there, gap, further, raised) - rests(back, gap, further, raised)) / 2e-4)
    rows.append([gap, further, *raised, f"{after:.8f}", *(f"{slope:.6f}" for slope in slopes)])

with open("plate_slopes.csv", "w", newline="") as file:
    out = csv.writer(file, lineterminator="\n")
    out.writerow(["gap", "further", *(f"raised{i}" for i in range(1, 7)), "after", "on_gap", "on_claw", *(f"on_{name}" for name in USUAL)])
    out.writerows(rows)
