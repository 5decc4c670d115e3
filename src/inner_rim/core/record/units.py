"""Units at the edges: canonical quantities to and from what a person reads and types; numbers as
they are typed.

Inside the program every quantity is canonical and its name says the unit: lengths in mm, volumes in
ml, gauge pressures in kPa, masses in kg or g, temperatures in degrees Celsius. A quantity's *kind*
is the suffix of its name (``width_mm`` is of kind ``mm``).

Sources: pound-force per square inch 6.894757 kPa (NIST SP 811, appendix B.8); inch 25.4 mm exactly,
pound 0.45359237 kg exactly (international yard and pound, 1959); US fluid ounce 29.57353 ml
(NIST SP 811, appendix B.8); standard gravity 9.80665 m/s² (NIST SP 811, appendix B.8).
"""

import math
import re
from functools import lru_cache

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.words import in_united_states, tr, with_mark

KPA_PER_PSI = 6.894757
KPA_PER_BAR = 100.0
MM_PER_INCH = 25.4
ML_PER_FLUID_OUNCE = 29.57353
KG_PER_POUND = 0.45359237
STANDARD_GRAVITY = 9.80665
MM_PER_METRE = 1000.0
METRES_PER_FOOT = 0.3048
ML_PER_LITER = 1000.0
#: Kinds of lengths, canonical in mm like every length: what a roll holds, a piece cut from it, and
#: what the trade names in mm wherever it works (tape widths, valves).
ROLL, CUT, TRADE = "roll", "cut", "trade"


class Unit(msgspec.Struct, frozen=True):
    """One way of writing a kind: canonical value = `factor` * shown value + `offset`."""

    symbol: str
    factor: float
    decimals: int
    offset: float = 0.0


UNITS: dict[str, dict[str, Unit]] = {
    "kpa": {
        "bar": Unit("bar", KPA_PER_BAR, 2),
        "psi": Unit("psi", KPA_PER_PSI, 1),
        "kpa": Unit("kPa", 1.0, 0),
    },
    "mm": {"mm": Unit("mm", 1.0, 1), "in": Unit("in", MM_PER_INCH, 3)},
    ROLL: {"m": Unit("m", MM_PER_METRE, 2), "in": Unit("in", MM_PER_INCH, 0)},
    CUT: {"cm": Unit("cm", 10.0, 0), "in": Unit("in", MM_PER_INCH, 0)},
    TRADE: {"mm": Unit("mm", 1.0, 1)},
    "ml": {"ml": Unit("ml", 1.0, 0), "floz": Unit("fl oz", ML_PER_FLUID_OUNCE, 2)},
    "kg": {"kg": Unit("kg", 1.0, 0), "lb": Unit("lb", KG_PER_POUND, 0)},
    "g": {"g": Unit("g", 1.0, 0)},
    # a load, as a scale under the wheel shows it
    "n": {
        "kg": Unit("kg", STANDARD_GRAVITY, 0),
        "lb": Unit("lb", STANDARD_GRAVITY * KG_PER_POUND, 0),
        "n": Unit("N", 1.0, 0),
    },
    "m": {"m": Unit("m", 1.0, 0), "ft": Unit("ft", METRES_PER_FOOT, 0)},
    "c": {"c": Unit("°C", 1.0, 0), "f": Unit("°F", 5.0 / 9.0, 0, -160.0 / 9.0)},
    "liter": {"l": Unit("l", 1.0, 2), "floz": Unit("fl oz", ML_PER_FLUID_OUNCE / ML_PER_LITER, 0)},
    "percent": {"percent": Unit("%", 1.0, 0)},
    "days": {"days": Unit("days", 1.0, 0)},
    "degrees": {"degrees": Unit("°", 1.0, 0)},
}

#: Other spellings a person may type for a unit.
_SPELLINGS: dict[str, tuple[str, str]] = {
    "bar": ("kpa", "bar"),
    "psi": ("kpa", "psi"),
    "lbf/in2": ("kpa", "psi"),
    "kpa": ("kpa", "kpa"),
    "mm": ("mm", "mm"),
    "in": ("mm", "in"),
    "inch": ("mm", "in"),
    '"': ("mm", "in"),
    "ml": ("ml", "ml"),
    "floz": ("ml", "floz"),
    "oz": ("ml", "floz"),
    "kg": ("kg", "kg"),
    "lb": ("kg", "lb"),
    "lbs": ("kg", "lb"),
    "g": ("g", "g"),
    "n": ("n", "n"),
    "m": ("m", "m"),
    "ft": ("m", "ft"),
    "c": ("c", "c"),
    "°c": ("c", "c"),
    "f": ("c", "f"),
    "°f": ("c", "f"),
    "%": ("percent", "percent"),
    "d": ("days", "days"),
    "days": ("days", "days"),
}
_LONG_MM = {"cm": 10.0, "m": MM_PER_METRE}
#: Longest text that can be a quantity; the patterns never see more.
LONGEST_ENTRY = 60
_TYPED_DECIMALS = 9  # so that 2,3 bar is exactly 230 kPa

