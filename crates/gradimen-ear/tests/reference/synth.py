#!/usr/bin/env python3
"""Plucked strings with physics of their own, to try the ear on.

    python3 synth.py FOLDER [--notes N] [--seed S] [--sets clean,hum,...]   writes FOLDER/*.wav and FOLDER/truth.csv
    python3 synth.py FOLDER --intervals N [--how noise20]                  pairs of notes, five plucks each
    python3 synth.py FOLDER --fixture --seed 4                             the few notes the tests of the crate read

Nothing here is shared with the ear. A string is a sum of its own modes: the hinged stiff string
(f_k = k F sqrt(1 + B k^2), exact for hinged ends), plucked at a point (Fletcher and Rossing, The Physics of
Musical Instruments, 2.8: amplitudes sin(k pi p) / k^2), each mode losing energy by air, by the string itself and by what it
is tied to (Valette's three terms), the tension raised by the mean square of the slope (Legge and Fletcher 1984), two
polarisations that split, a body and neck whose modes pull the partials near them, a magnet at a place with its
coil's resonance. Truth is F sqrt(1 + B) of the main polarisation with no amplitude and no pull (for a note touched at its
middle, its own lowest partial).
"""
import argparse
import csv
import os

import numpy as np
from scipy.io import wavfile
from scipy.signal import lfilter

SIX = [("E4", 329.628), ("B3", 246.942), ("G3", 195.998), ("D3", 146.832), ("A2", 110.0), ("E2", 82.407)]
BASS = [("G2", 97.999), ("D2", 73.416), ("A1", 55.0), ("E1", 41.203), ("B0", 30.868)]
SETS = ["clean", "noise20", "hum", "glide", "beat", "all40"]
MORE = ["ring", "bare"]
BAD = ["bad_hum", "bad_noise", "bad_two", "bad_bend", "bad_drift", "bad_clip"]


def stiffness(rng, open_hz):
    """B of an open string: from thin plain to thick wound (common practice: 1e-5 to 2e-4 on guitars, to 1e-3 on a low B)."""
    low = np.interp(np.log2(open_hz), [4.9, 6.4, 8.4], [3.0e-4, 4e-5, 1.2e-5])
    return low * rng.uniform(0.6, 2.2)


