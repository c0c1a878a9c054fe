"""Runs of strikes less than a second apart: how fast, how even, and whether the force lasts."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

BURST_GAP_S = 1.0


@dataclass(frozen=True, slots=True)
class Burst:
    strikes: tuple[int, ...]  #: indices into the recording's strikes
    rate_hz: float
    rhythm_cv: float | None  #: spread of the gaps over their mean; from three strikes on
    force_kept_pct: float | None  #: last against first


def bursts(contact_s: Sequence[float], force: Sequence[float | None]) -> list[Burst]:
    """Bursts among contacts in order of time; `force` is each strike's peak force, or impulse where there is none."""
    runs: list[list[int]] = []
    for i, at in enumerate(contact_s):
        if i and at - contact_s[i - 1] < BURST_GAP_S:
            runs[-1].append(i)
        else:
            runs.append([i])
    return [_burst(run, contact_s, force) for run in runs if len(run) > 1]


def _burst(run: list[int], contact_s: Sequence[float], force: Sequence[float | None]) -> Burst:
    gaps = np.diff([contact_s[i] for i in run])
    first, last = force[run[0]], force[run[-1]]
    return Burst(
        strikes=tuple(run),
        rate_hz=float(1.0 / gaps.mean()),
        rhythm_cv=float(gaps.std(ddof=1) / gaps.mean()) if len(gaps) > 1 else None,
        force_kept_pct=100.0 * last / first if first and last else None,
    )
