# SPDX-License-Identifier: Apache-2.0
# The trials of the demo's pack voltage at 48 V, as one would write them with numpy: the same sources, the
# same chain, the same intervals. Prints the seconds for COUNT trials on one thread.
import sys
import time

import numpy as np


def trials(count, seed):
    r = np.random.default_rng(seed)

    def uniform(half):
        return r.uniform(-half, half, count)

    def normal(sigma):
        return r.normal(0.0, sigma, count)

    x, far = 48.0, 22.0  # V, K
    reference = 2.5 + uniform(2.5 * 5e-4) + uniform(2.5 * 10e-6 * far) + uniform(2.5 * 40e-6) + normal(9e-6 * 0.112)
    top = 240e3 + uniform(240.0) + uniform(240e3 * 25e-6 * far)
    bottom = 10e3 + uniform(10.0) + uniform(10e3 * 25e-6 * far)
    series = 1e3 + uniform(10.0)
    uniform(2.2e-8)  # the capacitor, which does not act
    offset = uniform(2.0) + uniform(4096 * 2e-6 * far)
    gain = uniform(3.0) + uniform(4096 * 4e-6 * far)
    inl, dnl, noise, quantisation = uniform(1.5), uniform(0.9), normal(0.067), uniform(0.056)
    added = np.sin(r.uniform(0.0, 2 * np.pi, count)) * 1e-19 + normal(1e-8) + normal(2.5e-6)
    leakage, before = uniform(50e-9), 1.25 + uniform(1.0)

    v = x * bottom / (top + bottom)
    resistance = top * bottom / (top + bottom) + series
    v = v + added - leakage * resistance
    # The rest in the sampling capacitor: two time constants, and recovery between samples.
    bridge, pin, cap, closed_for, period = 1e3, 220e-9, 8e-12, 4.8e-6, 1e-3
    a = -1 / (resistance * pin) - 1 / (bridge * pin)
    b, c, d = 1 / (bridge * pin), 1 / (bridge * cap), -1 / (bridge * cap)
    mean, half = (a + d) / 2, np.sqrt((a - d) ** 2 / 4 + b * c)
    fast = mean - half
    slow = (a * d - b * c) / fast
    e_slow, e_fast = np.exp(slow * closed_for), np.exp(fast * closed_for)
    s, k = (e_slow - e_fast) / (slow - fast), (slow * e_fast - fast * e_slow) / (slow - fast)
    recovers = np.exp(-(period - closed_for) / (resistance * pin))
    first = recovers * s * b / (1 - recovers * (k + s * a))
    left = s * c * first + k + s * d
    v = v + left * (before - v)
    ideal = v * (4096 / reference)
    code = ideal + ideal * gain / 4096 + offset + inl + dnl / 2 + noise + quantisation
    y = code * (2.5 / 4096) * 25.0 - x
    y_sorted = np.sort(y)
    q = int(0.95 * count)
    widths = y_sorted[q:] - y_sorted[: count - q]
    at = int(np.argmin(widths))
    low = (count - q) // 2
    return y.mean(), y.std(ddof=1), y_sorted[low], y_sorted[low + q], y_sorted[at], y_sorted[at + q]


count = int(sys.argv[1])
trials(100000, 0)
best = float("inf")
for run in range(3):
    start = time.perf_counter()
    result = trials(count, run + 1)
    best = min(best, time.perf_counter() - start)
print(best, *result)
