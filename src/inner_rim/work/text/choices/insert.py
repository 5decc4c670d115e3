"""Insert: whether it fits, and what it changes."""

from inner_rim.core.models.insert import VERDICT_WORDS as INSERT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import ListLine, Tone, head

_INSERT_TONES: dict[str, Tone] = {"fits": "calm", "remarks": "caution", "does_not_fit": "stop"}
EFFECT_WORDS = {"air_ml": N_("Air"), "slack_mm": N_("Slack"), "dose_ml": N_("Dose"), "start_kpa": N_("Start")}


def insert_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    insert = plan.insert
    if insert is None:
        return [
            head(tr("No insert")),
            ListLine(tr("Type the name of one on the left to see what it changes"), tone="muted"),
        ]
    tone = _INSERT_TONES[insert.verdict]
    result = [
        head(tr("Does it fit?")),
        ListLine(tr(INSERT_WORDS[insert.verdict]), chip=spoken(insert.verdict), tone=tone),
    ]
    result += [ListLine(reason.read(units), tone="muted") for reason in insert.reasons]
    result.append(head(tr("What it changes"), tr("without it → with it")))
    for name, (before, after) in insert.effects.items():
        kind = name.rpartition("_")[2]
        result.append(ListLine(f"{show(before, kind, units)}  →  {show(after, kind, units)}", tr(EFFECT_WORDS[name])))
    return result