def note(rng, fs, seconds, f1, b, kind, *, glide=0.0, second=0.0, pull=0.0, thump=0.0, body=None, bare=False):
    """The sound of one note from the moment of the pluck; f1 is its lowest partial, b its own inharmonicity."""
    n = int(fs * seconds)
    t = np.arange(n) / fs
    base = f1 / np.sqrt(1 + b)
    count = int(min(60, max(4, 9000 / f1), 0.45 * fs / f1))
    k = np.arange(1, count + 1)
    f = k * base * np.sqrt(1 + b * k**2)
    at = rng.uniform(0.08, 0.32)  # of this vibrating length, from the bridge
    magnet = rng.uniform(0.05, 0.27)
    slope = np.sin(k * np.pi * at) / k  # k times the displacement of the mode
    # Air and end losses, the string's own; decay of amplitude in 1/s.
    slow = rng.uniform(0.35, 0.9) * (f1 / 150) ** 0.45 * (2.2 if kind == "fretted" else 1.0)
    own = rng.uniform(0.4, 1.6) * 1e-3
    alpha = slow + own * f / 2 + 2e-8 * f**2 * rng.uniform(0.5, 2)
    alpha = alpha * np.exp(rng.normal(0, 0.15, count))
    sight = np.sin(k * np.pi * magnet) / (np.sin(np.pi * magnet) + 0.2)
    coil = 1 / np.sqrt((1 - (f / 5200) ** 2) ** 2 + (f / (5200 * 2.2)) ** 2)
    envelope = np.exp(-np.outer(alpha, t))
    x = slope[:, None] * envelope
    if second > 0:
        angle = rng.uniform(0.15, 0.9) * second
        ease = rng.uniform(0.35, 0.95, count)
        y = angle * slope[:, None] * np.exp(-np.outer(alpha * ease, t))
        split = rng.normal(0, 0.12) + rng.normal(0, 0.04, count)
        seen = rng.uniform(0.05, 0.25)
    else:
        y = None
    energy = (x**2).sum(0) + (0 if y is None else (y**2).sum(0))
    stretch = 2 ** (glide * energy / energy[0] / 1200)
    drawn = np.cumsum(stretch) / fs
    pulled = np.zeros(count)
    if pull > 0:
        wood = rng if body is None else np.random.default_rng(body)
        for _ in range(5):
            mode, width = wood.uniform(60, 700), wood.uniform(8, 40)
            d = (f - mode) / width
            pulled += pull * wood.uniform(0.2, 1.0) * d / (1 + d**2)
    out = np.zeros(n)
    turn = rng.uniform(0, 2 * np.pi) if rng.random() < 0.5 else 0.0
    for i in range(count):
        hz = f[i] * 2 ** (pulled[i] / 1200)
        out += sight[i] * coil[i] * x[i] * np.sin(2 * np.pi * hz * drawn + turn * (i + 1))
        if y is not None:
            out += seen * sight[i] * coil[i] * y[i] * np.sin(2 * np.pi * (hz + split[i]) * drawn + rng.normal(0, 0.6))
    if kind == "harmonic" and not bare:
        # What the touch leaves of the odd partials of the whole string dies in some hundredths of a second.
        left = rng.uniform(0.01, 0.08)
        for odd in (1, 3, 5, 7):
            hz = odd * base / 2 * np.sqrt(1 + b / 4 * odd**2)
            out += left / odd * np.exp(-t * rng.uniform(6, 25)) * np.sin(2 * np.pi * hz * t + rng.uniform(0, 6.28))
    if thump > 0:
        burst = rng.normal(0, 1, n) * np.exp(-t / rng.uniform(0.002, 0.008))
        out += thump * lfilter([1], [1, -0.8], burst) * np.abs(out[: fs // 20]).max()
    return out


def finish(rng, fs, sound, lead, snr=None, hum=None, peak=None):
    """Silence before, noise, mains, and sixteen bits; and how loud the string is in them."""
    quiet = int(lead * fs)
    y = np.concatenate([np.zeros(quiet), sound])
    power = np.sqrt((sound[: fs] ** 2).mean())
    if hum is not None:
        mains, level = hum
        t = np.arange(len(y)) / fs
        mains = mains + rng.normal(0, 0.01)
        for h in range(1, 14):
            size = level * rng.uniform(0.1, 1) / (1 if h <= 3 else h / 2)
            y = y + power * size * np.sin(2 * np.pi * h * mains * t + rng.uniform(0, 6.28))
    if snr is not None:
        y = y + rng.normal(0, power * 10 ** (-snr / 20), len(y))
    most, peak = np.abs(y).max(), peak or rng.uniform(0.15, 0.9)
    return np.round(y / most * peak * 32767).astype(np.int16), loudness(sound / most * peak, fs)


def loudness(sound, fs):
    """How loud the string itself is from 0.03 to 0.33 s, decibels below full scale."""
    part = sound[int(0.03 * fs) : int(0.33 * fs)]
    return 10 * np.log10((part**2).mean())


def pick(rng):
    """A string of a guitar or a bass and a note on it: name of the instrument, string, kind, fret, lowest partial, B."""
    tuning, strings = ("six", SIX) if rng.random() < 0.6 else ("bass", BASS)
    i = int(rng.integers(len(strings)))
    _, hz = strings[i]
    b = stiffness(rng, hz)
    kind = ["open", "harmonic", "fretted"][int(rng.integers(3))]
    off = rng.normal(0, 8)
    if kind == "open":
        fret, f1, own = 0, hz * 2 ** (off / 1200), b
    elif kind == "harmonic":
        fret, f1, own = 12, 2 * hz * 2 ** (off / 1200) * np.sqrt((1 + 4 * b) / (1 + b)), 4 * b
    else:
        fret = int(rng.choice([12, 12, 12, 5, 7, 17]))
        far = 2 ** (fret / 12)
        fret = min(fret, 24)
        f1, own = hz * far * 2 ** ((off + rng.normal(0, 6)) / 1200), b * far**2
    return tuning, i + 1, kind, fret, f1, own


def make(rng, name, fs):
    """One note of a set: its samples and its truth."""
    tuning, string, kind, fret, f1, b = pick(rng)
    low = 1.6 if f1 < 60 else 1.0
    how = dict(
        glide=low * rng.uniform(0.5, 3.0) if name in ("glide", "all40", *MORE) else 0.0,
        second=1.0 if name in ("beat", "all40", *MORE) else 0.0,
        pull=0.35 if name in ("all40", *MORE) else 0.0,
        thump=0.3 if name in ("all40", *MORE) else 0.0,
        bare=name == "bare",
    )
    sound = note(rng, fs, 1.7, f1, b, kind, **how)
    if name == "ring":
        sound = sound + along(rng, fs, len(sound), tuning, string) * np.sqrt((sound[:fs] ** 2).mean())
    snr = {"noise20": 20, "all40": 40, "ring": 40, "bare": 40}.get(name)
    hum = None
    if name in ("hum", "all40"):
        hum = (float(rng.choice([50.0, 60.0])), 10 ** (rng.uniform(-40, -22) / 20))
    samples, loud = finish(rng, fs, sound, rng.uniform(0.06, 0.3), snr, hum)
    return samples, (tuning, string, kind, fret, f1, b, loud)


def along(rng, fs, n, tuning, string):
    """The other strings, which the pluck shook: each with its first partials, in tune to some cents, 40 to 60 dB down, for seconds."""
    t = np.arange(n) / fs
    out = np.zeros(n)
    for i, (_, hz) in enumerate(SIX if tuning == "six" else BASS):
        if i + 1 == string:
            continue
        hz = hz * 2 ** (rng.normal(0, 5) / 1200)
        loud = 10 ** (-rng.uniform(40, 60) / 20)
        for k in range(1, 7):
            size = loud * rng.uniform(0.2, 1) / k
            out += size * np.exp(-t * rng.uniform(0.5, 1.5)) * np.sin(2 * np.pi * k * hz * t + rng.uniform(0, 6.28))
    return out


def bad(rng, name, fs):
    """What is to be refused."""
    tuning, string, kind, fret, f1, b = pick(rng)
    lead = rng.uniform(0.06, 0.3)
    if name == "bad_hum":
        t = np.arange(int(1.9 * fs)) / fs
        mains = float(rng.choice([50.0, 60.0]))
        y = sum(rng.uniform(0.1, 1) / h * np.sin(2 * np.pi * h * mains * t + rng.uniform(0, 6.28)) for h in range(1, 12))
        return np.round(y / np.abs(y).max() * 15000 + rng.normal(0, 20, len(y))).astype(np.int16), (tuning, 0, "", 0, 0, 0, 0)
    if name == "bad_noise":
        n = int(1.9 * fs)
        shape = np.exp(-np.arange(n) / fs * rng.uniform(0, 3))
        y = lfilter([1], [1, -rng.uniform(0, 0.95)], rng.normal(0, 1, n)) * shape
        return np.round(y / np.abs(y).max() * 20000).astype(np.int16), (tuning, 0, "", 0, 0, 0, 0)
    sound = note(rng, fs, 1.7, f1, b, kind, glide=1.0)
    peak = None
    if name == "bad_two":
        while True:
            _, _, kind2, _, other, b2 = pick(rng)
            if abs(1200 * np.log2(other / f1) % 1200 - 600) < 520:
                break
        sound = sound + rng.uniform(0.5, 1.5) * note(rng, fs, 1.7, other, b2, kind2)
    if name in ("bad_bend", "bad_drift"):
        t = np.arange(len(sound)) / fs
        if name == "bad_bend":
            cents = rng.choice([-1, 1]) * rng.uniform(12, 100) / (1 + np.exp(-(t - rng.uniform(0.2, 0.7)) / rng.uniform(0.02, 0.12)))
        else:
            cents = rng.choice([-1, 1]) * rng.uniform(4, 20) * t
        warped = np.cumsum(2 ** (cents / 1200)) / fs
        sound = np.interp(warped, t, sound, right=0.0)
    y, _ = finish(rng, fs, sound, lead, 50, None, peak)
    if name == "bad_clip":
        y = np.clip(y.astype(float) / np.abs(y).max() * 32767 * rng.uniform(1.6, 4), -32767, 32767).astype(np.int16)
    return y, (tuning, string, kind, fret, f1, b, 0)


def intervals(rng, fs, how):
    """Five plucks of the open string or its harmonic, five of the fretted note, one string, one body; as in the sets all40, noise20, ring or bare."""
    tuning, strings = ("six", SIX) if rng.random() < 0.6 else ("bass", BASS)
    i = int(rng.integers(len(strings)))
    hz = strings[i][1] * 2 ** (rng.normal(0, 3) / 1200)
    b = stiffness(rng, hz)
    kind = ["open", "harmonic"][int(rng.integers(2))]
    lowest = hz if kind == "open" else 2 * hz * np.sqrt((1 + 4 * b) / (1 + b))
    fretted = 2 * hz * 2 ** (rng.normal(0, 5) / 1200)
    body = int(rng.integers(2**31))
    low = 1.6 if hz < 60 else 1.0
    for name, f1, own in ((kind, lowest, b if kind == "open" else 4 * b), ("fretted", fretted, 4 * b)):
        for pluck in range(5):
            glide = low * rng.uniform(0.5, 3.0)
            bare = how == "bare"
            sound = note(rng, fs, 1.7, f1, own, name, glide=glide, second=1.0, pull=0.35, thump=0.3, body=body, bare=bare)
            if how == "ring":
                sound = sound + along(rng, fs, len(sound), tuning, i + 1) * np.sqrt((sound[:fs] ** 2).mean())
            hum = (50.0, 10 ** (rng.uniform(-40, -22) / 20))
            samples, loud = finish(rng, fs, sound, 0.15, 20 if how == "noise20" else 40, hum)
            yield pluck, samples, (tuning, i + 1, name, 0 if name == "open" else 12, f1, own, loud)


def main():
    ask = argparse.ArgumentParser()
    ask.add_argument("folder")
    ask.add_argument("--notes", type=int, default=100)
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--sets", default=",".join(SETS + BAD + MORE))
    ask.add_argument("--intervals", type=int, default=0)
    ask.add_argument("--how", choices=["all40", "noise20", "ring", "bare"], default="all40")
    ask.add_argument("--fixture", action="store_true")
    given = ask.parse_args()
    os.makedirs(given.folder, exist_ok=True)
    rows = []

    def keep(name, fs, samples, truth, group=""):
        wavfile.write(os.path.join(given.folder, name + ".wav"), fs, samples)
        tuning, string, kind, fret, f1, b, loud = truth
        rows.append([name, name.rsplit("-", 1)[0], tuning, string, kind, fret, f"{f1:.9f}", f"{b:.9g}", group, f"{loud:.3f}"])

    if given.intervals:
        for j in range(given.intervals):
            rng = np.random.default_rng([given.seed, 77, j])
            fs = int(rng.choice([44100, 48000]))
            for pluck, samples, truth in intervals(rng, fs, given.how):
                keep(f"interval-{j:04d}{truth[2][0]}{pluck}", fs, samples, truth, j)
    else:
        each = 1 if given.fixture else given.notes
        for s, name in enumerate(SETS + BAD + MORE):
            if name not in given.sets.split(","):
                continue
            for j in range(each):
                rng = np.random.default_rng([given.seed, s, j])
                fs = int(rng.choice([44100, 48000]))
                samples, truth = (bad if name in BAD else make)(rng, name, fs)
                if given.fixture:
                    samples = samples[: int((1.0 if name in BAD else 1.6) * fs)]
                keep(f"{name}-{j:04d}", fs, samples, truth)
    with open(os.path.join(given.folder, "truth.csv"), "w", newline="") as file:
        out = csv.writer(file)
        out.writerow(["file", "set", "tuning", "string", "kind", "fret", "hz", "b", "group", "level"])
        out.writerows(rows)


if __name__ == "__main__":
    main()
