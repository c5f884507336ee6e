#!/usr/bin/env python3
"""Plucked strings over frets, to try on them whether the ear hears a buzz.

    python3 buzz.py FOLDER [--notes N] [--seed S]     writes FOLDER/*.wav and FOLDER/truth.csv
    python3 buzz.py FOLDER --seed 5 --only 4,5,27,32    the few notes the tests of the crate read

Nothing here is shared with the ear, nor with synth.py: the string is not a sum of modes but a stiff string stepped through
time and space (Bilbao, Numerical Sound Synthesis, 2009, chapters 7 and 8: explicit scheme, two losses, tension raised by the mean
square of the slope), and what it meets are frets, from which it bounces with some loss. A
string that swings clear of them is clean; one that does not sounds as its contacts make it. Truth is what was met, and when: contacts
are counted from 0.06 s on, as what slaps within the pluck itself is no buzz.
"""
import argparse
import csv
import os

import numpy as np
from scipy.io import wavfile
from scipy.signal import bilinear, decimate, lfilter

OPEN = [("six", 1, 329.628), ("six", 2, 246.942), ("six", 3, 195.998), ("six", 4, 146.832), ("six", 5, 110.0), ("six", 6, 82.407),
        ("bass", 1, 97.999), ("bass", 2, 73.416), ("bass", 3, 55.0), ("bass", 4, 41.203)]
FS = 48000
OVER = 2
SCALE = {"six": 648.0, "bass": 864.0}


def string(rng, seconds, f1, b, pluck, at, magnet, tops, bounce, modulation):
    """Sound at a magnet, and how many contacts there were in each hundredth of a second.

    Lengths along are shares of what swings; heights are millimetres; `tops` are frets (place, how far under the string at rest).
    """
    fs = FS * OVER
    dt = 1 / fs
    gamma = 2 * f1 / np.sqrt(1 + b)
    kappa2 = b * gamma**2 / np.pi**2
    # All modes lose 0.5 to 1.4 a second, one at 2 kHz 3 to 15 more.
    s0, s1 = rng.uniform(0.5, 1.4), rng.uniform(3, 15) / (np.pi * 2000 / f1) ** 2
    # The finest grid that is stable, with a little room for the tension that rises.
    g2 = gamma**2 * 1.06
    room = g2 * dt**2 + 4 * s1 * dt
    h = np.sqrt((room + np.sqrt(room**2 + 16 * kappa2 * dt**2)) / 2)
    n = min(int(1 / h), 700)
    h = 1 / n
    x = np.arange(n + 1) * h
    u = np.where(x < 1 - at, x / (1 - at), (1 - x) / at) * pluck
    # A finger or a pick is no needle.
    width = max(2, int(n * 0.012))
    u = np.convolve(np.pad(u, width, mode="reflect", reflect_type="odd"), np.hanning(2 * width + 1) / np.hanning(2 * width + 1).sum(), "same")[width:-width]
    u[0] = u[-1] = 0
    last = u.copy()
    where = np.array([int(round(place * n)) for place, _ in tops], int)
    under = np.array([-depth for _, depth in tops])
    seen = int(round((1 - magnet) * n))
    steps = int(seconds * fs)
    out = np.empty(steps)
    met = np.zeros(int(seconds * 100) + 1, int)
    start = (np.diff(u) ** 2).sum() / h
    c0 = 1 / (1 + s0 * dt)
    for step in range(steps):
        slope = (np.diff(u) ** 2).sum() / h
        tension = 1 + modulation * slope / start
        d2 = np.zeros_like(u)
        d2[1:-1] = u[2:] - 2 * u[1:-1] + u[:-2]
        d2old = np.zeros_like(u)
        d2old[1:-1] = last[2:] - 2 * last[1:-1] + last[:-2]
        d4 = np.zeros_like(u)
        d4[1:-1] = d2[2:] - 2 * d2[1:-1] + d2[:-2]
        new = c0 * (2 * u - (1 - s0 * dt) * last + dt**2 * (gamma**2 * tension / h**2 * d2 - kappa2 / h**4 * d4)
                    + 2 * s1 * dt / h**2 * (d2 - d2old))
        new[0] = new[-1] = 0
        if len(where):
            low = new[where] < under
            if low.any():
                met[int(step / fs * 100)] += int(low.sum())
                new[where] = np.where(low, under + bounce * (under - new[where]), new[where])
        last, u = u, new
        out[step] = (u[seen] - last[seen]) * fs
    return out, met


