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
            p += STEP_S * {"compressor": rate, "charge": max(0.0, supply - p) / tau}.get(source, pumped)
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
    found, into, length, air = [], 0.0, period, gain
    for _ in range(int(seconds / STEP_S) + 1):
        found.append((into, air / (length * duty) if into < duty * length else 0.0))
        into += STEP_S
        if into >= length:
            into = 0.0
            if not even:
                length, air = period * rng.uniform(0.6, 1.5), gain * rng.uniform(0.4, 1.3)
    return found


def _lagged(shown, tau_s):
    """What a gauge of first order shows."""
    found, value = [], shown[0]
    for x in shown:
        value += (x - value) * min(1.0, STEP_S / tau_s)
        found.append(value)
    return found


def score(found, pops, within_s=0.5):
    """Return (hits, false alarms, misses), each pop answered once."""
    left = list(found)
    hits = 0
    for at, _kpa in pops:
        near = [pop for pop in left if abs(pop.time_s - at) <= within_s]
        if near:
            left.remove(min(near, key=lambda pop: abs(pop.time_s - at)))
            hits += 1
    return hits, len(left), len(pops) - hits
