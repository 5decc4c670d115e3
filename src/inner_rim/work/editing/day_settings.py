"""What the shop has set for its day: hours, who works, what there is one of, and the tasks that stay where they were put."""

import contextlib

import msgspec

from inner_rim.core.record.reading import as_plain
from inner_rim.core.schedule.hours import Hours
from inner_rim.core.schedule.pins import KeptPin
from inner_rim.core.schedule.wheels import COMPRESSOR, RESOURCES
from inner_rim.work.editing.settings import Settings

MOST_MECHANICS = 20
#: Prefix of the settings that hold pins.
PIN = "pin."


class DaySettings:
    """Reads the shop's settings for the day, and sets them."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings

    def set(self, name: str, value: object, *, typing: bool = False) -> None:
        """Set one of them; None takes it back to the usual."""
        self._settings.set_shop(name, None if value is None else as_plain(value), typing=typing)

    @property
    def hours(self) -> Hours:
        """When the shop is open; the usual hours where it has set none that can be read."""
        with contextlib.suppress(msgspec.ValidationError):
            return msgspec.convert(self._settings.shop.get("hours"), Hours)
        return Hours()

    @property
    def mechanics(self) -> tuple[str, ...]:
        """Who works in this shop; empty where there is only one."""
        with contextlib.suppress(msgspec.ValidationError):
            return msgspec.convert(self._settings.shop.get("mechanics"), tuple[str, ...])[:MOST_MECHANICS]
        return ()

    @property
    def mechanic_hours(self) -> dict[str, Hours]:
        """Hours of mechanics who do not work the shop's, by their names; what cannot be read is left out."""
        result = {}
        kept = self._settings.shop.get("mechanic_hours")
        for name, hours in kept.items() if isinstance(kept, dict) else ():
            with contextlib.suppress(msgspec.ValidationError):
                result[str(name)] = msgspec.convert(hours, Hours)
        return result

    @property
    def resources(self) -> tuple[str, ...]:
        """What there is one of in this shop, so that wheels take turns; a compressor where it has not said."""
        with contextlib.suppress(msgspec.ValidationError):
            kept = msgspec.convert(self._settings.shop.get("resources"), tuple[str, ...])
            return tuple(name for name in RESOURCES if name in kept)
        return (COMPRESSOR,)

    @property
    def pins(self) -> tuple[KeptPin, ...]:
        """Tasks that stay where a person put them; what cannot be read is left out."""
        result = []
        for name, value in self._settings.shop.items():
            if name.startswith(PIN):
                with contextlib.suppress(msgspec.ValidationError):
                    result.append(msgspec.convert(value, KeptPin))
        return tuple(result)

    def keep(self, pin: KeptPin) -> None:
        """Keep a task where it was put; each is a setting of its own, so that both hold when two benches pin at once."""
        self.set(_name(pin), pin)

    def unpin(self, pin: KeptPin) -> None:
        self.set(_name(pin), None)


def _name(pin: KeptPin) -> str:
    return f"{PIN}{pin.wheel}.{pin.action}"
