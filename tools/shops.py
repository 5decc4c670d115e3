"""Proof of what is learned: simulated shops with a known truth; each next wheel is predicted from those before it.

Run: .venv/bin/python tools/shops.py [wheels ...]; prints the table of docs/models.md 2.11, or with `findings` that of 2.15.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from msgspec.structs import replace

from inner_rim.core.learning.effects import (
    DRYING_SPREADS,
    DRYING_WITHIN,
    GAP_SPREADS,
    GAP_WITHIN,
    KEPT_ERROR,
    KEPT_SPREADS,
    Between,
    LearnedEffects,
    Seen,
    learn_drying,
    learn_gap,
    learn_kept,
    phi,
)
from inner_rim.core.learning.evidence import MAX_OFF, MAX_USED, MIN_USED
from inner_rim.core.learning.findings import (
    LEAST_MINUTES,
    LEAST_RETURNS,
    Case,
    compare_minutes,
    compare_rates,
    enough,
    logistic,
    said,
)
from inner_rim.core.models.inflation import GAP_SPREAD

Rng = np.random.Generator
#: Wheels between two rounds of learning: a shop's night; in a large shop a twentieth of its wheels.
EVERY = 5
#: Riders, rims and tires grow in number with the shop.
SHARES = {"rim": 0.15, "tire": 0.2, "rider": 0.5, "product": 0.02}
GROUNDS = ("pavement", "mixed", "trail", "soft")
DIP_ERROR, SLIPS = 0.25, 0.02
Z_90 = 1.645


def named(rng: Rng, kind: str, wheels: int) -> str:
    """Return one of the shop's rims, tires or riders; some are more usual than others."""
    most = max(2, round(SHARES[kind] * wheels))
    return f"{kind} {int(most * rng.random() ** 1.7)}"


class Truth:
    """The hidden effects of a shop: usual for a shop that is exactly usual, drawn from their spreads otherwise."""

    def __init__(
        self, rng: Rng, spreads: dict[str, float], shop: float | None, usual: bool
    ) -> None:
        self._rng, self._spreads, self._usual = rng, spreads, usual
        self._known = {
            ("shop", ""): 0.0
            if usual
            else rng.normal(0.0, spreads["shop"])
            if shop is None
            else shop
        }

    def of(self, groups: dict[str, str]) -> float:
        """Return the sum of the effects of something."""
        for kind, key in groups.items():
            if (kind, key) not in self._known:
                drawn = self._rng.normal(0.0, self._spreads[kind])
                self._known[kind, key] = 0.0 if self._usual else drawn
        return sum(self._known[item] for item in groups.items())


def gaps(rng: Rng, wheels: int, shop: float | None, usual: bool) -> Iterator[Between]:
    """Yield what one try says of the gap; in a shop that is exactly usual the whole spread is between single wheels."""
    truth = Truth(rng, GAP_SPREADS, shop, usual)
    within = (
        math.sqrt(GAP_WITHIN**2 + sum(s * s for s in GAP_SPREADS.values())) if usual else GAP_WITHIN
    )
    for _ in range(wheels):
        rim, tire = named(rng, "rim", wheels), named(rng, "tire", wheels)
        groups = {"shop": "", "rim": rim, "tire": tire, "pair": f"{rim} {tire}"}
        gap = truth.of(groups) + rng.normal(0.0, within)
        threshold = rng.normal(0.3, 0.9)
        yield tried(threshold, gap < threshold, groups)


def tried(threshold: float, worked: bool, groups: dict[str, str]) -> Between:
    """Return what a try says of a hidden figure: it lies below its threshold where it worked, else above."""
    return Between(-math.inf, threshold, groups) if worked else Between(threshold, math.inf, groups)


def log_loss(share: float, worked: bool) -> float:
    """Return what a probability costs, given what happened."""
    return -math.log(max(1e-9, share if worked else 1.0 - share))


def seated_share(threshold: float, effects: LearnedEffects, groups: dict[str, str]) -> float:
    """Return the probability that a source outruns the gap, by the mixture of docs/models.md 2.11."""
    mean, spread = effects.if_it_differs(groups)
    differs = phi((threshold - mean) / math.hypot(GAP_WITHIN, spread))
    return effects.share * differs + (1.0 - effects.share) * phi(threshold / GAP_SPREAD)


