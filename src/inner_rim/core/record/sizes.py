"""Tire sizes as printed on side walls, read into millimeters (docs/models.md 2.1).

Inch names are ambiguous: a fractional and a decimal name of the same number are different
diameters. Where a name does not settle the diameter, the program asks; it never guesses.
"""

import re
from fractions import Fraction
from functools import lru_cache

import msgspec

from inner_rim.core.record.errors import InputError, SizeAmbiguous
from inner_rim.core.record.units import MM_PER_INCH
from inner_rim.core.tables import table
from inner_rim.words import tr

WIDTH_RANGE_MM = (15.0, 150.0)
DIAMETER_RANGE_MM = (150.0, 900.0)

# Patterns are compiled by `re` when first used: most sizes are ISO, and start-up counts.
#: The longest text that can be a size.
LONGEST_SIZE = 100
_ISO = r"^(\d{1,3}(?:\.\d)?)[-/x](\d{3})$"
_FRENCH = r"^(\d{3})[x-](\d{1,3}(?:\.\d{1,2})?)([a-d])?$"
_FRENCH_SPLIT = r"^(\d{3})([a-d])(?:[x-](\d{1,3}(?:\.\d{1,3})?))?$"
_FRENCH_REVERSED = r"^(\d{1,3})[x-](\d{3})([a-d])$"
_DECIMAL = r"^(\d{2}(?:\.\d{1,2})?)x(\d{1,2}\.\d{1,3})(?:x\d(?:\.\d{1,2})?)?$"
#: Names of 700 and 650 in the French form: an ISO size never has these for a diameter.
_FRENCH_NUMBERS = frozenset({"700", "650", "600", "550", "500", "450", "400"})
_DASHES = "‐‑‒–—−"
_VULGAR = {
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "⅓": "1/3",
    "⅔": "2/3",
}
_INCH_MARKS = '"″”“‟ʺ'
#: Below this a width after a French number is in inches.
_INCH_WIDTH_BELOW = 6.0
_FRACTION_PART = r"^(?:(\d{1,2})\s+)?(\d{1,2})/(\d{1,2})$|^(\d{1,2})$"


#: From this width in inches up a whole number is a decimal name: nothing else is so wide.
FAT_INCHES = 3.0


class TireSize(msgspec.Struct, frozen=True):
    """A tire's nominal section width and the diameter of the seat it was made for.

    Attributes:
        assumed: what was read into the name, such as a missing letter; empty for nothing.
    """

    width_mm: float
    bead_seat_diameter_mm: float
    form: str
    assumed: str = ""

    @property
    def iso(self) -> str:
        return f"{self.width_mm:g}-{self.bead_seat_diameter_mm:g}"


@lru_cache(maxsize=1024)
def parse_size(text: str) -> TireSize:
    """Read a tire size in ISO, French, decimal inch or fractional inch form.

    >>> parse_size("45-622").iso, parse_size("700x45C").iso, parse_size("27.5 x 2.4").iso
    ('45-622', '45-622', '61-584')
    >>> parse_size("26 x 1 3/8").bead_seat_diameter_mm, parse_size("26 x 2.1").bead_seat_diameter_mm
    (590.0, 559.0)

    Raises:
        SizeAmbiguous: the name stands for several diameters.
        InputError: not a size in any known form, or out of range.

    Source: ISO 5775-1 designations; names from memory (tables/size_names.toml).
    """
    if len(text) > LONGEST_SIZE:  # the patterns below are slow on long texts
        raise InputError(_not_a_size(text[:LONGEST_SIZE]))
    main, rest = _parts(_normalise(text))
    size = _read(main, text)
    if rest:
        _check_rest(size, rest, text)
    return size


def _read(plain: str, text: str) -> TireSize:
    for read in (_read_iso, _read_french, _read_inch):
        size = read(plain)
        if size is not None:
            return _in_range(size, text)
    raise InputError(_not_a_size(text))


