"""The joint estimate of one journal, solved independently: Gauss-Newton over all of it at once. Writes joint.csv.

The program takes a journal in one entry after the other (an extended Kalman filter with one covariance). Here the same
beliefs, readings and moves are one sum of squares over everything that is unknown: the instrument before the first
reading, and what every move did beyond what was meant. SciPy minimises it, and the inverse of J'J is its covariance.
Geometry (line of the string, bend of the neck, arc of the board) is written down here on its own.

Beliefs are those of the table in `estimate/priors.rs`, by number. Lengths in mm, curvatures in 1/m.
"""
import csv
import math

import numpy as np
from scipy.optimize import least_squares

# The instrument: six strings, 25.5 in, 22 frets, a 9.5 in cylinder, saddles on screws of 0.5 mm.
SCALE, FRETS, RADIUS, JOINT, N = 647.7, 22, 241.3, 16, 6
SPREAD = (35.5, 52.5)
LENGTH = SCALE + 3.0
PITCH = 0.5


def place(n):
    return SCALE * (1 - 2 ** (-n / 12))


def arc(i, x):
    y = (SPREAD[0] + (SPREAD[1] - SPREAD[0]) * x / SCALE) * (0.5 - i / (N - 1))
    return -(RADIUS - math.sqrt(RADIUS**2 - y**2))


def bends(n):
    """Height of a fret for one unit of the even bend, and of the bend of the middle."""
    xb, x = place(JOINT), place(n)
    u = min(max(x / xb, 0.0), 1.0)
    return max(0.0, xb - x) ** 2 / 2 * 1e-3, -((xb * u * (1 - u)) ** 2) / 2 * 1e-3


def top(i, n, even, middle):
    b, m = bends(n)
    return arc(i, place(n)) + even * b + middle * m


def gap(i, low, high, at, even, middle):
    share = (place(at) - place(low)) / (place(high) - place(low))
    a, b, c = (top(i, n, even, middle) for n in (low, high, at))
    return a + (b - a) * share - c


def height(i, n, even, middle, nut, crown):
    low = top(i, 0, even, middle) + nut
    return low + (crown - low) * place(n) / LENGTH - top(i, n, even, middle)


# Relief by hold 1 and last, read 8 of string 4: what one unit of each bend shows there.
PLAIN = gap(3, 1, FRETS, 8, 1, 0) - gap(3, 1, FRETS, 8, 0, 0)
PLAIN_MIDDLE = gap(3, 1, FRETS, 8, 0, 1) - gap(3, 1, FRETS, 8, 0, 0)

# Unknowns, in this order.
BASS, TREBLE, MIDDLE, ROD, SKEW, ROD_MIDDLE, PULL, RULE, BLADE, LIFTS = range(10)
NUT, CROWN, LIFT = 10, 10 + N, 10 + 2 * N
SIZE = 10 + 3 * N
NOISE = SIZE  # of the moves, one each


def belief():
    mean, cov = np.zeros(SIZE), np.zeros((SIZE, SIZE))

    def own(at, value, sigma):
        mean[at], cov[at, at] = value, sigma**2

    def along(which, sigma):
        h = np.zeros(SIZE)
        for at, by in which:
            h[at] += by
        cov[:] += sigma**2 * np.outer(h, h)

    for side in (BASS, TREBLE):
        own(side, 0.20 / PLAIN, 0.08 / PLAIN)
    along([(BASS, 1), (TREBLE, 1)], 0.25 / PLAIN)
    own(MIDDLE, 0, 0.10 / abs(PLAIN_MIDDLE))
    own(ROD, math.log(0.39), 0.65)
    own(SKEW, 0, 0.06)
    own(ROD_MIDDLE, 0.3, 0.2)
    own(PULL, math.log(0.45), 0.35)
    own(RULE, 0, 0.02)
    own(BLADE, 0, 0.004)
    own(LIFTS, 0, 0.12)
    for i in range(N):
        own(LIFT + i, 0, 0.02)
        # Slot and crown where 20 thou over fret 1 and 4/64 to 5/64 over fret 12 put them.
        wanted = (20 * 0.0254, (4 + i / (N - 1)) / 64 * 25.4)
        rest = [height(i, n, mean[BASS], 0, 0, 0) for n in (1, 12)]
        slopes = [[height(i, n, mean[BASS], 0, *unit) - r for unit in ((1, 0), (0, 1))] for n, r in zip((1, 12), rest)]
        laid = np.linalg.solve(slopes, [w - r for w, r in zip(wanted, rest)])
        own(NUT + i, laid[0], 0.05)
        own(CROWN + i, laid[1], 0.35)
    along([(NUT + i, 1) for i in range(N)], 0.15)
    along([(CROWN + i, 1) for i in range(N)], 1.2)
    along([(CROWN + i, 2 * i / (N - 1) - 1) for i in range(N)], 0.4)
    return mean, cov


