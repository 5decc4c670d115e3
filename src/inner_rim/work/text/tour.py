"""The one-minute tour of the demo: five stops, each a place to look at and a sentence."""

import msgspec

from inner_rim.words import N_
from inner_rim.work.text.view_selection import Drawer


class TourStop(msgspec.Struct, frozen=True):
    """A stop of the tour.

    Attributes:
        wheel: the beginning of the name of the wheel that is selected, empty for none.
        drawer: what is opened beside the step.
    """

    page: str
    wheel: str
    words: str
    drawer: Drawer = ""


STOPS = (
    TourStop("bench", "Dune", N_("Type what you know of a wheel. The plan grows beside it; a number opens its why.")),
    TourStop("bench", "Warden", N_("Then one step fills the screen. Enter confirms it; Y and N answer questions.")),
    TourStop("bench", "Sandpiper 2 · front", N_("Pump, stop, look. The lowest limit is always in view, with its origin.")),
    TourStop("bench", "Ferry", N_("Everything else opens beside the step, such as the log. Esc closes it."), "log"),
    TourStop("day", "", N_("The day: who does what when, and which promise is in danger. Ctrl+1 goes back.")),
)  # fmt: skip
