"""Settings: what belongs to this bench (units, theme, text size) and what belongs to the shop
(methods, figures).

A bench's settings are in a file of this machine; the shop's are in the database, one by one, so
that two methods set at once by two benches both stand.
"""

import contextlib
from collections import Counter
from pathlib import Path
from typing import Annotated, Any, Literal, NamedTuple, TypeVar

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import Practice, Shelf
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import as_plain
from inner_rim.core.record.units import UnitChoice, is_known, local_units
from inner_rim.core.schedule.day import COMPRESSOR, RESOURCES, KeptPin
from inner_rim.core.schedule.hours import Hours
from inner_rim.store.rows import BenchState
from inner_rim.words import tr
from inner_rim.work.editing.history import Set
from inner_rim.work.editing.sync import Sync
from inner_rim.work.storage.files import write_whole

S = TypeVar("S", Practice, Shelf)
#: Settings that keep what is typed into a form and not accepted.
UNACCEPTED = "typed."


class BenchSettings(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What belongs to one bench: this machine, this user.

    Attributes:
        theme: light or dark; empty for what the desktop says.
        alarm_sound: whether the gauge's alarm is heard.
        asked: the questions of the first run are behind.
        signed_by: the name that signed last.
        pace: whether one answer confirms all plain steps up to the next question, or each is
            confirmed by itself.
        ports: serial port of each measuring tool.
        backup_folder: where the day's backup is made as well; nowhere if empty.
    """

    units: UnitChoice = UnitChoice()
    theme: str = ""
    scale: float = 1.0
    alarm_sound: bool = True
    asked: bool = False
    signed_by: str = ""
    pace: Literal["stage", "step"] = "stage"
    ports: dict[str, str] = {}
    backup_folder: str = ""


class ReadSettings(NamedTuple):
    """The settings of a bench as they were read, and the names of those that were not understood;
    the file's own name where nothing of it was.
    """

    settings: BenchSettings | None
    left_out: tuple[str, ...] = ()


def read_bench_settings(file: Path) -> ReadSettings:
    """Return a bench's settings; what is not understood is left out, each value by itself."""
    try:
        plain = msgspec.json.decode(file.read_bytes())
    except FileNotFoundError:
        return ReadSettings(None)
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError, RecursionError):
        return ReadSettings(None, (file.name,))
    if not isinstance(plain, dict):
        return ReadSettings(None, (file.name,))
    good: dict[str, object] = {}
    odd = []
    for name, value in plain.items():
        try:
            one = msgspec.convert({name: value}, BenchSettings)
            if not (is_known(one.units) and 0.5 <= one.scale <= 3.0):
                raise ValueError(name)
        except (msgspec.ValidationError, ValueError, RecursionError):
            odd.append(str(name)[:40])
        else:
            good[name] = value
    return ReadSettings(msgspec.convert(good, BenchSettings), tuple(odd))


