"""Texts that few wheels bring into view; every other test looks its own up (conftest, texts_are_in_the_catalog)."""

from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.progress.diagnosis import ENDS, PATH
from inner_rim.core.record import job, practice
from inner_rim.core.record.spoken import spoken
from inner_rim.desktop.commands.table import COMMANDS
from inner_rim.words import tr
from inner_rim.work.editing.fields import fields_of


def test_every_choice_question_and_command_is_in_the_catalog(catalog):
    parts = (job.Rim, job.Tire, job.Insert, job.Arrival, job.Practice)
    choices = [choice for part in parts for spec in fields_of(part) for choice in spec.choices]
    assert len(choices) > 40
    for choice in choices:
        spoken(choice)
    for question in practice.QUESTIONS:
        for method in question.methods:
            spoken(method)
    for text in (
        *(text for q in QUESTIONS.values() for text in (q.name, q.words, q.stop)),
        *(q.words for q in PATH.values()),
        *ENDS.values(),
        *(command.title for command in COMMANDS),
    ):
        tr(text)
    assert len(catalog) > 2000
