# Check values from SciPy (Debian's python3-scipy): python3 core/src/filters/reference/make-table.py > core/src/filters/reference/scipy-table.json
import json
import numpy as np
from scipy import signal

hz = [20, 63, 250, 1000, 2000, 4000, 8000, 16000, 20000]
w = 2 * np.pi * np.array(hz)


def db(h):
    return [round(float(v), 5) for v in 20 * np.log10(np.abs(h))]


butterworth = []
for kind in ("low", "high"):
    for order in (1, 2, 3, 4, 8, 16):
        z, p, k = signal.butter(order, 2 * np.pi * 1500, kind, analog=True, output="zpk")
        _, h = signal.freqs_zpk(z, p, k, w)
        butterworth.append({"kind": kind, "order": order, "cornerHz": 1500, "db": db(h)})

bells = []
for f0, q, gain in ((100, 0.7, 6), (1000, 4, -12), (9000, 1.2, 12), (16000, 8, -6)):
    a = 10 ** (gain / 40)
    w0 = 2 * np.pi * f0
    _, h = signal.freqs([1, w0 * a / q, w0**2], [1, w0 / (a * q), w0**2], w)
    bells.append({"hz": f0, "q": q, "gainDb": gain, "db": db(h)})

rng = np.random.default_rng(7)
delays = []
for _ in range(4):
    r, t = rng.uniform(0.5, 0.98), rng.uniform(0.05, 2.5)
    a = [1.0, -2 * r * np.cos(t), r * r]
    b = list(np.round(rng.normal(size=3), 6))
    a = [float(np.round(v, 9)) for v in a]
    _, gd = signal.group_delay((b, a), w=hz, fs=48000)
    _, h = signal.freqz(b, a, worN=hz, fs=48000)
    delays.append(
        {
            "b": [float(v) for v in b],
            "a": a,
            "groupDelayFrames": [round(float(v), 6) for v in gd],
            "phaseDeg": [round(float(v), 6) for v in np.angle(h, deg=True)],
            "db": db(h),
        }
    )

kaiser = [round(float(v), 9) for v in signal.windows.kaiser(33, signal.kaiser_beta(80))]
print(json.dumps({"hz": hz, "butterworth": butterworth, "bells": bells, "delays": delays, "kaiser33at80dB": kaiser}))
