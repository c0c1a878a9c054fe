"""Which set a strike fell into: a tap that begins or ends a set is a second early or late, and clocks differ."""

from collections.abc import Iterable

from agile_strike.live.models import Mark, Take
from agile_strike.live.whose.reference import at_reference

BEFORE_S = 0.5  # of a tap that begins a set, in which a strike is its first already: "started early"
AFTER_S = 1.0  # of one that ends it, in which the last may still land


def mark_at(take: Take, marks: Iterable[Mark], contact_s: float) -> str:
    """The set that a strike fell into, by the clocks as they are known: the one that ran then, else the one it is
    nearest to of those that had just ended or were about to begin. Before its tap a strike is early, after it late."""
    near = {m.key: off for m in marks if (off := _off(take, m, contact_s)) is not None}
    return min(reversed(near), key=near.__getitem__, default="")


def _off(take: Take, mark: Mark, contact_s: float) -> float | None:
    """Seconds by which a strike lies outside of a set that it may belong to."""
    begins = at_reference(take.clock, mark.at)
    if mark.kind != Mark.Kind.SET or begins is None or take.clock is None:
        return None
    ends = at_reference(take.clock, mark.until) if mark.until else None
    # a busy tablet, or hub, knows the server's clock only as well as its quickest answer told
    unsure_s = take.clock["sd_s"] + take.clock["rate"] * 1e-3 * mark.doubt_ms
    if contact_s < begins:
        return begins - contact_s if begins - contact_s <= BEFORE_S + unsure_s else None
    late = 0.0 if ends is None else max(0.0, contact_s - ends)
    return late if late <= AFTER_S + unsure_s else None
