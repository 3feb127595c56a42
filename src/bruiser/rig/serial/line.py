"""A serial port that is read in bulk and says in our words when it is gone."""

from __future__ import annotations

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
        self._writing = threading.Lock()
        try:
            self._port = serial.Serial(path, baud, timeout=0, write_timeout=0.5)
        except (serial.SerialException, OSError, ValueError) as error:
            raise LinkLost(
                f"{path} cannot be opened.", "Check the plug, the name, and who else has it open."
            ) from error

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
        """Send bytes at once."""
        try:
            with self._writing:
                self._port.write(data)
        except (serial.SerialException, OSError, TypeError) as error:
            raise LinkLost("The line to the bench is gone.", "Look at the plug.") from error

    def forget(self) -> None:
        """Drop what has come so far."""
        try:
            self._port.reset_input_buffer()
        except (serial.SerialException, OSError) as error:
            raise LinkLost("The line to the bench is gone.", "Look at the plug.") from error

    def close(self) -> None:
        """Let go of the port."""
        self._port.close()
