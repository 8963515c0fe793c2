"""Mirror images of three boxes by pyroomacoustics 0.10.1 and NumPy: the nearest 51 (the source, then 50 reflections), with their
distance from the listener and what is left of the pressure after all walls at each of two absorptions.

Run in an environment with pyroomacoustics from PyPI:  python images.py > images.json
"""
import json
import numpy as np
import pyroomacoustics as pra

# Size, source, listener, absorption of the walls at x = 0, x = length, y = 0, y = width, z = 0, z = height.
ROOMS = [
    ([7.2, 5.1, 3.1], [1.6, 2.1, 1.4], [5.0, 2.8, 1.2], [0.1, 0.2, 0.3, 0.4, 0.5, 0.6]),
    ([12.0, 3.0, 2.5], [0.5, 0.4, 2.2], [11.3, 2.4, 0.6], [0.02, 0.9, 0.15, 0.15, 0.35, 0.05]),
    ([30.0, 22.0, 14.0], [4.0, 11.5, 1.5], [21.0, 7.0, 3.0], [0.05, 0.3, 0.12, 0.08, 0.6, 0.07]),
]
NAMES = ["west", "east", "south", "north", "floor", "ceiling"]
ORDER = 6

found = []
for size, source, listener, absorption in ROOMS:
    materials = {name: pra.Material(taken) for name, taken in zip(NAMES, absorption)}
    room = pra.ShoeBox(size, fs=48000, materials=materials, max_order=ORDER, air_absorption=False)
    room.set_sound_speed(343.0)
    room.add_source(source)
    room.add_microphone(listener)
    room.image_source_model()
    images = room.sources[0].images
    damping = room.sources[0].damping.reshape(-1, images.shape[1])[0]
    away = np.linalg.norm(images - np.array(listener)[:, None], axis=0)
    order = np.argsort(away, kind="stable")[:51]
    found.append({
        "size_m": size, "source_m": source, "listener_m": listener, "absorption": absorption, "order": ORDER,
        "away_m": [round(float(away[k]), 9) for k in order],
        "gain": [round(float(damping[k]), 9) for k in order],
    })
print(json.dumps(found, indent=1))
