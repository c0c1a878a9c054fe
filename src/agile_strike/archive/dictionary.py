"""What every table and column of an archive means: from the models, and for measures from the one registry."""

from typing import Any

from agile_strike.archive.tables import Column, Table
from agile_strike.core.registry import find

DOUBT = "_sd"


def dictionary(tables: tuple[Table, ...]) -> dict[str, Any]:
    """By table: what a row is, and each column's type, meaning, unit and what it refers to."""
    return {t.file: {"row": _what(t), "columns": {c.name: _column(c) for c in t.columns}} for t in tables}


def _what(table: Table) -> str:
    told = (table.model.__doc__ or "").strip().split("\n")[0]
    return str(table.model._meta.verbose_name) if told.startswith(f"{table.model.__name__}(") else told


def _column(c: Column) -> dict[str, Any]:
    said: dict[str, Any] = {"type": str(c.type)}
    measure = find(c.name.removesuffix(DOUBT))
    if measure is not None:
        said |= {"unit": measure.unit, "decimals": measure.decimals, "needs": list(measure.needs)}
        doubt = "Its standard uncertainty: twice this holds 19 in 20. "
        said["meaning"] = (doubt if c.name.endswith(DOUBT) else "") + f"{measure.label}. {measure.meaning}"
        said["computed from"] = measure.computed_from
    elif c.field.primary_key and not c.refers:
        said["meaning"] = "number of the row, from 1; other tables refer to it"
    elif c.who:
        said["meaning"] = "who it was, by the name they sign in with"
    elif c.field.help_text:
        said["meaning"] = str(c.field.help_text)
    if c.refers:
        said["refers to"] = c.refers.replace(".", "-").lower()
    if c.field.choices:
        said["one of"] = {str(value): str(label) for value, label in c.field.flatchoices}
    return said
