"""A trial as one flat table: split by group, and its claims as plain data."""

from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from agile_strike.core.errors import BadFile
from agile_strike.core.registry import PER_BODY_MASS, find
from agile_strike.core.trial.claim import Claim, Strikes
from agile_strike.core.trial.pool import Interval, Pooled
from agile_strike.core.trial.refuse import HELD
from agile_strike.formats.tabular import codes, figures, need, read_table, short, words

FREE_UNITS = ("ms", "mm", "m", "deg", "%", "Hz", "")
NEEDED = ("participant", "session", "block", "order")


def read(path: Path, factor: str, measure: str, levels: tuple[str, ...], by: str | None) -> list[tuple[str, Strikes]]:
    """Trials of a CSV file; see `trials`."""
    return trials(read_table(path), path.name, factor, measure, levels, by)


def trials(
    table: pa.Table, name: str, factor: str, measure: str, levels: tuple[str, ...] = (), by: str | None = None
) -> list[tuple[str, Strikes]]:
    """Trials of a table, one for each value of `by` (or one of all), with their group.

    Raises BadFile for missing columns, words among figures and levels that are not there.
    """
    need(table, (*NEEDED, factor, measure, *([by] if by else [])), name)
    value, order = (figures(table, column, name) for column in (measure, "order"))
    said = {c: words(table, c) for c in ("participant", "session", "block", factor)}
    held = {c: words(table, c) for c in HELD if c in table.column_names}
    mass = figures(table, "body_mass_kg", name) if "body_mass_kg" in table.column_names else None
    limb = words(table, "limb") if "limb" in table.column_names else None
    out_reason = words(table, "excluded") if "excluded" in table.column_names else None
    level_words = said[factor]
    wanted = levels or tuple(dict.fromkeys(level_words.tolist()))
    for level in levels:
        if level not in set(level_words.tolist()):
            raise BadFile(name, f"no row has {factor} “{level}”", f"It has {', '.join(dict.fromkeys(level_words))}.")
    group = words(table, by) if by else np.full(len(value), "")
    places: dict[str, list[int]] = {}
    for i, g in enumerate(group.tolist()):
        places.setdefault(g, []).append(i)
    out = []
    for g, rows in places.items():
        here = np.array(rows)
        here = here[np.isin(level_words[here], wanted)]
        own = levels or tuple(dict.fromkeys(level_words[here].tolist()))
        sessions = np.char.add(np.char.add(said["participant"][here], "\t"), said["session"][here])
        out.append(
            (
                g,
                Strikes(
                    codes(sessions),
                    codes(said["block"][here]),
                    order[here],
                    np.array([own.index(w) for w in level_words[here]], dtype=np.int64),
                    value[here],
                    own,
                    {c: v[here].tolist() for c, v in held.items()},
                    None if mass is None else mass[here],
                    free_of_body_mass(measure),
                    tuple(said["participant"][here].tolist()),
                    () if limb is None else tuple(limb[here].tolist()),
                    None if out_reason is None else np.char.strip(out_reason[here]) != "",
                ),
            )
        )
    return out


def free_of_body_mass(measure: str) -> bool:
    """Does a heavier student not get more of it by being heavier? Not known of a column that is no measure of ours."""
    told = find(measure)
    return measure.endswith(("_pct", PER_BODY_MASS)) or (told is not None and told.unit in FREE_UNITS)


def document(c: Claim) -> dict[str, Any]:
    """What `agile-strike compare --json` prints of one claim, and what the screens show."""
    e, p = c.effect, c.pooled
    first = c.means.get(c.levels[0]) if c.levels else None

    def share(x: float | None) -> float | None:
        return short(100.0 * x / abs(first)) if x is not None and first else None

    return {
        "levels": list(c.levels),
        "n": c.n,
        "means": {k: short(v) for k, v in c.means.items()},
        "effect": short(e.value) if e else None,
        "effect_pct": short(p.mean.value) if p else share(e.value) if e else None,
        "ci95": [short(e.low), short(e.high)] if e else None,
        "ci95_pct": _ends(p.mean) if p else [share(e.low), share(e.high)] if e else None,
        "swc": short(c.swc),
        "typical_error": short(c.typical_error),
        "mdc": short(c.mdc),
        "verdict": c.verdict,
        "blocks_needed": c.blocks_needed,
        "order_effect": {"per_block": short(e.drift), "sd": short(e.drift_sd)} if e and e.drift is not None else None,
        "sessions": c.sessions,
        "notes": [{"kind": n.kind, "text": n.text, "warn": n.warn} for n in c.notes],
        "refused": c.refused,
        "pooled": _pooled(c, p) if p else None,
        "students": {name: document(one) for name, one in c.students.items()},
    }


def _pooled(c: Claim, p: Pooled) -> dict[str, Any]:
    sound = [name for name, one in c.students.items() if one.effect is not None]
    return {
        "mean_pct": short(p.mean.value),
        "ci95_pct": _ends(p.mean),
        "next_student_pct": _ends(p.next_student),
        "students_differ_by_pct": short(p.between_sd),
        "each_pct": {n: [short(i.value), *_ends(i)] for n, i in zip(sound, p.each, strict=True)},
    }


def _ends(i: Interval) -> list[float | None]:
    return [short(i.low), short(i.high)]
