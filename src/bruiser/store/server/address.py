"""Where a campaign on a server is: host, database and who asks, never a password."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from bruiser.core.errors import InputError

_SCHEMES = ("postgresql", "postgres", "postgresql+psycopg")
_LIKE_ONE = re.compile(r"^postgres(ql)?(\+\w+)?:", re.IGNORECASE)
DRIVER = "postgresql+psycopg"
_EXAMPLE = "postgresql://mara@lab-server/ridge-2026"


@dataclass(frozen=True, kw_only=True)
class ServerAddress:
    """The address of a campaign on a server.

    Attributes
    ----------
    host, user : str
        Empty for the driver's own defaults.
    port : int, optional
        None for the usual one.
    database : str
        Each campaign is a database of its own.
    options : tuple of (str, str)
        What else is said to the server, such as ``sslmode``.
    """

    database: str
    host: str = ""
    port: int | None = None
    user: str = ""
    options: tuple[tuple[str, str], ...] = ()

    def __str__(self) -> str:
        import sqlalchemy as sa

        url = sa.URL.create(
            "postgresql",
            username=self.user or None,
            host=self.host or None,
            port=self.port,
            database=self.database,
            query=dict(self.options),
        )
        return url.render_as_string(hide_password=True)

    @property
    def name(self) -> str:
        """What it is called on a screen."""
        host = self.host or dict(self.options).get("host", "this machine")
        return f"{self.database} on {host}"

    @property
    def file_name(self) -> str:
        """A name for files that belong to it on this machine."""
        words = f"{self.database}@{self.host or 'local'}-{self.port or 5432}"
        return re.sub(r"[^\w@.-]+", "_", words) + ".bruiser"

    def with_option(self, key: str, value: str) -> ServerAddress:
        """The same campaign, with something else said to the server."""
        options = {**dict(self.options), key: value}
        return replace(self, options=tuple(sorted(options.items())))

    def with_user(self, user: str) -> ServerAddress:
        """The same campaign, asked for by another user."""
        return ServerAddress(
            database=self.database,
            host=self.host,
            port=self.port,
            user=user,
            options=self.options,
        )


def is_address(text: str) -> bool:
    """Whether a text is meant as the address of a server."""
    return _LIKE_ONE.match(text.strip()) is not None


def read_address(text: str) -> ServerAddress:
    """An address from its URL.

    Raises
    ------
    InputError
        If it is none, names no database, or holds a password.
    """
    import sqlalchemy as sa
    from sqlalchemy.exc import ArgumentError

    try:
        url = sa.make_url(text.strip())
    except (ArgumentError, ValueError):
        raise InputError("This is no address.", f"Write it as {_EXAMPLE}.") from None
    if url.drivername not in _SCHEMES:
        raise InputError(f"“{url.drivername}” is no server known here.", f"Write {_EXAMPLE}.")
    if url.password is not None or any("pass" in key.lower() for key in url.query):
        raise InputError(
            "The address holds a password.",
            "Leave it out: it is asked for, or taken from the keyring or ~/.pgpass.",
        )
    if not url.database:
        raise InputError("The address names no database.", f"Write it as {_EXAMPLE}.")
    options = tuple(
        (key, value if isinstance(value, str) else value[-1])
        for key, value in sorted(url.query.items())
    )
    return ServerAddress(
        database=url.database,
        host=url.host or "",
        port=url.port,
        user=url.username or "",
        options=options,
    )
