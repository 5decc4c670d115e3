"""Made-up pressure traces with the truth, of other shapes than the simulator's: for tuning and for tests."""

import numpy as np

STEP_S = 0.002
AMBIENT_KPA = 101.325
#: Settings that a trace may have besides its source.
SETTINGS = ("regular", "irregular", "compressor", "bottle", "lag", "wild")
_SOURCES = {
    "regular": ("floor pump", "hand pump"),
    "irregular": ("floor pump", "hand pump"),
    "compressor": ("compressor",),
    "bottle": ("charge",),
}
ALL_SOURCES = ("floor pump", "compressor", "charge", "hand pump")


def trace(rng, least_growth=0.03, setting="regular"):
    """Return (source, seconds, kPa, pops as (seconds, kPa)) of one try at seating, as a gauge would give it.

    Settings: strokes that are all alike or none like another, a compressor, a bottle, a gauge that lags by up
    to 100 ms, and one reading in two hundred that is wild.
    """
    source = str(rng.choice(_SOURCES.get(setting, ALL_SOURCES)))
    by_hand = "pump" in source
    hz = rng.choice([10, 12.5, 20, 25, 40, 50])
    seconds = rng.uniform(15, 40) if by_hand else rng.uniform(5, 14)
    top = rng.uniform(140, 450)
    seats = np.sort(rng.uniform(0.3, 0.95, rng.choice([0, 1, 2]))) * top
    if seats.size == 2 and seats[1] - seats[0] < 0.1 * top:
        seats[1] = min(0.97 * top, seats[0] + 0.1 * top)
    growth = rng.uniform(least_growth, 0.07, seats.size)
    strokes = _strokes(rng, seconds, even=setting != "irregular")
    rate, tau, supply = rng.uniform(8, 45), rng.uniform(0.8, 2.5), top * rng.uniform(1.0, 1.15)
    spike = rng.uniform(0, 10) if by_hand and rng.random() < 0.5 else 0.0
    spike_s, off_at = (
        rng.uniform(0.02, 0.08),
        seconds - rng.uniform(0.2, 0.9) if rng.random() < 0.6 else seconds,
    )
    shown, pops, p, up = [], [], 0.0, 0
    for i in range(int(seconds / STEP_S)):
        t = i * STEP_S
        flowing = t < seconds - 1.5 and p < 1.02 * top
        into, pumped = strokes[i]
        if flowing:
            p += STEP_S * {"compressor": rate, "charge": max(0.0, supply - p) / tau}.get(
                source, pumped
            )
        if up < seats.size and p >= seats[up]:
            pops.append((t, p))
            p = (p + AMBIENT_KPA) / (1.0 + growth[up]) - AMBIENT_KPA
            up += 1
        jolt = spike if flowing and into < spike_s else 0.0
        shown.append(0.0 if t > off_at else p + jolt)
    if setting == "lag":
        shown = _lagged(shown, rng.uniform(0.03, 0.1))
    places = np.arange(0, len(shown), round(1.0 / hz / STEP_S))
    noisy = np.array(shown)[places] + rng.normal(0, rng.uniform(0.1, 1.5), places.size)
    if setting == "wild":
        wild = rng.random(places.size) < 0.005
        noisy[wild] += rng.choice([-1, 1], wild.sum()) * rng.uniform(15, 120, wild.sum())
    resolution = rng.choice([0.1, 0.5, 0.69])
    readings = np.maximum(0.0, np.round(noisy / resolution) * resolution)
    return source, places * STEP_S, readings, [pop for pop in pops if pop[0] < off_at - 0.3]


def _strokes(rng, seconds, even):
    """Seconds into the stroke and the flow in kPa/s, step by step; uneven strokes differ in length and in air."""
    period, duty, gain = rng.uniform(0.6, 1.3), rng.uniform(0.3, 0.7), rng.uniform(4, 16)
    result, into, length, air = [], 0.0, period, gain
    for _ in range(int(seconds / STEP_S) + 1):
        result.append((into, air / (length * duty) if into < duty * length else 0.0))
        into += STEP_S
        if into >= length:
            into = 0.0
            if not even:
                length, air = period * rng.uniform(0.6, 1.5), gain * rng.uniform(0.4, 1.3)
    return result


def _lagged(shown, tau_s):
    """What a gauge of first order shows."""
    result, value = [], shown[0]
    for x in shown:
        value += (x - value) * min(1.0, STEP_S / tau_s)
        result.append(value)
    return result


