"""Themes: token files mapped to colors, fonts, the palette, and one short style sheet."""

import tomllib

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QPalette, QPen
from PyQt6.QtWidgets import QApplication, QWidget

from inner_rim.assets import FONTS, THEMES

NAMES = ("light", "dark", "contrast")
SCALES = (1.0, 1.125, 1.25, 1.5)
#: The sizes of type at 100 % text, px: labels, text, cautions, titles, the step, the figure that it
#: is about.
SMALL, TEXT, NOTE, LISTED, TITLE, STEP, FIGURE = SIZES = (13, 15, 18, 20, 24, 32, 48)
#: Text larger than this is large: fewer things go side by side.
LARGE = 1.25
#: Smallest side of anything to press with a wet glove, at 100 % text; an answer is higher.
TARGET_PX, ANSWER_PX = 44, 64
#: Where room is scarce it grows with the text no further than this: a glove does not.
MAX_TARGET_PX, MAX_ANSWER_PX = 48, 72
BOLD_FROM = 600
MAX_FITS = 2000


class Tokens:
    """The colors of a theme by purpose; the files say what each is for.

    Raises:
        ValueError: the file lacks a purpose or has one that is not known.
    """

    PURPOSES = frozenset(
        [
            "name",
            "ground",
            "card",
            "line",
            "edge",
            "edge_on_ink",
            "ink",
            "on_ink",
            "muted",
            "accent",
            "on_accent",
            "accent_soft",
            "caution",
            "caution_soft",
            "caution_on_ink",
            "stop",
            "stop_soft",
            "field",
            "metal",
            "metal_edge",
            "brass",
            "rubber",
            "tape",
            "air",
            "liquid",
            "foam",
            "tube",
        ]
    )

    def __init__(self, values: dict[str, str]) -> None:
        odd = self.PURPOSES ^ set(values)
        if odd:
            raise ValueError(f"theme file: {', '.join(sorted(odd))}")
        self._values = values

    def __getattr__(self, purpose: str) -> str:
        try:
            return self._values[purpose]
        except KeyError:
            raise AttributeError(purpose) from None


