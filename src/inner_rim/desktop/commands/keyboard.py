"""Keys: one shortcut per key, which runs the first command of the table that has it and applies."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QElapsedTimer, Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QWidget

from inner_rim.desktop.commands.command import Command, Context
from inner_rim.desktop.commands.table import by_key

#: A repeat of the same key within this time, ms, is a bounce under a wet glove.
BOUNCE_MS = 250

#: Keys that move in choices, lists and drawings where no command has them.
SHARED = ("Left", "Right", "Up", "Down", "Delete")


class Keyboard:
    """Makes the shortcuts of a window.

    Args:
        context: what a command is given now, with the key that was pressed.

    Enter alone is no shortcut: buttons, lists and entries use it themselves; what they leave comes
    to the window.
    """

    def __init__(
        self,
        window: QWidget,
        context: Callable[[str], Context],
        run: Callable[[Command, Context], None],
    ) -> None:
        self._context, self._run = context, run
        self._last_key = ""
        self._since_key = QElapsedTimer()
        self._bench_only: list[QShortcut] = []
        self._shared: list[tuple[QShortcut, tuple[Command, ...]]] = []
        for key, commands in by_key().items():
            shortcut = QShortcut(QKeySequence(key), window)
            shortcut.setContext(Qt.ShortcutContext.WindowShortcut)
            shortcut.setAutoRepeat(any(command.scope == "anywhere" for command in commands))
            shortcut.activated.connect(lambda k=key, result=tuple(commands): self._press(k, result))
            if not any(command.scope == "anywhere" for command in commands):
                self._bench_only.append(shortcut)
            if key in SHARED:
                self._shared.append((shortcut, tuple(commands)))

    def follow(self, context: Context) -> None:
        """Leave keys that other widgets use to them while no command applies."""
        there = context.window.page_shown == "bench"
        for shortcut, commands in self._shared:
            shortcut.setEnabled(there and any(command.applies(context) for command in commands))

    def on_bench(self, there: bool) -> None:
        for shortcut in self._bench_only:
            shortcut.setEnabled(there)

    def bounced(self, key: str, repeated: bool = False) -> bool:
        """Whether a key is held down or bounces: it must not answer twice."""
        quick = (
            key == self._last_key
            and self._since_key.isValid()
            and self._since_key.elapsed() < BOUNCE_MS
        )
        self._last_key = key
        self._since_key.start()
        return repeated or quick

    def _press(self, key: str, commands: tuple[Command, ...]) -> None:
        context = self._context(key)
        if context.window.parking.parked and any(
            one.id in ("main_action", "leave") for one in commands
        ):
            context.window.parking.unpark()
            return
        for command in commands:
            away = (
                context.window.typing
                or context.window.page_shown != "bench"
                or context.window.parking.parked
            )
            if command.scope == "bench" and away:
                continue
            if command.applies(context):
                guarded = command.scope == "bench" or command.id == "main_action"
                if not (guarded and self.bounced(key)):
                    self._run(command, context)
                return
