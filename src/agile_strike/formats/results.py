"""Results out: the JSON document of the command line, and strikes as one flat table."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import pyarrow as pa

from agile_strike.core.analysis import Analysis
from agile_strike.core.registry import NUMERIC
from agile_strike.core.strikes import Strike
from agile_strike.formats.tabular import as_csv

SIGNIFICANT = 9
CONTACT_DECIMALS = 6


def _number(value: float) -> float:
    return float(f"{value:.{SIGNIFICANT}g}")


def document(analyses: list[Analysis]) -> dict[str, Any]:
    """The document that `agile-strike analyse --json` prints."""
    return {"schema": 1, "recordings": [_recording(a) for a in analyses]}


def _recording(a: Analysis) -> dict[str, Any]:
    r = a.recording
    return {
        "participant": r.participant.label,
        "session": r.session,
        "task": r.task,
        "run": r.run,
        "analysis_version": a.version,
        "units": [
            {
                "unit": u.unit,
                "offset_s": u.offset_s,
                "drift_ppm": u.drift_ppm,
                "residual_ms": u.residual_ms,
                "aligned_by": u.aligned_by,
                "aligned": u.aligned,
            }
            for u in a.units
        ],
        "strikes": [
            {
                "contact_s": round(s.contact_s, CONTACT_DECIMALS),
                "limb": s.limb,
                "kind": s.kind,
                "measures": _measures(s),
                "sd": {n: _number(m.sd) for n, m in s.measures.items()},
                "flags": list(s.flags),
            }
            for s in a.strikes
        ],
        "flags": list(a.flags),
        "bursts": [
            {
                "strikes": list(b.strikes),
                "rate_hz": _number(b.rate_hz),
                **({"rhythm_cv": _number(b.rhythm_cv)} if b.rhythm_cv is not None else {}),
                **({"force_kept_pct": _number(b.force_kept_pct)} if b.force_kept_pct is not None else {}),
            }
            for b in a.bursts
        ],
        "not_measured": [
            {"measure": n.measure, "why": n.why, **({} if n.strike is None else {"strike": n.strike})}
            for n in a.not_measured
        ],
    }


def _measures(s: Strike) -> dict[str, float | str]:
    out: dict[str, float | str] = {n: _number(m.value) for n, m in s.measures.items()}
    if s.level:
        out["level"] = s.level
    if s.chain_order:
        out["chain_order"] = s.chain_order
    return out


FIRST_COLUMNS = ("participant", "session", "task", "run", "strike", "contact_s", "limb", "kind", "level", "chain_order")
#: what a coach said of a strike: in the application's tables, after what was measured
SAID_COLUMNS = ("excluded", "note", "set", "school", "remarks")
MEASURE_COLUMNS = tuple(c for n in NUMERIC for c in (n, f"{n}_sd"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One strike of a flat table, whoever writes it: the command line and the application name and round alike."""

    first: tuple[str, str, str, str]  #: participant, session, task, run
    number: int
    contact_s: float
    limb: str
    kind: str
    level: str
    chain_order: str
    measures: Sequence[float | None]  #: values and doubts in the order of MEASURE_COLUMNS
    flags: Sequence[str]
    said: Sequence[str] = ()  #: in the order of SAID_COLUMNS, where anything can be


def flat(rows: Iterable[Row], said: bool = False) -> pa.Table:
    """Strikes as one table, one row each; a measure that is absent is null. Words stay words: 007 is no seven."""
    told = list(rows)
    out: dict[str, pa.Array] = {
        name: pa.array([r.first[i] for r in told], pa.string()) for i, name in enumerate(FIRST_COLUMNS[:4])
    }
    out["strike"] = pa.array([r.number for r in told], pa.int64())
    out["contact_s"] = pa.array([round(r.contact_s, CONTACT_DECIMALS) for r in told], pa.float64())
    for name in FIRST_COLUMNS[6:]:
        out[name] = pa.array([getattr(r, name) for r in told], pa.string())
    for i, name in enumerate(MEASURE_COLUMNS):
        values = (r.measures[i] for r in told)
        out[name] = pa.array([None if v is None else _number(v) for v in values], pa.float64())
    out["flags"] = pa.array([" ".join(r.flags) for r in told], pa.string())
    if said:
        out |= {name: pa.array([r.said[i] for r in told], pa.string()) for i, name in enumerate(SAID_COLUMNS)}
    return pa.table(out)


def table(analyses: list[Analysis]) -> str:
    """Strikes as CSV: one row each; a measure that is absent is an empty cell."""
    return as_csv(flat(_row(a, i) for a in analyses for i in range(len(a.strikes))))


def _row(a: Analysis, i: int) -> Row:
    s, r = a.strikes[i], a.recording
    found = [s.measures.get(n) for n in NUMERIC]
    return Row(
        first=(r.participant.label, r.session, r.task, r.run),
        number=i + 1,
        contact_s=s.contact_s,
        limb=s.limb,
        kind=s.kind,
        level=s.level or "",
        chain_order=s.chain_order or "",
        measures=[x for m in found for x in ((None, None) if m is None else (m.value, m.sd))],
        flags=s.flags,
    )