# A blade of the usual set, and a rule on one of its half divisions (the program has by-eye readings between them too).
FEELER = math.hypot(0.0254 / math.sqrt(12), 0.0127)
HALF_MM = math.hypot(0.25 / math.sqrt(12), 0.05)

# The journal: readings as (what, string or side, value), moves as ("rod", turns) and ("lift", string, turns).
JOURNAL = [
    ("relief", TREBLE, 0.14), ("relief", BASS, 0.15),
    ("nut", 0, 0.62), ("nut", 5, 0.65),
    ("action", 0, 2.00), ("action", 5, 2.50), ("action", 2, 2.25),
    ("rod", 0.25),
    ("relief", TREBLE, 0.08), ("relief", BASS, 0.09),
    ("rod", 0.125),
    ("relief", BASS, 0.06),
    ("lift", 0, -1.25), ("action", 0, 1.50),
    ("lift", 5, -1.5), ("action", 5, 1.75), ("nut", 5, 0.53),
    ("lift", 2, -1.0), ("action", 2, 1.75),
]


def rod(x, turns, first, noise):
    lost, wide = (min(0.03, turns / 2), 0.03) if first else (0.0, 0.008)
    real = turns - lost
    per_turn = math.exp(x[ROD]) / PLAIN
    go = per_turn * (-real + math.hypot(wide, real * 0.05) * noise)
    x[TREBLE] += go * (1 + x[SKEW])
    x[BASS] += go * (1 - x[SKEW])
    x[MIDDLE] += go * x[ROD_MIDDLE]


def lift(x, i, turns, noise):
    by = PITCH * turns * (1 + x[LIFTS] + x[LIFT + i])
    x[CROWN + i] += by + (0.010 + 0.010 * abs(turns)) * noise
    # A string that pulls higher bends the neck more: by half of what it rises, its share of all.
    bend = math.exp(x[PULL]) / 16 / 2 / PLAIN * by / N
    x[TREBLE] += bend
    x[BASS] += bend


def shows(x, what, where):
    if what == "relief":
        return gap(0 if where == TREBLE else N - 1, 1, 12, 6, x[where], x[MIDDLE])
    bass = where / (N - 1)
    even = x[BASS] * bass + x[TREBLE] * (1 - bass)
    return height(where, 1 if what == "nut" else 12, even, x[MIDDLE], x[NUT + where], x[CROWN + where])


MEAN, COV = belief()
WHITE = np.linalg.cholesky(np.linalg.inv(COV)).T
MOVES = sum(one[0] in ("rod", "lift") for one in JOURNAL)


def walk(unknown):
    """The instrument at the end, and every residual on the way."""
    x, residuals, noises = unknown[:SIZE].copy(), [], list(unknown[SIZE:])
    left, first = noises.copy(), True
    for one in JOURNAL:
        if one[0] == "rod":
            rod(x, one[1], first, left.pop(0))
            first = False
        elif one[0] == "lift":
            lift(x, one[1], one[2], left.pop(0))
        else:
            what, where, read = one
            lean, sigma = (x[RULE], HALF_MM) if what == "action" else (x[BLADE], FEELER)
            residuals.append((shows(x, what, where) + lean - read) / sigma)
    return x, np.concatenate([WHITE @ (unknown[:SIZE] - MEAN), noises, residuals])


start = np.concatenate([MEAN, np.zeros(MOVES)])
found = least_squares(lambda u: walk(u)[1], start, method="lm", xtol=1e-14, ftol=1e-14, gtol=1e-14, max_nfev=20000)
covariance = np.linalg.inv(found.jac.T @ found.jac)


def told(of):
    """Something at the end, with one standard deviation: by its slope on every unknown."""
    here = of(walk(found.x)[0])
    slope = np.zeros(len(found.x))
    for at in range(len(found.x)):
        step = 1e-6 * max(1.0, abs(found.x[at]))
        there = found.x.copy()
        there[at] += step
        slope[at] = (of(walk(there)[0]) - here) / step
    return here, math.sqrt(slope @ covariance @ slope)


rows = []
for name, side in (("treble", TREBLE), ("bass", BASS)):
    rows.append(("relief", name, *told(lambda x: shows(x, "relief", side))))
for i in range(N):
    rows.append(("nut", i + 1, *told(lambda x: shows(x, "nut", i))))
    rows.append(("action", i + 1, *told(lambda x: shows(x, "action", i))))
rows.append(("rod", "a turn", *told(lambda x: math.exp(x[ROD]))))
rows.append(("height", "a turn", *told(lambda x: PITCH * (1 + x[LIFTS]))))

with open("joint.csv", "w", newline="") as file:
    out = csv.writer(file, lineterminator="\n")
    out.writerow(["what", "where", "value", "sigma"])
    for what, where, value, sigma in rows:
        out.writerow([what, where, f"{value:.6f}", f"{sigma:.6f}"])
