"""Below the line: what it is understood to say, field by field, while it is typed."""

from datetime import datetime

from inner_rim.desktop.widgets.base import PlainLabel, show_if
from inner_rim.desktop.widgets.entry import EntryField
from inner_rim.words import tr
from inner_rim.work.line_input import heard

#: Shorter words are not worth a remark while they are typed.
WORTH_LETTERS = 3


class LinePreview(PlainLabel):
    def __init__(self, line: EntryField) -> None:
        super().__init__("")
        self.setWordWrap(True)
        self.setProperty("role", "muted")
        self.setAccessibleName(tr("Understood so far"))
        self.hide()
        line.textChanged.connect(self._show)

    def _show(self, text: str) -> None:
        fields, left = heard(text, datetime.now())
        said = [f"{name}: {value}" for name, value in fields]
        if len(left) >= WORTH_LETTERS and fields:
            said.append(tr("not understood: {left}").format(left=left))
        self.setText("  ·  ".join(said))
        show_if(self, bool(said))