def balance_trace(rng, source, pump_side=False):
    """Return (seconds, kPa, pops) of a try at seating from a mass balance: choked and subsonic orifice flow from a
    compressor, one whose regulator hunts, or a bottle, or strokes; a pop gives the tire 2 to 8 % more volume within
    30 ms; the gauge reads ten times a second or more, in steps up to 2 kPa, and lags by up to 80 ms.
    """
    volume, top, temperature = rng.uniform(0.9, 6.0) * 1e-3, rng.uniform(150, 420), 287.05 * 293.15
    seats = np.sort(rng.uniform(0.3, 0.93, rng.choice([0, 1, 2]))) * top
    if seats.size == 2 and seats[1] - seats[0] < 0.08 * top:
        seats[1] = min(0.96 * top, seats[0] + 0.08 * top)
    growth, takes = rng.uniform(0.02, 0.08, seats.size), rng.uniform(0.005, 0.03, seats.size)
    area, supply, bottle = (
        rng.choice([1.1, 6.0]) * rng.uniform(0.7, 1.1),
        rng.uniform(500, 900),
        rng.uniform(0.8, 2.5),
    )
    hunts, swing, at = rng.uniform(0.5, 3), rng.uniform(0.05, 0.25), rng.uniform(0, 6.28)
    period, duty, air = (
        rng.uniform(0.6, 1.3),
        rng.uniform(0.35, 0.75),
        rng.uniform(0.15, 0.4) * 1e-3,
    )
    mass, charge, stood, t, shown, pops, since = (
        AMBIENT_KPA * 1e3 * volume / temperature,
        supply,
        0.0,
        0.0,
        [],
        [],
        [],
    )
    while t < 40.0 and stood < 1.5:
        now = volume * np.prod(
            [1 + g * min(1.0, (t - s) / d) for g, d, s in zip(growth, takes, since, strict=False)]
        )
        absolute = mass * temperature / now / 1e3
        q = 0.0
        if absolute - AMBIENT_KPA >= top or stood:
            stood += STEP_S
        elif source == "strokes":
            q = (
                air
                * AMBIENT_KPA
                * 1e3
                / temperature
                / (duty * period)
                * (t % period < duty * period)
            )
        else:
            up = (
                charge * (1 + swing * np.sin(6.283 * hunts * t + at) * (source == "hunting"))
                + AMBIENT_KPA
            )
            q = area * 1e-6 * up * 1e3 * _flow_shape(absolute / up) / np.sqrt(temperature)
            charge -= q * STEP_S * temperature / (bottle * 1e-3) / 1e3 * (source == "bottle")
        mass += q * STEP_S
        if len(since) < seats.size and absolute - AMBIENT_KPA >= seats[len(since)]:
            since.append(t)
            pops.append((t, absolute - AMBIENT_KPA))
        jolt = (q / 1.5e-6) ** 2 / 2.4e3 * AMBIENT_KPA / absolute if pump_side else 0.0
        shown.append(absolute - AMBIENT_KPA + jolt)
        t += STEP_S
    places = np.arange(0, len(shown), round(1.0 / rng.choice([10, 12.5, 20, 25, 40, 50]) / STEP_S))
    read = np.array(_lagged(shown, max(STEP_S, rng.uniform(0, 0.08))))[places] + rng.normal(
        0, rng.uniform(0.1, 1.0), places.size
    )
    step = rng.choice([0.1, 0.5, 0.69, 1.0, 2.0])
    return (
        places * STEP_S,
        np.maximum(0.0, np.round(read / step) * step),
        [pop for pop in pops if pop[0] < t - 0.3],
    )


def _flow_shape(ratio):
    """Isentropic flow of air through an orifice, choked below a ratio of 0.528 (textbook result)."""
    k = 1.4
    r = max(ratio, (2 / (k + 1)) ** (k / (k - 1)))
    return np.sqrt(max(0.0, 2 * k / (k - 1) * (r ** (2 / k) - r ** ((k + 1) / k))))


def readings_in_rise(pressures):
    """How many readings a rise has, from 3 to 97 % of its peak."""
    return int(
        np.argmax(pressures > 0.97 * pressures.max())
        - np.argmax(pressures > 0.03 * pressures.max())
    )


def score(result, pops, within_s=0.5):
    """Return (hits, false alarms, misses), each pop answered once."""
    left = list(result)
    hits = 0
    for at, _kpa in pops:
        near = [pop for pop in left if abs(pop.time_s - at) <= within_s]
        if near:
            left.remove(min(near, key=lambda pop: abs(pop.time_s - at)))
            hits += 1
    return hits, len(left), len(pops) - hits
