#!/usr/bin/env python3
"""How well the trace of a touch can be seen at all, in the noise of synth.py's set noise20.

    python3 trace.py [--seed S] [--notes N]

Of each harmonic the same note is made once more without its trace; the difference is the trace itself. A detector that knows it (a
matched filter) sees it at so many standard deviations of the noise: the root of its energy against the noise's variance a sample.
"""
import argparse

import numpy as np
import synth


def main():
    ask = argparse.ArgumentParser()
    ask.add_argument("--seed", type=int, default=91)
    ask.add_argument("--notes", type=int, default=400)
    given = ask.parse_args()
    seen, note = [], synth.note

    def twice(rng, fs, seconds, f1, b, kind, **how):
        again = np.random.default_rng(0)
        again.bit_generator.state = rng.bit_generator.state
        bare = note(again, fs, seconds, f1, b, kind, **{**how, "bare": True})
        sound = note(rng, fs, seconds, f1, b, kind, **how)
        if kind == "harmonic":
            noise = np.sqrt((sound[:fs] ** 2).mean()) / 10
            seen.append(np.sqrt(((sound - bare) ** 2).sum()) / noise)
        return sound

    synth.note = twice
    which = (synth.SETS + synth.BAD + synth.MORE).index("noise20")
    for j in range(given.notes):
        rng = np.random.default_rng([given.seed, which, j])
        synth.make(rng, "noise20", int(rng.choice([44100, 48000])))
    shares = [0, 0.05, 0.5]
    print(len(seen), "harmonics; standard deviations at least, of 95 %, of half:", np.round(np.quantile(seen, shares), 1))


if __name__ == "__main__":
    main()