# compiled by `re` when first used
_ENTRY = (
    r"^\s*(?P<sign>[-+\u2212]?)\s*(?:(?P<whole>\d+)\s+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)\s*(?P<unit1>\D*?)\s*$"
    r"|^\s*(?P<number>[-+\u2212]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(?P<unit2>[^\d\s.,].*?)?\s*$"
)


class UnitChoice(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The units one person reads: a unit name for each kind that has several."""

    kpa: str = "bar"
    mm: str = "mm"
    ml: str = "ml"

    def unit(self, kind: str) -> Unit:
        """Return the chosen unit of `kind`; mass, height and temperature follow the length's
        system.

        Raises:
            KeyError: no such kind.
        """
        ways = UNITS[kind]
        if kind in ("kpa", "mm", "ml"):
            return ways[getattr(self, kind)]
        if kind == "liter":
            return ways["floz" if self.ml == "floz" else "l"]
        other = {"kg": "lb", "n": "lb", "m": "ft", "c": "f", ROLL: "in", CUT: "in"}.get(kind)
        return ways[other] if other and self.mm == "in" else next(iter(ways.values()))


def is_known(choice: UnitChoice) -> bool:
    """Whether every unit of a choice is one that there is.

    >>> is_known(UnitChoice()), is_known(UnitChoice(mm="furlong"))
    (True, False)
    """
    return choice.kpa in UNITS["kpa"] and choice.mm in UNITS["mm"] and choice.ml in UNITS["ml"]


METRIC = UnitChoice()


def kind_of(name: str) -> str | None:
    """Return the kind that a quantity's name ends in, or None.

    >>> kind_of("rim.internal_width_mm"), kind_of("limit_kpa"), kind_of("width_ratio"), kind_of("n")
    ('mm', 'kpa', None, None)
    """
    stem, _, kind = name.rpartition("_")
    return kind if stem and kind in UNITS else None


def show(value: float, kind: str, choice: UnitChoice = METRIC, *, symbol: bool = True) -> str:
    """Return a canonical `value` as text in the chosen unit; a pressure rounded down, so that none
    shown passes a limit.

    >>> show(240.0, "kpa"), show(240.0, "kpa", UnitChoice(kpa="psi")), show(227.5, "kpa")
    ('2.40 bar', '34.8 psi', '2.27 bar')
    """
    return _shown(value, kind, choice, symbol)


@lru_cache(maxsize=4096)
def _shown(value: float, kind: str, choice: UnitChoice, symbol: bool) -> str:
    """As `show`, cached: a figure is in several places on the screen at once, and most repeat."""
    unit = choice.unit(kind)
    shown = round((value - unit.offset) / unit.factor, unit.decimals) + 0.0
    if kind == "kpa":
        shown = _rounded_down(value / unit.factor, unit.decimals)
    text = f"{shown:.{0 if kind == 'mm' and abs(value) >= MM_PER_METRE else unit.decimals}f}"
    if kind in ("mm", TRADE) and "." in text:
        text = text.rstrip("0").rstrip(".")
    text = with_mark(text)
    return f"{text} {unit.symbol}" if symbol else text


def _rounded_down(value: float, decimals: int) -> float:
    """A value to some decimals, rounded down; what is off by the last bits of a float alone stays
    as it is, and a small difference is not made nothing.
    """
    scale = 10.0**decimals
    nearest, below = round(value * scale), math.floor(value * scale)
    return (
        nearest if below <= 0 or abs(value * scale - nearest) < 1e-6 * scale else below
    ) / scale + 0.0


def entry_text(value: float, kind: str, choice: UnitChoice = METRIC) -> str:
    """Return `value` as it is shown in a number field: no symbol, no trailing zeros.

    >>> entry_text(340.0, "kpa"), entry_text(25.4, "mm", UnitChoice(mm="in"))
    ('3.4', '1')
    """
    unit = choice.unit(kind)
    text = f"{(value - unit.offset) / unit.factor:.{max(unit.decimals, 2)}f}"
    return with_mark(text.rstrip("0").rstrip(".")) if "." in text else text


def to_set(value: float, choice: UnitChoice = METRIC) -> str:
    """Return a pressure that is to be set as it stands in an entry: rounded down, so that it reads
    back as no more.

    >>> to_set(227.5), to_set(200.0, UnitChoice(kpa="psi"))
    ('2.27', '29')
    """
    unit = choice.unit("kpa")
    return with_mark(f"{_rounded_down(value / unit.factor, unit.decimals):g}")


def parse(text: str, kind: str, choice: UnitChoice = METRIC) -> float:
    """Return the canonical value of what a person typed; a bare number is in the chosen unit.

    Accepts a comma or a point, a fraction, and any unit of the kind.

    >>> parse("2,3", "kpa"), round(parse("33 psi", "kpa"), 1), round(parse("1 3/8 in", "mm"), 3)
    (230.0, 227.5, 34.925)

    Raises:
        InputError: not a number, or a unit of another kind.
    """
    match = re.match(_ENTRY, text, re.ASCII) if len(text) <= LONGEST_ENTRY else None
    if match is None:
        raise InputError(_accepted(text, kind, choice))
    unit = choice.unit(kind)
    factor, offset = unit.factor, unit.offset
    family = "mm" if kind in (ROLL, CUT, TRADE) else kind
    typed = (match["unit1"] or match["unit2"] or "").strip().lower().replace(" ", "").rstrip(".")
    if family == "mm" and typed in _LONG_MM:
        factor, offset = _LONG_MM[typed], 0.0
    elif typed:
        known = _SPELLINGS.get(typed)
        if known is not None and family == "n" and known[0] == "kg":
            known = ("n", known[1])  # what a scale shows is a load
        if known is None or known[0] != family:
            raise InputError(_accepted(text, kind, choice))
        factor, offset = UNITS[family][known[1]].factor, UNITS[family][known[1]].offset
    value = _number(match)
    if value is None or not math.isfinite(value):
        raise InputError(_accepted(text, kind, choice))
    return round(value * factor + offset, _TYPED_DECIMALS)


def _number(match: re.Match[str]) -> float | None:
    if match["number"] is not None:
        return float(match["number"].replace(",", ".").replace("\u2212", "-"))
    if int(match["bottom"]) == 0 or len(match["top"] + match["bottom"]) > 12:
        return None
    value = int(match["top"]) / int(match["bottom"]) + int(match["whole"] or 0)
    return -value if match["sign"] in ("-", "\u2212") else value


def _accepted(text: str, kind: str, choice: UnitChoice) -> str:
    symbols = tr(" or ").join(unit.symbol for unit in UNITS[kind].values())
    return tr("“{typed}” is not understood; type a number in {unit}, or with {symbols}").format(
        typed=text.strip()[:40], unit=choice.unit(kind).symbol, symbols=symbols
    )


#: What most shops read and type.
UNIT_SETS = (
    UnitChoice("bar", "mm", "ml"),
    UnitChoice("psi", "mm", "ml"),
    UnitChoice("kpa", "mm", "ml"),
    UnitChoice("psi", "in", "floz"),
)


def local_units() -> UnitChoice:
    """Return the units that a shop in this locale reads, until it chooses."""
    return UNIT_SETS[-1] if in_united_states() else METRIC


def set_words(units: UnitChoice) -> str:
    """Return units by their symbols.

    >>> set_words(UNIT_SETS[0])
    'bar · mm · ml'
    """
    return " · ".join(units.unit(kind).symbol for kind in ("kpa", "mm", "ml"))


#: Longest text that can be a number; longer ones are refused before they are looked at.
LONGEST = 40
_NUMBER = re.compile(r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d{1,3})?", re.ASCII)
_WHOLE = re.compile(r"\d{1,9}", re.ASCII)


def number(text: str) -> float:
    """Return a finite number.

    >>> number(" 2,5 "), number("1e3")
    (2.5, 1000.0)

    Raises:
        ValueError: not a number, or too large for one; ``1_0``, ``²`` and ``nan`` are none.
    """
    plain = text.strip() if len(text) <= 4 * LONGEST else ""
    if len(plain) > LONGEST or _NUMBER.fullmatch(plain) is None:
        raise ValueError(text[:LONGEST])
    value = float(plain.replace(",", "."))
    if not math.isfinite(value):
        raise ValueError(text[:LONGEST])
    return value


def whole(text: str, least: int, most: int) -> int | None:
    """Return a whole number within bounds, None where the text is none.

    >>> whole("12", 1, 200), whole("²", 1, 200), whole("900", 1, 200)
    (12, None, None)
    """
    plain = text.strip() if len(text) <= LONGEST else ""
    value = int(plain) if _WHOLE.fullmatch(plain) else None
    return value if value is not None and least <= value <= most else None