class Settings:
    """The settings that hold at this bench.

    Args:
        file: of this bench's own settings; None keeps them in memory.

    Attributes:
        shop: the shop's, by name, such as ``practice.dose``.
        aside: the sentence for the user where values of the file were not understood, else empty.
    """

    def __init__(self, sync: Sync, file: Path | None = None) -> None:
        self._sync, self._file = sync, file
        result = read_bench_settings(file) if file is not None else ReadSettings(None)
        self.own = result.settings or BenchSettings(units=local_units())
        self.aside = self._keep_aside(result.left_out)
        self.shop: JsonObject = {}
        self._sending: Counter[str] = Counter()

    def _keep_aside(self, left_out: tuple[str, ...]) -> str:
        """Keep a copy of a file with values that were not understood: the next setting that is made
        overwrites it. Return the sentence for the user, empty where all was understood.
        """
        if not left_out or self._file is None:
            return ""
        copy = self._file.with_name(f"{self._file.stem}-not-read.json")
        try:
            write_whole(copy, self._file.read_bytes())
        except (InputError, OSError):
            return tr("Not understood in this bench's settings: {names}").format(
                names=", ".join(left_out)
            )
        return tr(
            "Not understood in this bench's settings: {names}. The file is kept as {copy}"
        ).format(names=", ".join(left_out), copy=copy.name)

    def adopt(self, state: BenchState) -> None:
        """Take the shop's settings over; what is still on its way there stays."""
        mine = {name: value for name, value in self.shop.items() if self._sending[name]}
        news = {name: value for name, value in state.settings.items() if not self._sending[name]}
        self.shop = {**news, **mine}

    def set_own(self, **changes: object) -> None:
        """Change settings of this bench and keep them in its file."""
        wanted = msgspec.structs.replace(self.own, **changes)
        try:
            body = msgspec.json.encode(wanted)
        except UnicodeEncodeError:
            self._sync.on_notice(
                tr("A setting holds half a character, which cannot be kept; type it again.")
            )
            return
        self.own = wanted
        if self._file is not None:
            try:
                self._file.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
                write_whole(self._file, msgspec.json.format(body))
            except (InputError, OSError):  # it holds until the window closes
                self._sync.on_notice(
                    tr("This bench's settings cannot be written; they hold until you close.")
                )

    def set_shop(self, name: str, value: object, *, typing: bool = False) -> None:
        """Set one of the shop's settings; None takes it away.

        Args:
            name: such as ``practice.dose``.
            typing: it is being typed into: one step to take back, however many letters.
        """
        if self.shop.get(name) == value:
            return
        if not name.startswith(UNACCEPTED):
            self._sync.history.push(Set(name, self.shop.get(name), value, typing))
        self.shop = {key: kept for key, kept in self.shop.items() if key != name}
        if value is not None:
            self.shop[name] = value
        worker = self._sync.worker
        if worker is not None:

            def sent(_done: object) -> None:
                self._sending[name] -= 1

            self._sending[name] += 1
            worker.submit(
                lambda store: store.set_setting(name, value),
                sent,
                words=tr("Setting: {name}").format(name=name),
                content={"setting": name, "value": value},
            )

    def discard_unsaved(self) -> None:
        """Drop what could not be stored: from the next look on the stored settings hold."""
        self._sending.clear()

    @property
    def folder(self) -> Path | None:
        """Where this bench's files are; None where it keeps its settings in memory."""
        return self._file.parent if self._file is not None else None

    def practice(self) -> Practice | None:
        return gathered(self.shop, "practice.", Practice)

    def shelf(self) -> Shelf | None:
        """Return the shop's figures of the shelf, such as what its injector holds."""
        return gathered(self.shop, "shelf.", Shelf)

    @property
    def alarm_share(self) -> float | None:
        """Share of the limit from which the gauge's alarm is given; None where the shop has set
        none that can be.
        """
        share = self.shop.get("alarm_share")
        if isinstance(share, bool) or not isinstance(share, int | float) or not 0.5 <= share <= 1.0:
            return None
        return float(share)


def gathered(shop: JsonObject, prefix: str, struct: type[S]) -> S | None:
    """Gather single settings into a struct; one that is not accepted is left out alone."""
    result = {}
    for name, value in shop.items():
        field = name.removeprefix(prefix)
        if field != name:
            with contextlib.suppress(msgspec.ValidationError):
                msgspec.convert({field: value}, struct)
                result[field] = value
    return msgspec.convert(result, struct) if result else None


MAX_MECHANICS = 20
#: Prefix of the settings that hold pins.
PIN = "pin."


#: Learned figures that plans do not use.
LEARNING = "learning"
#: What each setting of the shop is decoded as, by its name, or by its beginning with a point;
#: practice and shelf are those of a job.
SHOP_SETTINGS: dict[str, Any] = {
    "hours": Hours,
    "mechanics": tuple[str, ...],
    "mechanic_hours": dict[str, Hours],
    "resources": tuple[str, ...],
    "alarm_share": Annotated[float, msgspec.Meta(ge=0.5, le=1.0)],
    LEARNING: list[str],
    PIN: KeptPin,
}


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
            return msgspec.convert(self._settings.shop.get("mechanics"), tuple[str, ...])[
                :MAX_MECHANICS
            ]
        return ()

    @property
    def mechanic_hours(self) -> dict[str, Hours]:
        """Hours of mechanics who do not work the shop's, by their names; what cannot be read is
        left out.
        """
        result = {}
        kept = self._settings.shop.get("mechanic_hours")
        for name, hours in kept.items() if isinstance(kept, dict) else ():
            with contextlib.suppress(msgspec.ValidationError):
                result[str(name)] = msgspec.convert(hours, Hours)
        return result

    @property
    def resources(self) -> tuple[str, ...]:
        """What there is one of in this shop, so that wheels take turns; a compressor where it has
        not said.
        """
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
        """Keep a task where it was put; each is a setting of its own, so that both hold when two
        benches pin at once.
        """
        self.set(_name(pin), pin)

    def unpin(self, pin: KeptPin) -> None:
        self.set(_name(pin), None)


def _name(pin: KeptPin) -> str:
    return f"{PIN}{pin.wheel}.{pin.action}"
