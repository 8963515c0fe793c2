"""Noise through a falling response by SciPy's oaconvolve, for crates/core/effects/tests/all/convolution.rs.

    pip install scipy==1.17.1
    python3 convolved.py > convolved.json

Both are noise of SplitMix64, rounded to 32 bits; the test makes the same samples. Every 199th sample of each channel is kept.
"""

import json

import numpy as np
from scipy.signal import oaconvolve

MASK = (1 << 64) - 1


def noise(seed, stream, count):
    """As crates/core/signals/src/noise.rs: one word is thrown away first."""
    state = (seed + stream * 0xD1B54A32D192ED03) & MASK
    found = []
    for _ in range(count + 1):
        state = (state + 0x9E3779B97F4A7C15) & MASK
        z = state
        z = ((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9) & MASK
        z = ((z ^ (z >> 27)) * 0x94D049BB133111EB) & MASK
        found.append(2 * (((z ^ (z >> 31)) >> 11) / 2**53) - 1)
    return np.array(found[1:])


def side(channel):
    sound = (0.25 * noise(9, channel, 40000)).astype(np.float32)
    response = (0.25 * noise(3, channel, 30000)).astype(np.float32)
    response *= np.exp(-np.log(1000) * np.arange(30000) / (0.5 * 48000)).astype(np.float32)
    out = oaconvolve(sound.astype(np.float64), response.astype(np.float64))[: 40000]
    return [round(float(x), 10) for x in out[::199]]


print(json.dumps([side(0), side(1)]))
