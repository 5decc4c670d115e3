"""Expected faults of the input, each with one sentence for the user."""

from __future__ import annotations

from inner_rim.core.record.texts import in_a_sentence


class InputError(ValueError):
    """Something that was entered cannot be used.

    Args:
        sentence: what is wrong and what is accepted, for the user.
        path: where in the document, such as ``wheels[0].tire.size``; empty for the whole of it.
    """

    def __init__(self, sentence: str, path: str = "") -> None:
        self.sentence, self.path = in_a_sentence(sentence), in_a_sentence(path)
        super().__init__(f"{self.path}: {self.sentence}" if path else self.sentence)


class SizeAmbiguous(InputError):
    """A size name that stands for several diameters; `candidates` are the ISO sizes to ask about."""

    def __init__(self, sentence: str, candidates: tuple[str, ...], path: str = "") -> None:
        super().__init__(sentence, path)
        self.candidates = candidates
