"""Reads responses with libraries that are not ours, for crates/core/measures/tests/all/judged.rs.

    pip install pyrato==1.1.0 pyroomacoustics==0.10.1 scipy==1.17.1
    python3 rooms.py > rooms.json

A response is noise of SplitMix64 under an exponential, with a first sample of 1; the test makes the same samples.
"""

import json

import numpy as np
import pyfar as pf
import pyrato
from pyroomacoustics.experimental import measure_rt60
from scipy import signal

RATE = 48000
MASK = (1 << 64) - 1


def split_mix_64(seed):
    """As crates/core/signals/src/noise.rs: one word is thrown away first."""
    state = seed
    while True:
        state = (state + 0x9E3779B97F4A7C15) & MASK
        z = state
        z = ((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9) & MASK
        z = ((z ^ (z >> 27)) * 0x94D049BB133111EB) & MASK
        yield z ^ (z >> 31)


def response(seed, seconds):
    words = split_mix_64(seed)
    next(words)
    count = int(2 * seconds * RATE)
    noise = np.array([2 * ((next(words) >> 11) / 2**53) - 1 for _ in range(count)])
    noise *= 10 ** (-3 * np.arange(count) / RATE / seconds)
    noise[0] = 1.0
    return noise.astype(np.float32).astype(np.float64)


def octave_t30(samples, middle):
    """SciPy's third-order Butterworth band-pass, backward integration, and a line by least squares."""
    exact = 1000 * 10 ** (0.3 * round(np.log2(middle / 1000)))
    edges = [exact / 10**0.15, exact * 10**0.15]
    band = signal.sosfilt(signal.butter(3, edges, "band", fs=RATE, output="sos"), samples)
    left = np.cumsum((band**2)[::-1])[::-1]
    levels = 10 * np.log10(left / left[0])
    at = np.where((levels <= -5) & (levels >= -35))[0]
    return float(-60 / np.polyfit(at / RATE, levels[at], 1)[0])


def read(seed, seconds):
    samples = response(seed, seconds)
    curve = pyrato.edc.schroeder_integration(pf.Signal(samples, RATE))
    time = lambda curve, name: float(np.squeeze(pyrato.parameters.reverberation_time_linear_regression(curve, name)))
    octaves = {str(middle): octave_t30(samples, middle) for middle in (250, 500, 1000, 2000, 4000, 8000)}
    return {
        "seed": seed,
        "seconds": seconds,
        "edt_s": time(curve, "EDT"),
        "t20_s": time(curve, "T20"),
        "t30_s": time(curve, "T30"),
        "t30_by_the_other_s": float(measure_rt60(samples, RATE, decay_db=30)),
        "c50_db": float(np.squeeze(pyrato.parameters.clarity(curve, 50))),
        "c80_db": float(np.squeeze(pyrato.parameters.clarity(curve, 80))),
        "d50": float(np.squeeze(pyrato.parameters.definition(curve, 50))),
        "centre_ms": 1000 * float(np.squeeze(pyrato.parameters.center_time(curve))),
        "octaves": octaves,
    }


print(json.dumps([read(seed, seconds) for seed, seconds in [(1, 0.4), (2, 1.2), (3, 2.5)]], indent=2))
