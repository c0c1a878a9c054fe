"""Results out: the JSON document of the command line, and strikes as one flat table."""

import csv
import io
from typing import Any

from agile_strike.core.analysis import Analysis
from agile_strike.core.registry import MEASURES, NUMERIC
from agile_strike.core.strikes import Strike

SIGNIFICANT = 9


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
                "contact_s": round(s.contact_s, 6),
                "limb": s.limb,
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


def table(analyses: list[Analysis]) -> str:
    """Strikes as CSV: one row each; a measure that is absent is an empty cell."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    columns = [n for n in NUMERIC if n in MEASURES]
    writer.writerow(
        [
            "participant",
            "session",
            "task",
            "run",
            "strike",
            "contact_s",
            "limb",
            "level",
            "chain_order",
            *(c for n in columns for c in (n, f"{n}_sd")),
            "flags",
        ]
    )
    for a in analyses:
        r = a.recording
        for i, s in enumerate(a.strikes):
            cells: list[object] = []
            for n in columns:
                m = s.measures.get(n)
                cells += ["", ""] if m is None else [_number(m.value), _number(m.sd)]
            writer.writerow(
                [
                    r.participant.label,
                    r.session,
                    r.task,
                    r.run,
                    i + 1,
                    f"{s.contact_s:.4f}",
                    s.limb,
                    s.level or "",
                    s.chain_order or "",
                    *cells,
                    " ".join(s.flags),
                ]
            )
    return out.getvalue()
