"""Passwords: as said in this run, or in the system's keyring; no file of ours ever holds one."""

from __future__ import annotations

import logging

from bruiser.store.server.address import ServerAddress

log = logging.getLogger(__name__)

_SERVICE = "Bruiser"


_said: dict[str, str] = {}


def say_password(address: ServerAddress, password: str) -> None:
    """Use a password for an address until the program ends."""
    _said[str(address)] = password


def kept_password(address: ServerAddress) -> str | None:
    """What was said, or what the keyring has, for an address; None where there is nothing."""
    if str(address) in _said:
        return _said[str(address)]
    import keyring
    from keyring.errors import KeyringError

    try:
        return keyring.get_password(_SERVICE, str(address))
    except (KeyringError, RuntimeError) as error:
        log.info("the keyring was not asked: %s", type(error).__name__)
        return None


def keep_password(address: ServerAddress, password: str) -> bool:
    """Put a password into the keyring; False where there is no keyring that takes it."""
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.set_password(_SERVICE, str(address), password)
    except (KeyringError, RuntimeError) as error:
        log.info("the keyring took nothing: %s", type(error).__name__)
        return False
    return True


def forget_password(address: ServerAddress) -> None:
    """Forget a password, here and in the keyring."""
    _said.pop(str(address), None)
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.delete_password(_SERVICE, str(address))
    except (KeyringError, RuntimeError) as error:
        log.info("the keyring forgot nothing: %s", type(error).__name__)
