"""Keys and buttons down when a page came up act on nothing until they were let go."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QMouseEvent, QWindow
from typing_extensions import override

_KEYS = (QEvent.Type.KeyPress, QEvent.Type.KeyRelease, QEvent.Type.ShortcutOverride)
_MOUSE = (
    QEvent.Type.MouseButtonPress,
    QEvent.Type.MouseButtonRelease,
    QEvent.Type.MouseButtonDblClick,
    QEvent.Type.MouseMove,
)


class InputGate(QObject):
    """Stands before every window of the application.

    Notes
    -----
    It looks at a window's input before any widget or shortcut gets it. :meth:`close_to_held` is
    said when something else comes under the hands: another page, the next specimen, another
    window. From then on a key that was down is swallowed, its repeats as well, until it is let
    go or pressed anew; so are moves and the release of a mouse button that was down.
    """

    def __init__(self, app: QGuiApplication) -> None:
        super().__init__(app)
        self._watched: set[QWindow] = set()
        self._down: set[int] = set()
        self._stale: set[int] = set()
        self._stale_button = False
        app.focusWindowChanged.connect(self._on_focus)
        self._on_focus(app.focusWindow())

    def close_to_held(self) -> None:
        """What is down now belongs to what was there before."""
        self._stale |= self._down
        self._stale_button = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton

    def _on_focus(self, window: QWindow | None) -> None:
        if window is None:
            # Another application has the keyboard: releases are not heard any more.
            self._down.clear()
            return
        self._stale |= self._down
        if window not in self._watched:
            self._watched.add(window)
            window.installEventFilter(self)
            window.destroyed.connect(lambda: self._watched.discard(window))

    @override
    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        if a1 is None:
            return False
        if a1.type() in _KEYS and isinstance(a1, QKeyEvent):
            return self._swallows_key(a1)
        if self._stale_button and a1.type() in _MOUSE and isinstance(a1, QMouseEvent):
            return self._swallows_mouse(a1)
        return False

    def _swallows_key(self, event: QKeyEvent) -> bool:
        code = event.nativeScanCode() or event.key()
        if event.type() is QEvent.Type.KeyRelease:
            stale = code in self._stale
            if not event.isAutoRepeat():
                self._down.discard(code)
                self._stale.discard(code)
            return stale
        if not event.isAutoRepeat():
            # Pressed anew: its release went unheard.
            if code not in self._down:
                self._stale.discard(code)
            self._down.add(code)
            return False
        if code in self._stale:
            event.accept()  # an override that is accepted goes to no shortcut
            return True
        return False

    def _swallows_mouse(self, event: QMouseEvent) -> bool:
        if event.type() is QEvent.Type.MouseButtonPress:
            self._stale_button = False
            return False
        if event.buttons() == Qt.MouseButton.NoButton:
            self._stale_button = False
        return True


_GATES: list[InputGate] = []


def input_gate() -> InputGate:
    """The one gate of the application, made when it is first asked for."""
    app = QGuiApplication.instance()
    if not isinstance(app, QGuiApplication):
        raise ValueError("there is no application yet")
    if not _GATES or _GATES[0].parent() is not app:
        _GATES[:] = [InputGate(app)]
    return _GATES[0]