def coil(sound, fs):
    """A pickup's resonance: two poles near 4 kHz."""
    w, q = 2 * np.pi * 4200, 1.8
    return lfilter(*bilinear([w * w], [1, w / q, w * w], fs), sound)


def make(rng, clean):
    """One note: samples, and its truth."""
    tuning, number, hz = OPEN[int(rng.integers(len(OPEN)))]
    held = int(rng.integers(0, 15))
    scale = SCALE[tuning]
    f1 = hz * 2 ** ((held + rng.normal(0, 0.04)) / 12)
    b = np.interp(np.log2(hz), [4.9, 6.4, 8.4], [3e-4, 4e-5, 1.2e-5]) * rng.uniform(0.6, 2.2) * 4 ** (held / 12)
    frets = np.arange(held + 1, 23)
    from_nut = scale * (1 - 2 ** (-np.arange(0, 24) / 12))
    length = scale - from_nut[held]
    # The string rises from its fret to the saddle; the neck is hollow by its relief; no fret lies quite at its height.
    height = rng.uniform(2.2, 4.2) * (1.3 if tuning == "bass" else 1.0)
    rise = height / scale
    relief = rng.uniform(0.02, 0.3)
    middle = from_nut[8]
    neck = lambda p: relief * (((p - middle) / middle) ** 2 - 1)
    tops = []
    for fret in frets:
        along = from_nut[fret] - from_nut[held]
        line = (1 - along / length) * neck(from_nut[held]) + along * rise
        depth = line - neck(from_nut[fret]) - rng.normal(0, 0.015) + 0.02
        tops.append([along / length, max(0.02, depth)])
    if not clean and rng.random() < 0.5:
        worst = int(rng.integers(0, min(4, len(tops))))
        tops[worst][1] = max(0.01, tops[worst][1] - rng.uniform(0.1, 0.4))
    at = rng.uniform(0.1, 0.3)
    magnet = rng.uniform(0.06, 0.22)
    amplitude = rng.uniform(0.4, 1.6) if tuning == "six" else rng.uniform(0.8, 2.6)
    # The hull of a plucked string's motion is its triangle, turned over: with the peak at the mirror of the pluck it begins to touch.
    swing = lambda p: min(p / at, (1 - p) / (1 - at))
    touches = min(depth / swing(place) for place, depth in tops)
    amplitude = min(amplitude, 0.7 * touches) if clean else touches * rng.uniform(1.05, 3.0)
    seconds = 0.8
    glide = 2 * np.log(2) / 1200 * rng.uniform(0.3, 4.0) * min(1.0, amplitude)
    sound, met = string(rng, seconds, f1, b, amplitude, at, magnet, tops, rng.uniform(0.2, 0.8), glide)
    sound = decimate(coil(sound, FS * OVER), OVER)
    sound = sound / np.sqrt((sound[: FS // 3] ** 2).mean())
    snr = rng.uniform(32, 60)
    lead = int(rng.uniform(0.12, 0.3) * FS)
    y = np.concatenate([np.zeros(lead), sound]) + rng.normal(0, 10 ** (-snr / 20), lead + len(sound))
    t = np.arange(len(y)) / FS
    for h in range(1, 9):
        y += 10 ** (-rng.uniform(45, 65) / 20) * np.sin(2 * np.pi * 50 * h * t + rng.uniform(0, 6.28))
    y = np.round(y / np.abs(y).max() * rng.uniform(0.2, 0.9) * 32767).astype(np.int16)
    late = met[6:]
    until = 0.0 if not late.any() else 0.06 + 0.01 * (np.nonzero(late)[0].max() + 1)
    return y, [tuning, number, held, f"{f1:.4f}", int(met[:6].sum()), int(late.sum()), f"{until:.2f}", f"{snr:.1f}"]


def main():
    ask = argparse.ArgumentParser()
    ask.add_argument("folder")
    ask.add_argument("--notes", type=int, default=100)
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--only", default="")
    given = ask.parse_args()
    os.makedirs(given.folder, exist_ok=True)
    rows = []
    for j in [int(j) for j in given.only.split(",")] if given.only else range(given.notes):
        rng = np.random.default_rng([given.seed, 99, j])
        samples, truth = make(rng, j % 2 == 0)
        name = f"buzz-{j:04d}"
        wavfile.write(os.path.join(given.folder, name + ".wav"), FS, samples)
        rows.append([name, *truth])
    with open(os.path.join(given.folder, "truth.csv"), "w", newline="") as file:
        out = csv.writer(file)
        out.writerow(["file", "tuning", "string", "held", "hz", "at_pluck", "contacts", "until", "snr"])
        out.writerows(rows)


if __name__ == "__main__":
    main()
