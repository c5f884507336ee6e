#!/usr/bin/env python3
"""General-purpose pitch estimators on the notes of synth.py, and the ear on the same files in the same run.

    python3 compare.py FOLDER TABLE      needs librosa, aubio and praat-parselmouth; TABLE is the built example `table`

Each is given the note from 0.05 s after its loudest rise on, a range of an octave and a half about the truth, and answers with
the median of its frames. The best that each can do, then: none of them is told of octaves here.
"""
import csv
import os
import subprocess
import sys
import time
from collections import defaultdict

import aubio
import librosa
import numpy as np
import parselmouth
from scipy.io import wavfile


def yin(y, fs, low, high):
    frame = int(2 ** np.ceil(np.log2(3 * fs / low)))
    return np.median(librosa.yin(y, fmin=low, fmax=high, sr=fs, frame_length=frame))


def pyin(y, fs, low, high):
    frame = int(2 ** np.ceil(np.log2(3 * fs / low)))
    f0, voiced, _ = librosa.pyin(y, fmin=low, fmax=high, sr=fs, frame_length=frame, resolution=0.05)
    return np.nanmedian(f0)


def yinfft(y, fs, low, high):
    size = int(2 ** np.ceil(np.log2(4 * fs / low)))
    pitch = aubio.pitch("yinfft", size, size // 4, fs)
    hop = size // 4
    found = [pitch(y[i : i + hop].astype(np.float32))[0] for i in range(0, len(y) - hop, hop)]
    found = [f for f in found if low < f < high]
    return np.median(found) if found else np.nan


def praat(y, fs, low, high):
    pitch = parselmouth.Sound(y, fs).to_pitch_ac(pitch_floor=low, pitch_ceiling=high, very_accurate=True)
    found = pitch.selected_array["frequency"]
    found = found[found > 0]
    return np.median(found) if len(found) else np.nan


ESTIMATORS = {"librosa yin": yin, "librosa pyin": pyin, "aubio yinfft": yinfft, "Praat ac": praat}


def main():
    folder = sys.argv[1]
    off, took = defaultdict(list), defaultdict(float)
    seconds = 0.0
    for row in csv.DictReader(open(os.path.join(folder, "truth.csv"))):
        if row["set"].startswith("bad"):
            continue
        fs, y = wavfile.read(os.path.join(folder, row["file"] + ".wav"))
        y = y.astype(float) / 32768
        rise = np.argmax(np.convolve(np.abs(y), np.ones(200), "valid") > 0.3 * np.abs(y).max() * 100)
        y = y[rise + int(0.05 * fs) :][: int(1.5 * fs)]
        seconds += len(y) / fs
        truth = float(row["hz"])
        if not off:
            # What is compiled at its first call is not timed.
            for estimator in ESTIMATORS.values():
                estimator(y, fs, truth / 1.5, truth * 1.5)
        for name, estimator in ESTIMATORS.items():
            began = time.process_time()
            try:
                found = estimator(y, fs, truth / 1.5, truth * 1.5)
            except Exception:
                found = np.nan
            took[name] += time.process_time() - began
            off[name, row["set"]].append(abs(1200 * np.log2(found / truth)) if found > 0 else np.nan)
    print(f"{'estimator':14} {'set':8} {'median':>8} {'95 %':>8}  none")
    for (name, which), values in sorted(off.items()):
        values = np.array(values)
        good = values[np.isfinite(values)]
        print(f"{name:14} {which:8} {np.median(good):8.3f} {np.percentile(good, 95):8.3f}  {len(values) - len(good)}")
    for name in ESTIMATORS:
        print(f"{name:14} {1000 * took[name] / seconds:8.1f} ms of a core for a second of sound")
    print("\nthe ear:", flush=True)
    subprocess.run([sys.argv[2], folder], check=True)


if __name__ == "__main__":
    main()
