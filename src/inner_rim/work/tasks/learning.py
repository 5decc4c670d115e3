"""What the shop's log teaches: its visits read and planned, evidence taken from them, and said to
plans as data.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import msgspec

from inner_rim.core.learning.effects import (
    Between,
    Effect,
    Key,
    LearnedEffects,
    Seen,
    gap_spread,
    learn_drying,
    learn_gap,
    learn_kept,
    learn_seats,
    seat_spread,
)
from inner_rim.core.learning.evidence import (
    Visit,
    drying_evidence,
    gap_evidence,
    gap_groups,
    kept_evidence,
    seat_evidence,
)
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Job
from inner_rim.core.record.log import standing
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.resolved import Learned, LearnedFigure
from inner_rim.store.rows import StoredJob
from inner_rim.words import N_
from inner_rim.work.editing.state import Shop

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository

#: How many of the newest jobs are learned from (half a second per hundred in the worker's thread),
#: and read at a time.
MAX_JOBS, AT_ONCE = 400, 20
#: The figures that are learned: what each is called, and what it is usually.
FIGURES = {
    "gap": (N_("Gap under a dry bead"), N_("the usual gap")),
    "seat": (N_("Pressure that seats a bead"), N_("the usual seating pressure")),
    "start": (N_("Pressure that riders keep"), N_("what the load asks for")),
    "drying": (N_("Drying of sealant"), N_("the climate's rate")),
}
LEARNERS: dict[str, Callable[[Sequence[Any]], LearnedEffects]] = {
    "gap": learn_gap,
    "seat": learn_seats,
    "start": learn_kept,
    "drying": learn_drying,
}


class ShopLearning:
    """What a shop's log has taught, ready for the plans of its wheels.

    Attributes:
        seen: the evidence of each figure.
        behind: (job, wheel) behind each effect of a figure.
        off: figures that do not count.
    """

    def __init__(self, visits: Mapping[str, Sequence[Visit]]) -> None:
        everything = [visit for one in visits.values() for visit in one]
        self.seen: dict[str, Sequence[Any]] = {
            "gap": list(gap_evidence(everything)),
            "seat": list(seat_evidence(everything)),
            "start": [item for one in visits.values() for item in kept_evidence(one)],
            "drying": list(drying_evidence(everything)),
        }
        self.effects = {code: LEARNERS[code](seen) for code, seen in self.seen.items()}
        self.behind = {code: _behind(seen) for code, seen in self.seen.items()}
        self.visits = len(everything)
        self.off: frozenset[str] = frozenset()

    def of(self, job: Job) -> Learned:
        sealant = job.shelf.sealant if job.shelf is not None else None
        rider = {
            "shop": "",
            "rider": job.customer or "",
            "ground": (job.ride.use if job.ride else None) or "",
        }
        product = {"shop": "", "product": (sealant.name if sealant is not None else None) or ""}
        gap = gap_groups(job.wheels[0])
        return Learned(
            start=self._figure("start", rider),
            gap=self._figure("gap", gap),
            gap_spread=gap_spread(self.effects["gap"], gap) if self._known("gap") else None,
            drying=self._figure("drying", product),
            seat=self._figure("seat", gap),
            seat_spread=seat_spread(self.effects["seat"], gap) if self._known("seat") else None,
        )

    def _known(self, name: str) -> bool:
        return bool(self.effects[name].counts) and name not in self.off

    def _figure(self, name: str, groups: Mapping[str, str]) -> LearnedFigure:
        if not self._known(name):
            return LearnedFigure()
        effects = self.effects[name]
        mean, spread = effects.of(
            {kind: key for kind, key in groups.items() if key or kind == "shop"}
        )
        return LearnedFigure(mean, spread, effects.counts["shop", ""])


def _behind(evidence: Sequence[Seen | Between]) -> dict[Effect, list[Key]]:
    result: dict[Effect, list[Key]] = {}
    for one in evidence:
        for effect in one.groups.items():
            result.setdefault(effect, []).append(one.key)
    return result


def visits_of(
    store: Repository, job_ids: Sequence[str], shop: Shop, before: Mapping[str, list[Visit]]
) -> dict[str, list[Visit]]:
    """Return the visits of each wheel after those before, in the order of its jobs; what cannot be
    read is left out.
    """
    result = {wheel_id: list(visits) for wheel_id, visits in before.items()}
    for stored in map(store.logbook.job, job_ids):
        if not isinstance(stored, StoredJob):
            continue
        try:
            job = job_from_plain(stored.document)
        except InputError:
            continue
        log = standing(stored.log)
        for wheel, plain in zip(job.wheels, stored.document["wheels"], strict=True):
            wheel_id = str(plain.get("wheel_id"))
            mine = tuple(item for item in log if item.wheel_id == wheel_id)
            alone = shop.around(msgspec.structs.replace(job, wheels=(wheel,)))
            plan = plan_wheel(wheel, alone.ride, alone.practice, alone.shelf, mine)
            key, name = (stored.job_id, wheel_id), wheel.name or ""
            visit = Visit(key, name, plan.wheel, job.ride, job.customer or "", plan, mine)
            result.setdefault(wheel_id, []).append(visit)
    return result


def jobs_to_learn_from(store: Repository) -> list[list[str]]:
    """Return the identities of the jobs to learn from, oldest first, in batches."""
    ids = store.logbook.job_ids()[-MAX_JOBS:]
    return [ids[at : at + AT_ONCE] for at in range(0, len(ids), AT_ONCE)]


def all_visits(store: Repository, shop: Shop) -> dict[str, list[Visit]]:
    result: dict[str, list[Visit]] = {}
    for ids in jobs_to_learn_from(store):
        result = visits_of(store, ids, shop, result)
    return result
