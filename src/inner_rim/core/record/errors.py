"""Expected faults of the input, each with one sentence for the user."""

from __future__ import annotations


class InputError(ValueError):
    """Something that was entered cannot be used.

    Args:
        sentence: what is wrong and what is accepted, for the user.
        path: where in the document, such as ``wheels[0].tire.size``; empty for the whole of it.
    """

    def __init__(self, sentence: str, path: str = "") -> None:
        super().__init__(f"{path}: {sentence}" if path else sentence)
        self.sentence = sentence
        self.path = path


class SizeAmbiguous(InputError):
    """A size name that stands for several diameters; `candidates` are the ISO sizes to ask about."""

    def __init__(self, sentence: str, candidates: tuple[str, ...], path: str = "") -> None:
        super().__init__(sentence, path)
        self.candidates = candidates
