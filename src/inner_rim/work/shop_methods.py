"""The shop's own methods, figures, shelf and experience, as they hold for every wheel that does not say otherwise."""

from collections.abc import Callable

from inner_rim.core.plan.advisor import remedy_counts
from inner_rim.core.record.parts import Item, sealants_of, shelf_of
from inner_rim.store.rows import BenchState
from inner_rim.work.editing.settings import Settings
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import Shop
from inner_rim.work.storage.worker import StoreWorker
from inner_rim.work.tasks.gauge import NEAR_SHARE, GaugeSession


class ShopMethods:
    """Keeps `shop` up to date.

    Args:
        settings: where methods and figures are kept.
        shelf: what there is to take.
        gauge: whose alarm the shop sets.
        changed: hears of it; True where `shop` is another.

    Attributes:
        shop: what holds now.
    """

    def __init__(
        self, settings: Settings, shelf: ShelfBook, gauge: GaugeSession, changed: Callable[[bool], None]
    ) -> None:
        self._settings, self._shelf, self._gauge, self._changed = settings, shelf, gauge, changed
        self._stocked: tuple[Item, ...] = ()
        self._counts: dict[str, tuple[int, int]] = {}
        self.shop = Shop()

    def adopt(self, state: BenchState) -> None:
        """Take over what is stored."""
        if not self._shelf.loaded:
            self._stocked = state.stocked
        self.shop = self._now()
        self._gauge.near_share = self._settings.alarm_share or self._gauge.near_share

    def work_out(self) -> None:
        """The shelf or a setting has changed."""
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
        )

    def set(self, name: str, value: object, *, typing: bool = False) -> None:
        """Set one of the shop's methods or figures, such as ``practice.dose``; None takes it back to the usual."""
        self._settings.set_shop(name, value, typing=typing)
        usual = NEAR_SHARE if name == "alarm_share" and value is None else self._gauge.near_share
        self._gauge.near_share = self._settings.alarm_share or usual
        self.work_out()

    def learn(self, worker: StoreWorker | None) -> None:
        """Count what worked at seating in this shop."""

        def counted(counts: dict[str, tuple[int, int]]) -> None:
            if counts != self._counts:
                self._counts = counts
                self.work_out()

        if worker is not None:
            worker.submit(lambda store: remedy_counts(store.logbook.attempts()), counted)
