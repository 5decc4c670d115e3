"""The shop's own methods, figures, shelf and experience, as they hold for every wheel that does not
say otherwise.
"""

from __future__ import annotations

import copy
from collections.abc import Callable, Collection
from functools import partial
from typing import TYPE_CHECKING

from inner_rim.core.plan.advisor import remedy_counts
from inner_rim.core.record.job import Practice, Shelf
from inner_rim.core.record.log import Attempt
from inner_rim.core.record.parts import Item, sealants_of, shelf_of
from inner_rim.core.record.resolved import LEARNED_FIGURES
from inner_rim.store.rows import BenchState
from inner_rim.work.editing.settings import LEARNING, Settings, gathered
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import Shop
from inner_rim.work.storage.worker import StoreWorker
from inner_rim.work.tasks.gauge import NEAR_SHARE, GaugeSession

if TYPE_CHECKING:
    from inner_rim.core.learning.evidence import Visit
    from inner_rim.store.repository import Repository
    from inner_rim.work.tasks.learning import ShopLearning

#: The setting with the learned figures that are not used.


def stored_shop(state: BenchState) -> Shop:
    """Return the shop as it is stored: its methods and its shelf, nothing learned."""
    figures = gathered(state.settings, "shelf.", Shelf)
    shelf = shelf_of(state.stocked, figures.injector_ml if figures is not None else None)
    return Shop(gathered(state.settings, "practice.", Practice), shelf, sealants_of(state.stocked))


class ShopMethods:
    """Keeps `shop` current."""

    def __init__(
        self,
        settings: Settings,
        shelf: ShelfBook,
        gauge: GaugeSession,
        changed: Callable[[bool], None],
    ) -> None:
        self._settings, self._shelf, self._gauge, self._changed = settings, shelf, gauge, changed
        self._stocked: tuple[Item, ...] = ()
        self._counts: dict[str, tuple[int, int]] = {}
        self._learned: ShopLearning | None = None
        self.shop = Shop()

    def adopt(self, state: BenchState) -> None:
        if not self._shelf.loaded:
            self._stocked = state.stocked
        self.shop = self._now()
        self._gauge.near_share = self._settings.alarm_share or self._gauge.near_share

    def work_out(self) -> None:
        shop = self._now()
        other, self.shop = shop != self.shop, shop
        self._changed(other)

    def _now(self) -> Shop:
        stocked = self._shelf.items if self._shelf.loaded else self._stocked
        figures = self._settings.shelf()
        return Shop(
            self._settings.practice(),
            shelf_of(stocked, figures.injector_ml if figures is not None else None),
            sealants_of(stocked),
            self._counts,
            self._counting(),
        )

    def _counting(self) -> ShopLearning | None:
        """What was learned, without the figures that are not used."""
        if self._learned is not None and self._learned.off != self.unused_figures:
            # plans that are made with the other one stay as they are
            self._learned = copy.copy(self._learned)
            self._learned.off = self.unused_figures
        return self._learned

    def set(self, name: str, value: object, *, typing: bool = False) -> None:
        """Set one of the shop's methods or figures, such as ``practice.dose``; None takes it back
        to the usual.
        """
        self._settings.set_shop(name, value, typing=typing)
        usual = NEAR_SHARE if name == "alarm_share" and value is None else self._gauge.near_share
        self._gauge.near_share = self._settings.alarm_share or usual
        self.work_out()

    def learn(self, worker: StoreWorker | None) -> None:
        """Read what the shop's log teaches: what worked at seating, and the figures that are
        learned.
        """

        def counted(counts: dict[str, tuple[int, int]]) -> None:
            if counts != self._counts:
                self._counts = counts
                self.work_out()

        if worker is not None:
            worker.submit(lambda store: remedy_counts(_tries(store)), counted)
            self.read_visits(
                worker,
                lambda result: worker.submit(lambda store: _learn(result), self._take_learned),
            )

    def read_visits(
        self, worker: StoreWorker, done: Callable[[dict[str, list[Visit]]], None]
    ) -> None:
        """Read the visits of the shop's wheels, some jobs at a time, so that nothing waits long
        behind them.
        """

        def read_on(left: list[list[str]], result: dict[str, list[Visit]]) -> None:
            if left:
                worker.submit(
                    partial(_visits, left[0], self.shop, result), partial(read_on, left[1:])
                )
            else:
                done(result)

        worker.submit(_jobs, lambda ids: read_on(ids, {}))

    def _take_learned(self, learned: ShopLearning) -> None:
        self._learned = learned
        self.work_out()

    @property
    def unused_figures(self) -> frozenset[str]:
        kept = self._settings.shop.get(LEARNING)
        return frozenset(
            name for name in LEARNED_FIGURES if isinstance(kept, list) and name in kept
        )

    def turn_learning(self, names: Collection[str]) -> bool:
        """Let learned figures count, or stop using them where all of them count; return whether
        they count now.
        """
        unused = self.unused_figures
        count = bool(unused & set(names))
        self.set(LEARNING, sorted(unused - set(names) if count else unused | set(names)) or None)
        return count


def _jobs(store: Repository) -> list[list[str]]:
    from inner_rim.work.tasks.learning import jobs_to_learn_from  # NumPy, in the worker's thread

    return jobs_to_learn_from(store)


def _visits(
    ids: list[str], shop: Shop, before: dict[str, list[Visit]], store: Repository
) -> dict[str, list[Visit]]:
    from inner_rim.work.tasks.learning import visits_of

    return visits_of(store, ids, shop, before)


def _tries(store: Repository) -> list[list[Attempt]]:
    """The tries at seating of each wheel, oldest first."""
    logs = store.logbook.logs(("attempt",)).values()
    return [[item.entry for item in log if isinstance(item.entry, Attempt)] for log in logs]


def _learn(result: dict[str, list[Visit]]) -> ShopLearning:
    from inner_rim.work.tasks.learning import ShopLearning

    return ShopLearning(result)