def gap_losses(seen: list[Between]) -> tuple[float, float]:
    """Return the log loss of the usual and of the learned probability, each wheel from those before it."""
    usual, learned, effects = 0.0, 0.0, learn_gap([])
    nothing = effects
    every = max(EVERY, len(seen) // 20)
    for n, one in enumerate(seen):
        if n % every == 0 and n:
            effects = learn_gap(seen[:n])
        worked = math.isinf(one.low)
        threshold = one.high if worked else one.low
        usual += log_loss(seated_share(threshold, nothing, one.groups), worked)
        learned += log_loss(seated_share(threshold, effects, one.groups), worked)
    return usual / len(seen), learned / len(seen)


def values(
    rng: Rng,
    wheels: int,
    spreads: dict[str, float],
    error: float,
    shop: float | None,
    usual: bool,
    kinds: tuple[str, ...],
) -> list[Seen]:
    """Return values that were seen: pressures kept, or rates of drying, as logarithms over the usual."""
    truth, result = Truth(rng, spreads, shop, usual), []
    for _ in range(wheels):
        groups = {"shop": ""} | {
            kind: GROUNDS[rng.integers(4)] if kind == "ground" else named(rng, kind, wheels)
            for kind in kinds
        }
        result.append(Seen(truth.of(groups) + rng.normal(0.0, error), error, groups))
    return result


def answered(rng: Rng, one: Seen) -> Seen | None:
    """Return what is logged of a kept pressure: one answer in fifty is a slip, and what is off by more than two times
    is not learned from.
    """
    value = one.value
    if rng.random() < SLIPS:
        value += float(rng.choice((math.log(10.0), -math.log(6.895), rng.normal(0.0, 0.5))))
    return replace(one, value=value) if abs(value) <= MAX_OFF else None


def dipped(rng: Rng, one: Seen) -> Between | None:
    """Return what a dip says of the rate, a third to all of the climate's life after dosing: a bound where it is dry."""
    share = float(rng.uniform(0.3, 1.1))
    used = share * math.exp(one.value)
    if used > MAX_USED:
        least = math.log(MAX_USED / share)
        return Between(least, math.inf, one.groups, error=DIP_ERROR)
    return Between(one.value, one.value, one.groups, error=DIP_ERROR) if used > MIN_USED else None


def value_errors(
    rng: Rng,
    seen: list[Seen],
    logged: Callable[[Rng, Seen], Any],
    learn: Callable[[list[Any]], LearnedEffects],
) -> tuple[float, float, float]:
    """Return the RMSE of the usual and of the learned figure, and the share of 90 % intervals that held."""
    usual = learned = held = 0.0
    effects, log = learn([]), []
    every = max(EVERY, len(seen) // 20)
    for n, one in enumerate(seen):
        if n % every == 0 and n:
            effects = learn(log)
        mean, spread = effects.of(one.groups)
        usual += one.value**2
        learned += (one.value - mean) ** 2
        held += abs(one.value - mean) <= Z_90 * math.hypot(spread, one.error)
        entry = logged(rng, one)
        log += [entry] if entry is not None else []
    count = len(seen)
    return math.sqrt(usual / count), math.sqrt(learned / count), held / count


SHOPS: dict[str, tuple[float | None, float | None, float | None, bool]] = {
    "exactly usual": (0.0, 0.0, 0.0, True),
    "loose rims": (0.8, None, None, False),
    "dry climate": (None, None, 0.6, False),
    "keeps 12 % less": (None, math.log(0.88), None, False),
    "any": (None, None, None, False),
}


def table(sizes: list[int], shops: int) -> Iterator[tuple[str, int, str, float, float, float]]:
    """Yield (shop, wheels, figure, usual, learned, share of intervals that held) over so many shops of each kind."""
    for name, (gap, kept, drying, usual) in SHOPS.items():
        for wheels in sizes:
            rng = np.random.default_rng(sum(map(ord, name)) + wheels)
            losses = [gap_losses(list(gaps(rng, wheels, gap, usual))) for _ in range(shops)]
            yield name, wheels, "gap", *np.mean(losses, axis=0), math.nan
            dip_error = math.hypot(DIP_ERROR, DRYING_WITHIN)
            for figure, spreads, error, shop, kinds, logged, learn in (
                ("kept", KEPT_SPREADS, KEPT_ERROR, kept, ("rider", "ground"), answered, learn_kept),
                ("drying", DRYING_SPREADS, dip_error, drying, ("product",), dipped, learn_drying),
            ):
                rows = [
                    value_errors(
                        rng, values(rng, wheels, spreads, error, shop, usual, kinds), logged, learn
                    )
                    for _ in range(shops)
                ]
                yield name, wheels, figure, *np.mean(rows, axis=0)


#: Ways of a simulated shop with what each may change, and the usual figures: shares of wheels, minutes.
WAYS = {
    "core": ("first_try", "seat"),
    "bead": ("first_try", "seat", "hold"),
    "tape": ("tape", "hold", "back"),
    "sealant": ("first_try", "sealant", "hold"),
}
USUAL_RATES, USUAL_MINUTES = (
    {"hold": 0.85, "back": 0.94},
    {"seat": 8.0, "tape": 12.0, "sealant": 4.0},
)
COSTS, MINUTES_SPREAD = {"first_try": 6.0, "hold": 12.0, "back": 45.0}, 0.35
#: True gains of twice the bound: shares of wheels, or minutes.
GAINS = (("core", "first_try", 2 / 6), ("core", "seat", 2.0), ("tape", "tape", 2.0), ("bead", "hold", 2 / 12), ("tape", "back", 0.04))  # fmt: skip


def found(rng: Rng, wheels: int, way: str = "", outcome: str = "", gain: float = 0.0) -> set[str]:
    """Return the ways that a simulated shop's log speaks for; only one truly gains, or none."""
    seen: dict[tuple[str, str, bool], list[Case]] = {}
    for n in range(wheels):
        chosen = {name: bool(rng.random() < 0.5) for name in WAYS}
        hard = rng.normal(0.0, 1.2)
        odds = logistic(0.6 - hard)
        rates = {"first_try": odds, **USUAL_RATES}
        minutes = dict(USUAL_MINUTES)
        if chosen.get(way) and outcome in rates:
            rates[outcome] = min(0.99, rates[outcome] + gain)
        elif chosen.get(way):
            minutes[outcome] -= gain
        key = ("", str(n))
        went = {
            name: Case(key, float(rng.random() < share), odds if name == "first_try" else 0.85)
            for name, share in rates.items()
        }
        for stage, usual in minutes.items():
            took = usual * math.exp(rng.normal(0.0, MINUTES_SPREAD))
            went[stage] = Case(key, took)
        for name, outcomes in WAYS.items():
            for one in outcomes:
                seen.setdefault((name, one, chosen[name]), []).append(went[one])
    made = [
        (name, one, compare(seen[name, one, True], seen[name, one, False]))
        for name, outcomes in WAYS.items()
        for one in outcomes
        for compare in (compare_minutes if one in USUAL_MINUTES else compare_rates,)
        if enough(seen.get((name, one, True), []), seen.get((name, one, False), []))
    ]
    result = set()
    for name, one, compared in made:
        worth = (
            compared.gain / LEAST_RETURNS if one == "back" else compared.gain * COSTS.get(one, 1.0)
        )
        if said(compared, len(made), worth, LEAST_MINUTES):
            result.add(name)
    return result


def findings_table(sizes: list[int], shops: int) -> Iterator[str]:
    """Yield rows of docs/models.md 2.15: false findings a shop, and how often a true gain is found."""
    for wheels in sizes:
        rng = np.random.default_rng(wheels)
        false = sum(len(found(rng, wheels)) for _ in range(shops)) / shops
        true = (
            sum(one[0] in found(rng, wheels, *one) for _ in range(shops)) / shops for one in GAINS
        )
        yield f"| {wheels} | {false:.2f} | " + " | ".join(f"{share:.2f}" for share in true) + " |"


def main(sizes: list[int]) -> None:
    """Print the table."""
    print(
        "| shop | wheels | figure | usual | learned | change | intervals |\n| --- | --- | --- | --- | --- | --- | --- |"
    )
    for name, wheels, figure, usual, learned, held in table(sizes, 20 if max(sizes) <= 100 else 6):
        change, share = (
            100.0 * (learned / usual - 1.0),
            "" if math.isnan(held) else f"{100.0 * held:.0f} %",
        )
        print(
            f"| {name} | {wheels} | {figure} | {usual:.3f} | {learned:.3f} | {change:+.1f} % | {share} |"
        )


if __name__ == "__main__":
    if "findings" in sys.argv:
        print("\n".join(findings_table([60, 100, 150, 300], 200)))
        sys.exit()
    main([int(word) for word in sys.argv[1:]] or [20, 100, 500])
