"""Makes voice.flac: the tide table at Pellow Slip, spoken by a speech synthesiser. See voice.md.

Needs espeak-ng and flac from Debian's packages, NumPy and SciPy. Not part of the build: its result is kept.
"""

import subprocess
import tempfile
from pathlib import Path

import numpy as np
from scipy.io import wavfile
from scipy.signal import butter, resample_poly, sosfilt

RATE = 48_000
SECONDS = 8.0
# When a phrase begins, how loud it is (dB), its pitch and speed, and its words: uneven on purpose.
PHRASES = [
    (0.34, 0.0, 42, 200, "Six sixteen. Slack water at Pellow Slip."),
    (3.04, -9.0, 36, 190, "Seven steps show, all slippery."),
    (5.66, -3.0, 44, 205, "Stow the sails, and mind the chains!"),
]
# When a breath is taken, how long, and how loud (dB).
BREATHS = [(0.02, 0.24, -31.0), (2.66, 0.30, -29.0), (5.36, 0.32, -27.0)]


def spoken(words, pitch, speed):
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "phrase.wav"
        command = ["espeak-ng", "-v", "en-gb", "-p", str(pitch), "-s", str(speed), "-w", str(out), words]
        subprocess.run(command, check=True)
        rate, samples = wavfile.read(out)
    samples = samples / 32768.0
    loud = np.flatnonzero(np.abs(samples) > 0.002)
    samples = samples[loud[0] : loud[-1] + 1]
    return resample_poly(samples, RATE, rate)


def main():
    random = np.random.default_rng(1)
    voice = np.zeros(int(RATE * SECONDS))

    def put(samples, at_s):
        at = int(at_s * RATE) + np.arange(len(samples))
        np.add.at(voice, at % len(voice), samples)

    for at_s, level_db, pitch, speed, words in PHRASES:
        phrase = spoken(words, pitch, speed)
        print(f"{at_s:.2f} s to {at_s + len(phrase) / RATE:.2f} s: {words}")
        # Words within a phrase are uneven too: the voice leans on some and swallows others.
        lean = np.interp(np.arange(len(phrase)) / len(phrase), [0, 0.3, 0.55, 0.8, 1], [0, 2, -4, 1, -6])
        put(phrase * 10 ** ((level_db + lean) / 20), at_s)
    air = butter(2, [450, 6500], "bandpass", fs=RATE, output="sos")
    for at_s, seconds, level_db in BREATHS:
        n = int(seconds * RATE)
        breath = sosfilt(air, random.standard_normal(n)) * np.sin(np.pi * np.linspace(0, 1, n) ** 0.7) ** 2
        put(breath * 10 ** (level_db / 20), at_s)
    voice += 10 ** (-78 / 20) * random.standard_normal(len(voice))
    voice *= 10 ** (-3 / 20) / np.abs(voice).max()
    whole = np.round(voice * 32767).astype(np.int16)
    with tempfile.TemporaryDirectory() as folder:
        wav = Path(folder) / "voice.wav"
        wavfile.write(wav, RATE, whole)
        target = Path(__file__).with_name("voice.flac")
        subprocess.run(["flac", "-8", "--silent", "--force", "-o", str(target), str(wav)], check=True)


main()