class Theme:
    def __init__(self, name: str = "light", scale: float = 1.0) -> None:
        text = (THEMES / f"{name}.toml").read_text(encoding="utf-8")
        self.tokens = Tokens(tomllib.loads(text))
        self._colors: dict[tuple[str, int], QColor] = {}
        self._fonts: dict[tuple[float, int], QFont] = {}
        self._pens: dict[str, QPen] = {}
        self._fits: dict[tuple[str, int, float, int], tuple[QFont, str]] = {}
        self._widths: dict[tuple[str, float, int], float] = {}
        self.scale = scale
        self.large = scale > LARGE

    def next(self) -> "Theme":
        """Return the theme after this one, in the same text size."""
        place = NAMES.index(self.tokens.name)
        return Theme(NAMES[(place + 1) % len(NAMES)], self.scale)

    def sized(self, steps: int) -> "Theme":
        """Return this theme with text so many steps larger, at most the largest."""
        place = min(range(len(SCALES)), key=lambda i: abs(SCALES[i] - self.scale))
        return Theme(self.tokens.name, SCALES[min(max(place + steps, 0), len(SCALES) - 1)])

    def color(self, purpose: str, alpha: int = 255) -> QColor:
        """Return the color for a purpose.

        Raises:
            AttributeError: no such purpose.
        """
        result = self._colors.get((purpose, alpha))
        if result is None:
            result = self._colors[purpose, alpha] = QColor(getattr(self.tokens, purpose))
            result.setAlpha(alpha)
        return result

    def column(self, pixels: float) -> int:
        """Return the width of a side column: it grows less than the text, so that the middle keeps
        room.
        """
        return round(pixels * (1.0 + 0.35 * (self.scale - 1.0)))

    def outline(self, purpose: str) -> QPen:
        """Return the pen for an outline: a pixel wide, however the painter is scaled."""
        result = self._pens.get(purpose)
        if result is None:
            result = self._pens[purpose] = QPen(
                self.color(purpose), 1.0, join=Qt.PenJoinStyle.RoundJoin
            )
            result.setCosmetic(True)
        return result

    def fitted(self, text: str, width: float, pixels: float, weight: int = 400) -> QFont:
        """Return the largest font of the sizes up to `pixels` in which `text` fits into `width`,
        else the smallest.
        """
        return self.line(text, width, pixels, weight)[0]

    def line(self, text: str, width: float, pixels: float, weight: int = 400) -> tuple[QFont, str]:
        """Return the font as `fitted` does, and the text, shortened where it is too long even in
        the smallest.
        """
        asked = (text, int(width), pixels, weight)
        result = self._fits.get(asked)
        if result is not None:
            return result
        sizes = [size for size in reversed(SIZES) if size <= nearest(pixels)]
        fits = (size for size in sizes if self.width_of(text, size, weight) <= width)
        size = next(fits, None)
        font = self.font(size or SMALL, weight)
        if size is None:
            text = QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, width)
        if len(self._fits) > MAX_FITS:
            self._fits.clear()
        self._fits[asked] = font, text
        return font, text

    def width_of(self, text: str, pixels: float, weight: int = 400) -> float:
        """Return how wide a text is in the program's font, px."""
        asked = (text, pixels, weight)
        result = self._widths.get(asked)
        if result is None:
            if len(self._widths) > MAX_FITS:
                self._widths.clear()
            result = self._widths[asked] = QFontMetricsF(
                self.font(pixels, weight)
            ).horizontalAdvance(text)
        return result

    def wrapped(
        self, text: str, width: float, pixels: float, weight: int = 400, most: int = 3
    ) -> list[str]:
        """Return a text in lines of a width, a word that is too long broken; the last of `most` is
        shortened.
        """
        lines: list[str] = []
        for word in text.split():
            joined = f"{lines[-1]} {word}" if lines else word
            if lines and self.width_of(joined, pixels, weight) <= width:
                lines[-1] = joined
                continue
            lines.append("")
            for letter in word:
                if lines[-1] and self.width_of(lines[-1] + letter, pixels, weight) > width:
                    lines.append("")
                lines[-1] += letter
        if len(lines) > most:
            rest = " ".join(lines[most - 1 :])
            metrics = QFontMetricsF(self.font(pixels, weight))
            lines[most - 1 :] = [metrics.elidedText(rest, Qt.TextElideMode.ElideRight, width)]
        return lines

    @property
    def target(self) -> int:
        """Height of what is pressed with a wet glove where room is scarce, px."""
        return min(self.px(TARGET_PX), MAX_TARGET_PX)

    def px(self, pixels: float) -> int:
        return round(pixels * self.scale)

    def type_px(self, pixels: float) -> int:
        return self.px(nearest(pixels))

    @property
    def answer(self) -> int:
        return min(self.px(ANSWER_PX), MAX_ANSWER_PX)

    def font(self, pixels: float, weight: int = 400) -> QFont:
        """Return the program's font in the nearest of its sizes; figures are of equal width, the
        bold a semi-bold cut.
        """
        result = self._fonts.get((pixels, weight))
        if result is None:
            result = QFont(QApplication.font())
            result.setPixelSize(self.type_px(pixels))
            result.setBold(weight >= BOLD_FROM)
            self._fonts[pixels, weight] = result
        return result

    def type_style(self, pixels: int, weight: int = 400, purpose: str = "") -> str:
        """Return a font, and a color, as a style sheet: in a scroll area the one of the application
        resets fonts.
        """
        color = f" color: {self.color(purpose).name()};" if purpose else ""
        return f"font-size: {self.type_px(pixels)}px; font-weight: {'bold' if weight >= BOLD_FROM else 'normal'};{color}"

    def style_sheet(self) -> str:
        """Return the short style sheet: fields, buttons by role, flat surfaces."""
        t = self.tokens
        return f"""
        QWidget {{ color: {t.ink}; }}
        QLineEdit {{ background: {t.field}; border: 1px solid {t.edge}; border-radius: 6px;
            padding: 0 {self.px(8)}px; font-size: {self.type_px(NOTE)}px; selection-background-color: {t.accent};
            selection-color: {t.on_accent}; }}
        QLineEdit:focus {{ border: 2px solid {t.accent}; }}
        QLineEdit[wrong="true"] {{ border: 2px solid {t.stop}; background: {t.stop_soft}; }}
        QPushButton {{ background: {t.ground}; border: 1px solid {t.edge}; border-radius: 8px;
            padding: 0 {self.px(10)}px; min-height: {self.px(TARGET_PX - 2)}px; }}
        QPushButton:focus {{ border: 2px solid {t.accent}; min-height: {self.px(TARGET_PX - 2) - 2}px; }}
        QPushButton:checked, QPushButton[role="main"] {{ background: {t.accent}; color: {t.on_accent};
            border: 1px solid {t.accent}; }}
        QPushButton[role="main"]:focus {{ border: 2px solid {t.caution_on_ink}; }}
        QPushButton[usual="true"] {{ border: 2px dashed {t.accent}; }}
        QPushButton[role="flat"] {{ background: transparent; border: none; color: {t.muted}; }}
        QPushButton[role="flat"][checkable="true"] {{ border-bottom: 3px solid transparent; }}
        QPushButton[role="flat"]:checked {{ color: {t.ink}; font-weight: bold; border-bottom: 3px solid {t.accent};
            border-radius: 0; }}
        QPushButton[role="row"] {{ background: transparent; border: none; border-left: 4px solid transparent;
            text-align: left; border-radius: 0; }}
        QPushButton[role="row"]:checked {{ background: transparent; color: {t.ink}; border-left: 4px solid {t.accent}; }}
        QPushButton[role="row"]:hover {{ background: {t.accent_soft}; }}
        QPushButton[role="place"] {{ background: transparent; border: none; padding: 0 {self.px(14)}px;
            font-size: {self.type_px(TEXT)}px; color: {t.muted}; }}
        QPushButton[role="place"]:checked {{ background: {t.ink}; color: {t.on_ink}; border-radius: 8px; }}
        QPushButton[role="place"]:focus {{ border: 2px solid {t.accent}; border-radius: 8px; }}
        QProgressBar {{ border: 1px solid {t.edge}; border-radius: 6px; text-align: center; background: {t.field}; }}
        QProgressBar::chunk {{ background: {t.accent_soft}; }}
        QPushButton[role="flat"]:focus {{ border: 2px solid {t.accent}; border-radius: 6px; }}
        QFrame[role="card"] {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 10px; }}
        QFrame[role="step"] {{ background: {t.card}; border: 1px solid {t.line}; border-radius: 10px; }}
        QFrame[role="step"] QLineEdit {{ font-size: {self.type_px(TITLE)}px; font-weight: bold; }}
        QFrame[role="problem"] {{ background: {t.stop_soft}; border: 1px solid {t.stop}; border-radius: 8px; }}
        QFrame[role="problem"] QLabel {{ color: {t.stop}; }}
        QLabel[role="muted"] {{ color: {t.muted}; }}
        QLabel[role="stop"] {{ color: {t.stop}; }}
        QLabel[role="caution"] {{ color: {t.caution}; }}
        QScrollArea, QListView, QTextBrowser {{ background: transparent; border: none; }}
        QScrollArea > QWidget > QWidget {{ background: transparent; }}
        QScrollBar:vertical {{ background: transparent; width: {self.px(7)}px; margin: 0; }}
        QScrollBar::handle:vertical {{ background: {t.edge}; border-radius: 3px; min-height: 30px; }}
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
            height: 0; background: none; }}
        QListView#completions {{ background: {t.card}; border: 1px solid {t.line}; }}
        """

    def dress(self, *widgets: QWidget) -> None:
        """Give widgets and all inside them the style sheet. The application has none: it would be
        worked out again for every widget of every page, also of those that nobody sees.
        """
        for widget in widgets:
            widget.setStyleSheet(self.style_sheet())

    def apply(self, app: QApplication) -> None:
        """Give the application palette and font, which tell every widget there is; only where they
        change.
        """
        palette = QPalette()
        roles = {
            QPalette.ColorRole.Window: "ground",
            QPalette.ColorRole.Base: "card",
            QPalette.ColorRole.AlternateBase: "ground",
            QPalette.ColorRole.Text: "ink",
            QPalette.ColorRole.WindowText: "ink",
            QPalette.ColorRole.Button: "ground",
            QPalette.ColorRole.ButtonText: "ink",
            QPalette.ColorRole.Highlight: "accent",
            QPalette.ColorRole.HighlightedText: "on_accent",
            QPalette.ColorRole.PlaceholderText: "muted",
            QPalette.ColorRole.ToolTipBase: "card",
            QPalette.ColorRole.ToolTipText: "ink",
        }
        for role, purpose in roles.items():
            palette.setColor(role, self.color(purpose))
        if palette != app.palette():
            app.setPalette(palette)
        if self.font(TEXT) != app.font():
            app.setFont(self.font(TEXT))


