"""Made-up pressure traces with the truth, of other shapes than the simulator's: for tuning and for tests."""

import numpy as np

STEP_S = 0.002
AMBIENT_KPA = 101.325


def trace(rng, least_growth=0.03):
    """Return (source, seconds, kPa, pops as (seconds, kPa)) of one try at seating, as a gauge would give it."""
    source = str(rng.choice(["floor pump", "compressor", "charge", "hand pump"]))
    by_hand = "pump" in source
    hz = rng.choice([10, 12.5, 20, 25, 40, 50])
    seconds = rng.uniform(15, 40) if by_hand else rng.uniform(5, 14)
    top = rng.uniform(140, 450)
    seats = np.sort(rng.uniform(0.3, 0.95, rng.choice([0, 1, 2]))) * top
    if seats.size == 2 and seats[1] - seats[0] < 0.1 * top:
        seats[1] = min(0.97 * top, seats[0] + 0.1 * top)
    growth = rng.uniform(least_growth, 0.07, seats.size)
    period, duty, gain = rng.uniform(0.6, 1.3), rng.uniform(0.3, 0.7), rng.uniform(4, 16)
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
        if flowing:
            phase = (t % period) / period
            strokes = gain / (period * duty) if phase < duty else 0.0
            p += STEP_S * {"compressor": rate, "charge": max(0.0, supply - p) / tau}.get(source, strokes)
        if up < seats.size and p >= seats[up]:
            pops.append((t, p))
            p = (p + AMBIENT_KPA) / (1.0 + growth[up]) - AMBIENT_KPA
            up += 1
        jolt = spike if flowing and (t % period) < spike_s else 0.0
        shown.append(0.0 if t > off_at else p + jolt)
    places = np.arange(0, len(shown), round(1.0 / hz / STEP_S))
    noisy = np.array(shown)[places] + rng.normal(0, rng.uniform(0.1, 1.5), places.size)
    resolution = rng.choice([0.1, 0.5, 0.69])
    readings = np.maximum(0.0, np.round(noisy / resolution) * resolution)
    return source, places * STEP_S, readings, [pop for pop in pops if pop[0] < off_at - 0.3]


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
