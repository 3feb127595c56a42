"""How far the guide of a campaign has got, without reading what it holds."""

from __future__ import annotations

from dataclasses import dataclass

from bruiser.store import guides
from bruiser.store.guides import GuideRow, StepRow
from bruiser.store.open_campaign import Connection


@dataclass(frozen=True)
class Revision:
    """One revision of the guide and how far it has got."""

    row: GuideRow
    steps: tuple[StepRow, ...] = ()

    def _step(self, what: str) -> StepRow | None:
        return next((s for s in reversed(self.steps) if s.step == what), None)

    @property
    def checked(self) -> StepRow | None:
        """By whom it was checked."""
        return self._step(guides.CHECKED)

    @property
    def released(self) -> StepRow | None:
        """When it was released."""
        return self._step(guides.RELEASED)

    @property
    def state(self) -> str:
        """``draft``, ``checked`` or ``released``."""
        if self.released is not None:
            return "released"
        return "draft" if self.checked is None else "checked"


def newest_revision(connection: Connection) -> Revision | None:
    """The newest revision; None before there is one."""
    rows = guides.load_guides(connection)
    if not rows:
        return None
    steps = guides.load_steps(connection)
    return Revision(rows[-1], tuple(s for s in steps if s.guide_id == rows[-1].id))