def nearest(pixels: float) -> int:
    """Return the nearest size of type.

    >>> nearest(14), nearest(20), nearest(52)
    (15, 18, 48)
    """
    return min(SIZES, key=lambda size: (abs(size - pixels), -size))


def theme_choice(name: object, scale: object) -> tuple[str, float]:
    """Return (name, scale) of stored settings; where they say nothing sound, the desktop's theme
    and the usual size.
    """
    return (name if name in NAMES else _of_the_desktop()), (scale if scale in SCALES else SCALES[0])


def _of_the_desktop() -> str:
    hints = QApplication.styleHints()
    if hints is None:
        return "light"
    accessible = hints.accessibility()
    if (
        accessible is not None
        and accessible.contrastPreference() == Qt.ContrastPreference.HighContrast
    ):
        return "contrast"
    return "dark" if hints.colorScheme() == Qt.ColorScheme.Dark else "light"


def load_font() -> None:
    """Load the shipped font, two weights, and make it the application's."""
    families: list[str] = []
    for file in ("Inter-Regular.ttf", "Inter-SemiBold.ttf"):
        families += QFontDatabase.applicationFontFamilies(
            QFontDatabase.addApplicationFont(str(FONTS / file))
        )
    if families:
        font = QFont(families[0])
        font.setFeature(QFont.Tag("tnum"), 1)
        QApplication.setFont(font)
