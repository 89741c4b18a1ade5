# SPDX-License-Identifier: Apache-2.0
"""Draws boards of one channel each: draw_boards.py COUNT SEED FOLDER. Every kind of sensor, 8 to 24 bits, every filter,
tare, correction, zones."""
import random
import sys

count, seed, folder = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3]
draw = random.Random(seed)

# Sensor and front end, span, and the unit of its differences.
SENSORS = [
    ('frontend = [ { divider = { top = "33 kohm ±0.1 %", bottom = "10 kohm ±0.1 %" } } ]', "0..10 V", "V"),
    ("", "0.1..2.3 V", "V"),
    ('sensor = { linear = { at_low = "0.25 V ±5 mV", at_high = "2.25 V ±0.5 %" } }', "0..12 l/min", "l/min"),
    ('sensor = { ntc = { r25 = "10 kohm ±1 %", beta = "3950 K ±1 %" } }\n'
     'frontend = [ { divider = { top = "4.7 kohm ±0.1 %", bottom = "sensor", supply = "r" } } ]', "-20..100 degC", "K"),
    ('sensor = { ntc = { r25 = "10 kohm ±1 %", beta = "3950 K ±1 %" } }\n'
     'frontend = [ { divider = { top = "sensor", bottom = "4.7 kohm ±0.1 %", supply = "r" } } ]', "-20..100 degC", "K"),
    ('sensor = { platinum = { r0 = "1000 ohm", class = "A", wires = 4 } }\n'
     'frontend = [ { excitation = { current = "1 mA ±0.05 %" } } ]', "-40..120 degC", "K"),
    ('sensor = { light = { resistance = "20 kohm ±20 %", at = "10 lx", exponent = "0.7 ±10 %" } }\n'
     'frontend = [ { divider = { top = "sensor", bottom = "3.3 kohm ±1 %", supply = "r" } } ]', "5..2000 lx", "lx"),
    ('sensor = { loop = { accuracy = "±0.25 % of span", supply = "24 V", burden = "9 V" } }\n'
     'frontend = [ { shunt = { resistance = "100 ohm ±0.1 %" } } ]', "0..6 bar", "bar"),
]
FILTERS = [
    None, None,
    '{ kind = "exponential", weight = %.3g }' % draw.uniform(0.01, 0.5),
    '{ kind = "exponential", time_constant = "250 ms" }',
    '{ kind = "moving average", length = 16 }',
    '{ kind = "block average", length = 10 }',
    '{ kind = "sinc", order = 3, decimation = 16 }',
    '{ kind = "median", length = 5 }',
    '{ kind = "Butterworth", cutoff = "5 Hz" }',
    '{ kind = "Butterworth", cutoff = "20 Hz", order = 4 }',
    '{ kind = "notch", frequency = "50 Hz", width = "5 Hz" }',
    '{ kind = "taps", taps = [0.1, 0.23, 0.34, 0.23, 0.1] }',
]

for number in range(count):
    sensor, span, unit = draw.choice(SENSORS)
    bits = draw.randint(8, 24)
    low, high = (float(x) for x in span.split(" ")[0].split(".."))
    keys = [sensor, f'span = "{span}"', 'converter = "a"', 'rate = "1 kSa/s"',
            'target = { accuracy = "±%g %% of span" }' % draw.choice([0.5, 1, 2])]
    if draw.random() < 0.4:
        keys.append(f"average = {draw.choice([2, 4, 8, 10, 16, 64])}")
    filters = [f for f in (draw.choice(FILTERS), draw.choice(FILTERS)) if f]
    if draw.random() < 0.5:
        filters = filters[:1]
    # A median beside others has a memory that is bounded.
    if "average" in keys[-1] or len(filters) > 1:
        filters = [f for f in filters if "notch" not in f]  # 50 Hz must lie below half the rate there
    if any("median" in f for f in filters) and any("Butter" in f or "notch" in f for f in filters):
        filters = filters[:1]
    if filters:
        keys.append(f"filter = [ {', '.join(filters)} ]")
    if draw.random() < 0.15:
        keys.append(f'scaling = {{ tare = "{low + 0.25 * (high - low):g} {span.split(" ")[1]}" }}')
    if draw.random() < 0.25:
        edges = ", ".join(f'"{low + part * (high - low):g} {span.split(" ")[1]}"' for part in (0.2, 0.55, 0.8))
        keys.append(f'zones = {{ edges = [{edges}], hysteresis = "{0.02 * (high - low):g} {unit}" }}')
    if draw.random() < 0.25:
        half = (high - low) / 2
        keys.append(f'correction = {{ coefficients = [{0.01 * half * draw.uniform(-1, 1):.6g}, '
                    f'{0.01 * half * draw.uniform(-1, 1):.6g}], centre = "{(low + high) / 2:g} {span.split(" ")[1]}", '
                    f'half_width = "{half:g} {unit}" }}')
    text = ("format = 1\n[reference.r]\nvoltage = \"2.5 V ±0.05 %\"\n[converter.a]\n"
            f'resolution = "{bits} bit"\nreference = "r"\noffset = "±2 LSB"\nnoise = "0.7 LSB rms"\n'
            + "[channel.drawn_%03d]\n" % number + "\n".join(k for k in keys if k) + "\n")
    with open(f"{folder}/drawn_{number:03d}.toml", "w", encoding="utf-8") as file:
        file.write(text)
