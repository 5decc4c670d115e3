"""What is typed into a form and not accepted: kept in the shop's settings, so that nothing typed is lost."""

from collections.abc import Callable, Iterable

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.operations import UnacceptedText, as_typed
from inner_rim.core.record.units import UnitChoice
from inner_rim.work.editing.settings import UNACCEPTED, Settings

#: Reads what was typed into a field, and returns what stores it. Raises InputError where it is not accepted.
Accept = Callable[[str, str, UnitChoice], Callable[[], object]]


class KeptTexts:
    """The texts of one form that are not accepted, each a setting of its own: two benches may type at once."""

    def __init__(self, settings: Settings, form: str) -> None:
        self._settings, self._form = settings, form

    def __getitem__(self, path: str) -> UnacceptedText | None:
        try:
            return msgspec.convert(self._settings.shop.get(self._name(path)), UnacceptedText)
        except msgspec.ValidationError:
            return None

    def __setitem__(self, path: str, typed: UnacceptedText | None) -> None:
        self._settings.set_shop(self._name(path), msgspec.to_builtins(typed))

    def _name(self, path: str) -> str:
        return f"{UNACCEPTED}{self._form}.{path}"


class FormDraft:
    """A form whose fields are stored as soon as they are accepted."""

    def __init__(self, settings: Settings, form: str, accept: Accept) -> None:
        self._settings, self._accept = settings, accept
        self._texts = KeptTexts(settings, form)

    def type_into(self, path: str, text: str) -> None:
        typed = as_typed(text, self._settings.own.units)
        try:
            store = self._accept(path, typed.text, typed.units)
        except InputError:
            self._texts[path] = typed
        else:
            store()
            self._texts[path] = None

    def text(self, path: str, accepted: str) -> str:
        """Return what the field shows: what is typed, or else the text of the accepted value."""
        typed = self._texts[path]
        return typed.text if typed is not None else accepted

    def problems(self, paths: Iterable[str]) -> list[tuple[str, str]]:
        """Return (path, sentence) of each field whose text is not accepted."""
        result = []
        for path in paths:
            typed = self._texts[path]
            if typed is not None:
                try:
                    self._accept(path, typed.text, typed.units)
                except InputError as fault:
                    result.append((path, fault.sentence))
        return result
