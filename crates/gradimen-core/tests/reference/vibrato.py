"""Vibrato balance worked out independently with SciPy and NumPy vectors. Writes vibrato.csv.

Springs are 3-D vectors between their hooks, the plate a rigid body turned by a rotation matrix, and
the rest angle the root of the summed torque about the knife edge (cross products). Pitch follows
from the crown's displacement by Hooke and Mersenne. A tail on a pivot with one pressed spring goes
into tail.csv in the same way.
"""
import csv
import itertools
import numpy as np
from scipy.optimize import brentq, fsolve

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

# How far off strings are tuned one after the other, so that all land at pitch with the last: nothing but the process itself.
# Each string is wound until it reads what is tried for it, the plate resting anew at every step, and fsolve tries until
# all are at pitch at the end.
rows = []
STRINGS = [(110.0, 40000.0), (85.0, 26000.0), (80.0, 18000.0), (74.0, 24000.0), (70.0, 16000.0), (72.0, 10134.0)]
FREE, SPEAKING, CROWN = 0.79, 0.65, (0.006, 0.0, 0.011)


def landing(rate, before, after):
    hooks = [(0.002, (i - 1.5) * 0.010, -0.040) for i in range(4)]
    spring = (rate, 0.052, 8.0)

    def rest(wound, claw_in):
        claw = [(-0.080 - claw_in, hook[1], -0.041) for hook in hooks]

        def over(angle):
            back = rotate(CROWN, angle)[0] - CROWN[0]
            pull = sum(max(ea * (w + back) / FREE, 0.0) for w, (_, ea) in zip(wound, STRINGS))
            return torque(angle, pull, CROWN, hooks, claw, spring)

        return brentq(over, -0.5, 0.9, xtol=1e-14)

    # Pitch is counted from where the plate stands at the end.
    at_pitch = [t * FREE / ea for t, ea in STRINGS]

    def settled(claw_in):
        total = sum(t for t, _ in STRINGS)
        claw = [(-0.080 - claw_in, hook[1], -0.041) for hook in hooks]
        return brentq(lambda a: torque(a, total, CROWN, hooks, claw, spring), -0.2, 0.3, xtol=1e-14)

    start, end = settled(before), settled(after)
    stand = rotate(CROWN, end)[0] - CROWN[0]
    begin = [w - (rotate(CROWN, start)[0] - CROWN[0]) for w in at_pitch]

    def pitch(wound, angle):
        back = rotate(CROWN, angle)[0] - CROWN[0] - stand
        return [600 * np.log2(max(ea * (w + stand + back) / FREE, 1e-6) / t) - 1200 * np.log2(1 + back / SPEAKING) for w, (t, ea) in zip(wound, STRINGS)]

    def process(tried):
        wound = list(begin)
        for k, goal in enumerate(tried):
            def miss(w):
                now = wound[:k] + [w] + wound[k + 1:]
                return pitch(now, rest(now, after))[k] - goal
            wound[k] = brentq(miss, wound[k] - 0.001, wound[k] + 0.001, xtol=1e-15)
        return pitch(wound, rest(wound, after))

    found = fsolve(process, [0.0] * len(STRINGS), xtol=1e-10)
    return start, end, found


for rate, before, after in [(900.0, -0.003, -0.0025), (900.0, -0.0025, -0.003), (950.0, -0.004, -0.0035), (950.0, -0.0035, -0.004)]:
    start, end, found = landing(rate, before, after)
    rows.append([rate, before, after, f"{start:.10f}", f"{end:.10f}", *(f"{x:.5f}" for x in found)])

with open("landing.csv", "w", newline="") as file:
    file.write("# SciPy; see vibrato.py\n")
    writer = csv.writer(file)
    writer.writerow(["rate", "claw_before", "claw_after", "rest_before", "rest_after", *(f"cents_{k}" for k in range(6))])
    writer.writerows(rows)