def _normalise(text: str) -> str:
    plain = re.sub(r",\s+(?=\d)", " / ", text.strip().lower())  # "47-622, 28x1.75": two names
    plain = plain.replace(",", ".").replace("×", "x").replace("*", "x").replace("''", "")
    for dash in _DASHES:
        plain = plain.replace(dash, "-")
    for mark in _INCH_MARKS:
        plain = plain.replace(mark, " ")
    for sign, fraction in _VULGAR.items():
        plain = plain.replace(sign, f" {fraction}")
    plain = re.sub(r"\b(?:etrto|iso)\b\s*:?", " ", plain)
    plain = re.sub(r"(\d)\s*wt\b", r"\1", plain)  # a wide-trail casing: the same size
    plain = re.sub(r"\b(\d{2}(?:\.\d)?)\s*(?:er\b|\+)", r"\1", plain)  # 29er, 27.5+
    plain = re.sub(r"(\d)-(\d{1,2}/)", r"\1 \2", plain)  # 1-3/8 is 1 3/8
    plain = re.sub(r"\b(\d{2}(?:\.\d)?)\s*-\s*(\d\.\d)", r"\1x\2", plain)  # 29-2.4 is 29x2.4
    plain = re.sub(r"(\d-\d{3})[a-d]\b", r"\1", plain)  # 32-622c: the letter adds nothing
    if re.match(r"[\d(]", plain):  # words between and after figures say nothing of size
        plain = re.sub(r"(?<![a-z])(?![a-d]x\d)[a-z]{2,}(?![a-z])", " ", plain)
    plain = re.sub(r"\s+", " ", plain).strip()
    plain = re.sub(r"(\d) ([a-d])\b", r"\1\2", plain)  # 45 c is 45c
    return re.sub(r"\s*([x-])\s*", r"\1", plain)


def _parts(plain: str) -> tuple[str, str]:
    """The first name, and another one in parentheses or after a slash or space that says the same
    in other words.
    """
    match = re.match(r"^([^()]*)\(([^()]*)\)\s*$", plain)
    if match:
        first, second = match[1].strip(), match[2].strip()
        return (first, second) if first else (second, "")
    match = re.match(r"^(\d{1,3}-\d{3})[ /]+(\d.*)$", plain) or re.match(
        r"^(\d.*?)[ /]+(\d{1,3}-\d{3})$", plain
    )
    if match:  # the ISO name first
        iso = match[1] if re.match(_ISO, match[1]) else match[2]
        return iso, match[2] if iso == match[1] else match[1]
    return plain, ""


def _check_rest(size: TireSize, rest: str, text: str) -> None:
    try:
        other = {_read(rest, text).bead_seat_diameter_mm}
    except SizeAmbiguous as fault:
        other = {float(name.partition("-")[2]) for name in fault.candidates}
    except InputError:
        return  # words, not a size
    if size.bead_seat_diameter_mm not in other:
        raise InputError(
            tr(
                "“{typed}” names two different diameters; read the ISO size on the tire, such as 45-622"
            ).format(typed=text.strip()[:40])
        )


def _read_iso(plain: str) -> TireSize | None:
    match = re.match(_ISO, plain)
    if match is None or (match[2] in _FRENCH_NUMBERS and "x" in plain):
        return None
    return _known(TireSize(float(match[1]), float(match[2]), "iso"), plain)


def _known(size: TireSize, plain: str) -> TireSize:
    """An ISO diameter that does not exist is a slip: refused with its neighbors."""
    diameters = [float(d) for d in table("size_names")["diameters"]]
    if size.bead_seat_diameter_mm in diameters:
        return size
    near = sorted(sorted(diameters, key=lambda d: abs(d - size.bead_seat_diameter_mm))[:2])
    raise InputError(
        tr(
            "“{typed}”: no tire has a bead seat diameter of {diameter:g}; the nearest are {near}"
        ).format(
            typed=plain[:40],
            diameter=size.bead_seat_diameter_mm,
            near=tr(" and ").join(f"{d:g}" for d in near),
        )
    )


def _read_french(plain: str) -> TireSize | None:
    if match := re.match(_FRENCH_REVERSED, plain):
        number, letter, width = match[2], match[3], match[1]
    elif match := re.match(_FRENCH, plain):
        number, width, letter = match[1], match[2], match[3]
    elif split := re.match(_FRENCH_SPLIT, plain):
        number, letter, width = split[1], split[2], split[3]
    else:
        return None
    diameters: dict[str, float] = table("size_names")["french"]
    if not width:
        raise InputError(
            tr("“{typed}” has no width; type it as 700x45C or 45-622").format(typed=plain)
        )
    width_mm = float(width)
    if width_mm < _INCH_WIDTH_BELOW:
        width_mm = float(round(width_mm * MM_PER_INCH))
    if letter:
        diameter = diameters.get(f"{number}{letter.upper()}")
        return TireSize(width_mm, float(diameter), "french") if diameter else None
    known = [d for name, d in diameters.items() if name.startswith(number)]
    if not known:
        return None
    if number == "700":
        assumed = tr("no letter: read as 700C, 622")
        return TireSize(width_mm, float(diameters["700C"]), "french", assumed)
    if number == "650":
        known.sort(key=lambda d: d != diameters["650B"])
    if len(known) == 1:
        return TireSize(width_mm, float(known[0]), "french")
    raise _ambiguous(plain, width_mm, known)


