"""The summary of a log: the state of the wheel now, with everything that was really used."""

import msgspec

from inner_rim.core.procedure.actions import code_of
from inner_rim.core.procedure.setup import LogChanges
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.record.log import Attempt, SignOff
from inner_rim.core.record.stages import Stage

#: A reading of a leak test: ISO 8601, kPa, °C.
Read = tuple[str, float, float | None]


class Done(msgspec.Struct, frozen=True):
    """An action that is behind: its stage and name, and the question that it was."""

    stage: Stage
    key: str
    question: str = ""
    pressure_step: int = -1


class Since(msgspec.Struct, frozen=True):
    """The dates that aftercare is counted from; times in ISO 8601, empty where nothing is known.

    Attributes:
        dosed_at: when sealant went in last, in this job or after it.
        dips: (when, mm) since it was dosed, but for those that calibrate.
        pressures: (when, kPa, word of the ride, empty for handed over) of every pressure it was handed over or ridden at.
        worked_kpa: the pressure that worked: where the last ride put it, else what was handed over.
        promised: the time that was promised last.
    """

    dosed_at: str = ""
    laid_at: str = ""
    tires: int = 0
    dips: tuple[tuple[str, float], ...] = ()
    handed_over_at: str = ""
    pressures: tuple[tuple[str, float, str], ...] = ()
    worked_kpa: float | None = None
    promised: str = ""


class SeatingLog(msgspec.Struct, frozen=True):
    """The state of seating.

    Attributes:
        outcome: of the last try that left the beads unseated, empty where there is none.
        over_limit: the wheel saw more than its limit and was not inspected since.
        tries: since the beads were last on and not seated.
    """

    outcome: str = ""
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    over_limit: bool = False
    tries: tuple[Attempt, ...] = ()


class LogSummary(msgspec.Struct, frozen=True):
    """The summary of a log.

    Attributes:
        behind: what was done in this run, oldest first.
        whole: stages that were confirmed whole.
        failed: stages that failed and were not done since.
        answered: answers by question.
        overridden: codes of stops that a named person passed.
        waiting, waiting_since: actions that were done last, at once, after which a wait may run, and since when, ISO 8601.
        leak: where air was seen to come out last.
        dip_factor: calibration of the dipstick.
        left_ml: sealant that was left by a dip before this job's went in; None without one.
        dosed_ml: sealant that went in, in this run.
        sealant_ml, sealant: what is in, and of which kind, empty where it was not said.
        layers_added: of tape, as a remedy.
        seated_kpa: the pressure that seated both beads; None before that.
        weighed_g: the whole wheel, before and after the work, as far as it was weighed.
        feedback_kpa: where the last test ride puts the pressure.
        signed, signed_at: the sign-off, and when, ISO 8601; None and empty before it.
        may_have_air: air may be in, whatever the state says: a try failed, a stage was confirmed whole.
        doubtful: its entries contradict each other, so that the wheel is planned as it came in.
    """

    state: WheelState
    behind: tuple[Done, ...] = ()
    changes: LogChanges = LogChanges()
    seating: SeatingLog = SeatingLog()
    whole: frozenset[str] = frozenset()
    failed: frozenset[str] = frozenset()
    answered: dict[str, bool] = {}
    overridden: frozenset[str] = frozenset()
    waiting: tuple[str, ...] = ()
    waiting_since: str = ""
    readings: tuple[Read, ...] = ()
    leak: str = ""
    dip_factor: float = 1.0
    left_ml: float | None = None
    dosed_ml: float = 0.0
    sealant_ml: float = 0.0
    sealant: str = ""
    layers_added: int = 0
    seated_kpa: float | None = None
    plugs: int = 0
    weighed_g: dict[str, float] = {}
    feedback_kpa: float | None = None
    signed: SignOff | None = None
    signed_at: str = ""
    since: Since = Since()
    run: int = 1
    may_have_air: bool = False
    doubtful: bool = False

    @property
    def ride_kpa(self) -> float | None:
        """The pressure it was handed over at, as it is on the ride; older entries have only what was set."""
        if self.signed is None:
            return None
        return self.signed.ride_kpa if self.signed.ride_kpa is not None else self.signed.pressure_kpa

    @property
    def taken(self) -> dict[str, int]:
        """How often an action of each code was taken in this run."""
        counts: dict[str, int] = {}
        for done in self.behind:
            code = code_of(done.key)
            counts[code] = counts.get(code, 0) + 1
        return counts
