# SPDX-License-Identifier: Apache-2.0
"""What bench/record_bench.cpp does, by numpy, scipy and pandas: seconds of each, the least of as many runs as asked."""
import os
import sys
import tempfile
import time

import numpy as np
import pandas
import scipy.fft
import scipy.signal


def least(work, rounds=int(sys.argv[1])):
    best = np.inf
    for _ in range(rounds):
        begin = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - begin)
    return best


random = np.random.default_rng(3)
many = 10_000_000
# A hundred million codes, of which a tenth is drawn.
noise = np.tile(np.rint(32768 + 3 * random.standard_normal(many)).astype(np.uint16), 10)
everywhere = np.tile(np.clip(np.rint(32768 + 15000 * random.standard_normal(many)), 0, 65535).astype(np.uint16), 10)
values = np.rint(32768 + 30 * random.standard_normal(1 << 24))


def sine_fit(y, frequency):
    """Four parameters in two steps, by normal equations of cos, sin, 1 and the slope of both; and what is left."""
    k = np.arange(len(y))
    a, b = 0.0, 1.0
    for _ in range(2):
        c, s = np.cos(2 * np.pi * frequency * k), np.sin(2 * np.pi * frequency * k)
        columns = np.column_stack([c, s, np.ones_like(c), k * (b * c - a * s)])
        found = np.linalg.solve(columns.T @ columns, columns.T @ y)
        a, b = found[:2]
        frequency += found[3] / (2 * np.pi)
    return np.std(y - columns @ found)


def overlapping(y):
    sums = np.concatenate([[0.0], np.cumsum(y - y.mean())])
    m, result = 1, []
    while 3 * m <= len(y):
        d = sums[2 * m :] - 2 * sums[m:-m] + sums[: -2 * m]
        result.append(np.sqrt((d * d).mean() / 2) / m)
        m *= 2
    return result


sine = 3 + 1000 * np.sin(2 * np.pi * 0.01234567 * np.arange(many))
with tempfile.TemporaryDirectory() as folder:
    path = os.path.join(folder, "codes.csv")
    codes = np.rint(32768 + 300 * random.standard_normal(3_000_000)).astype(np.int64)
    pandas.DataFrame({"code": codes}).to_csv(path, index=False)
    for name, seconds in {
        "histogram_of_noise": least(lambda: np.bincount(noise)),
        "histogram_of_all_codes": least(lambda: np.bincount(everywhere)),
        "averaged_spectrum": least(lambda: scipy.signal.welch(values, window="hann", nperseg=1 << 16)),
        "spectrum_of_a_million": least(lambda: np.abs(scipy.fft.rfft(values[: 1 << 20])) ** 2, 10),
        "sine_fit": least(lambda: sine_fit(sine, 0.01234567), 1),
        "stability_in_parts": least(lambda: overlapping(values[:many])),
        "stability_of_all_overlaps": least(lambda: overlapping(values[:many])),
        "csv_of_codes": least(lambda: pandas.read_csv(path)),
    }.items():
        print(name, seconds)