def _read_inch(plain: str) -> TireSize | None:
    names = table("size_names")
    match = re.match(_DECIMAL, plain)
    if match:
        number = f"{float(match[1]):g}"
        diameter = names["decimal"].get(number)
        width_mm = float(round(float(match[2]) * MM_PER_INCH))
        if diameter is None:
            asked = _fractional_too(number, float(match[2]), None)
            if asked:
                raise _ambiguous(plain, width_mm, asked)
            return None
        asked = _fractional_too(number, float(match[2]), float(diameter))
        if asked:
            raise _ambiguous(plain, width_mm, asked)
        narrow = names["decimal_narrow"].get(number)
        if narrow is not None and float(match[2]) <= narrow[0]:
            raise _ambiguous(plain, width_mm, [float(d) for d in narrow[1:]])
        return TireSize(width_mm, float(diameter), "decimal inch")
    parts = plain.split("x")
    if len(parts) == 3 and parts[:2] == ["28", "1 5/8"]:  # 28 x 1 5/8 x 1 3/8: the middle names 622
        width = _fraction_width(parts[2])
        return TireSize(width, 622.0, "fractional inch") if width else None
    if len(parts) != 2:
        return None
    width = _fraction_width(parts[1])
    if width is None:
        return None
    return _settle_fraction(plain, parts[0], parts[1], width)


def _fractional_too(number: str, width: float, decimal_mm: float | None) -> list[float]:
    """The diameters of a decimal name that an old fractional size has as well: asked about, never
    taken silently.

    Quarters are usual in decimal names; whole inches, eighths, and numbers that only fractional
    sizes have are not.
    """
    names = table("size_names")
    inches = {
        name: float(sum(Fraction(part) for part in name.split()))
        for name in names["fraction_width"]
    }
    name = next((name for name, value in inches.items() if value == width), None)
    number = f"{number[:-2]} 1/2" if number.endswith(".5") else number
    old = [float(d) for d in names["fractional"].get(f"{number} x {name}", ())]
    usual = decimal_mm is not None and width > 1.0 and (4.0 * width).is_integer()
    if not old or usual or old == [decimal_mm]:
        return []
    return old if decimal_mm is None or decimal_mm in old else [*old, decimal_mm]


def _settle_fraction(plain: str, number: str, width_name: str, width_mm: float) -> TireSize | None:
    names = table("size_names")
    diameters = list(names["fractional"].get(f"{number} x {width_name}", []))
    if "/" not in width_name:  # 26 x 2: a whole number may be meant either way
        decimal = names["decimal"].get(number)
        if decimal is not None and float(width_name) >= FAT_INCHES:
            return TireSize(float(round(width_mm)), float(decimal), "decimal inch")
        if decimal is not None and decimal not in diameters:
            diameters.append(decimal)
        for name, more in names["fractional"].items():
            if name.split(" x ")[0] == number:
                diameters.extend(d for d in more if d not in diameters)
    if not diameters:
        return None
    if len(diameters) > 1:
        raise _ambiguous(plain, width_mm, diameters)
    return TireSize(width_mm, float(diameters[0]), "fractional inch")


def _fraction_width(name: str) -> float | None:
    match = re.match(_FRACTION_PART, name)
    if match is None:
        return None
    named = table("size_names")["fraction_width"].get(name)
    if named is not None:
        return float(named)
    if match[4]:
        return float(match[4]) * MM_PER_INCH
    if int(match[3]) == 0:
        return None
    return round((int(match[2]) / int(match[3]) + int(match[1] or 0)) * MM_PER_INCH, 1)


def _in_range(size: TireSize, text: str) -> TireSize:
    width_ok = WIDTH_RANGE_MM[0] <= size.width_mm <= WIDTH_RANGE_MM[1]
    diameter_ok = DIAMETER_RANGE_MM[0] <= size.bead_seat_diameter_mm <= DIAMETER_RANGE_MM[1]
    if width_ok and diameter_ok:
        return size
    raise InputError(
        tr(
            "“{typed}” is not a bicycle tire size: widths are 15 to 150 mm, diameters of 150 to 900 mm"
        ).format(typed=text.strip()[:40])
    )


def _ambiguous(plain: str, width_mm: float, diameters: list[float]) -> SizeAmbiguous:
    candidates = tuple(f"{width_mm:g}-{d:g}" for d in diameters)
    if len(candidates) > 1:
        sentence = tr(
            "“{typed}” is sold in several diameters; read the ISO size and type {choices}"
        )
    else:
        sentence = tr(
            "“{typed}” is an old size in fractions of an inch; if it is {choices}, type that"
        )
    sentence = sentence.format(typed=plain, choices=tr(" or ").join(candidates))
    return SizeAmbiguous(sentence, candidates)


def _not_a_size(text: str) -> str:
    return tr(
        "“{typed}” is not a known tire size: type it like 45-622, 700x45C, 27.5x2.4 or 26 x 1 3/8"
    ).format(typed=text.strip()[:40])
