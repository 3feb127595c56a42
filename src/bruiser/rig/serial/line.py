"""A serial port that is read in bulk and says in our words when it is gone."""

from __future__ import annotations

import contextlib
import queue
import threading

import serial

from bruiser.core.errors import LinkLost

BAUDS = (9_600, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800, 921_600)


class SerialLine:
    """One open port.

    Parameters
    ----------
    path : str
        Device path, e.g. ``/dev/ttyUSB0``.
    baud : int

    Raises
    ------
    LinkLost
        If it cannot be opened; later, from any call, when it has gone.
    """

    def __init__(self, path: str, baud: int = 115_200) -> None:
        self.path, self.baud = path, baud
        self._out: queue.SimpleQueue[bytes | None] = queue.SimpleQueue()
        self._gone: LinkLost | None = None
        try:
            self._port = serial.Serial(path, baud, timeout=0, write_timeout=0.5)
        except (serial.SerialException, OSError, ValueError) as error:
            raise LinkLost(
                f"{path} cannot be opened.", "Check the plug, the name, and who else has it open."
            ) from error
        self._writer = threading.Thread(target=self._write_on, name="serial writer", daemon=True)
        self._writer.start()

    def read(self, timeout_s: float) -> bytes:
        """Whatever has come; waits up to `timeout_s` for the first byte."""
        try:
            waiting = self._port.in_waiting
            if waiting:
                return bytes(self._port.read(waiting))
            self._port.timeout = timeout_s
            first = bytes(self._port.read(1))
            self._port.timeout = 0
            return first + bytes(self._port.read(self._port.in_waiting)) if first else b""
        except (serial.SerialException, OSError, TypeError) as error:
            raise LinkLost("The line to the bench is gone.", "Look at the plug.") from error

    def write(self, data: bytes) -> None:
        """Send bytes, in order, from a thread of its own: whoever says them waits for nothing."""
        if self._gone is not None:
            raise self._gone
        self._out.put(data)

    def write_first(self, data: bytes) -> None:
        """Send bytes before all that was not sent yet, which is dropped: a stop."""
        while not self._out.empty():
            with contextlib.suppress(queue.Empty):
                self._out.get_nowait()
        self.write(data)

    def _write_on(self) -> None:
        while (data := self._out.get()) is not None:
            try:
                self._port.write(data)
            except (serial.SerialException, OSError, TypeError) as error:
                self._gone = LinkLost("The line to the bench is gone.", "Look at the plug.")
                self._gone.__cause__ = error
                return

    def forget(self) -> None:
        """Drop what has come so far."""
        try:
            self._port.reset_input_buffer()
        except (serial.SerialException, OSError) as error:
            raise LinkLost("The line to the bench is gone.", "Look at the plug.") from error

    def close(self) -> None:
        """Send what was said, and let go of the port."""
        self._out.put(None)
        self._writer.join(1.0)
        self._port.close()
