"""How a specimen is made on purpose beside the plain way: tails, eyes, damage, a closed sling.

It is planned, so it belongs to the group: pulls of another state stand behind another number.
"""

from __future__ import annotations

from dataclasses import dataclass, fields


@dataclass(frozen=True, order=True, kw_only=True)
class TiedState:
    """What is done on purpose; nothing of it is the plain way.

    Parameters
    ----------
    tail_d : float
        Tails cut to so many diameters (widths of webbing); 0 for the variant's usual tail.
    longer_eye : float
        Of two eyes, how much longer the second is made, as a share of the first.
    cut_share : float
        How much of the rope's section is cut through before the pull: of a midline loop in its
        eye, which then lies out of the line; of plain rope in the span.
    around_m : float
        Circumference of a closed sling in metre; 0 where it is none.
    joint_m : float
        Of a closed sling, the way from the nearer pin to the middle of the joint, in metre.
    """

    tail_d: float = 0.0
    longer_eye: float = 0.0
    cut_share: float = 0.0
    around_m: float = 0.0
    joint_m: float = 0.0

    @property
    def values(self) -> dict[str, float]:
        """What is not the plain way, by name; what a store keeps."""
        return {f.name: v for f in fields(self) if (v := getattr(self, f.name))}

    @property
    def words(self) -> str:
        """What is done on purpose; empty for the plain way."""
        said = []
        if self.tail_d:
            said.append(f"tail {self.tail_d:g} d")
        if self.longer_eye:
            said.append(f"one eye {100 * self.longer_eye:g} % longer")
        if self.cut_share:
            said.append(f"cut through by {100 * self.cut_share:g} %")
        if self.around_m:
            said.append(f"closed to a sling of {1000 * self.around_m:g} mm")
        if self.joint_m:
            said.append(f"joint {1000 * self.joint_m:g} mm from the pin")
        return ", ".join(said)


PLAIN_STATE = TiedState()
