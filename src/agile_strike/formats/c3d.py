"""C3D files: their analogue channels as a table, read like any logger's."""

from pathlib import Path

import numpy as np

from agile_strike.core.errors import BadFile
from agile_strike.formats.loose_table import Layout, LooseTable


def read(path: Path, shown: str) -> LooseTable:
    """Analogue channels by label, with their units in the name and the rate in the preamble."""
    import ezc3d  # a large library that only these files need

    try:
        content = ezc3d.c3d(str(path))
        analog = content["parameters"]["ANALOG"]
        labels = list(analog["LABELS"]["value"])
        units = list(analog.get("UNITS", {}).get("value", []))
        rate = float(analog["RATE"]["value"][0])
        values = np.asarray(content["data"]["analogs"][0], dtype=np.float64)
    except (OSError, RuntimeError, ValueError, KeyError, IndexError) as error:
        raise BadFile(shown, "this is not a C3D file with analogue channels", "Export it again, or as CSV.") from error
    if len(labels) == 0 or values.size == 0:
        raise BadFile(shown, "the C3D file holds no analogue channel", "Inertial units must be exported as such.")
    names = [
        f"{name} ({unit})" if unit else name for name, unit in zip(labels, [*units, *[""] * len(labels)], strict=False)
    ]
    numbers = {name: values[i] for i, name in enumerate(names)}
    return LooseTable(Layout("", ".", 0, tuple(names)), f"rate {rate:g} Hz", numbers, {})
