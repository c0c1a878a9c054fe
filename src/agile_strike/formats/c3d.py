"""C3D files: their analogue channels as a table, read like any logger's; force plates as load, one column a plate."""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.errors import BadFile
from agile_strike.formats.loose_table import Layout, LooseTable

Floats = NDArray[np.float64]

#: of a plate's channels, by its type in the file: those whose sum is the vertical force
VERTICAL = {1: (2,), 2: (2,), 3: (4, 5, 6, 7), 4: (2,)}
CALIBRATED = 4  # this type's channels are volts: a matrix makes forces of them


def read(path: Path, shown: str) -> LooseTable:
    """Analogue channels by label, with their units in the name and the rate in the preamble; plates as loads.

    A plate's load is its vertical force, positive downward; its other channels are left out, since nothing uses them.
    """
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
    plates, used = _plates(content["parameters"].get("FORCE_PLATFORM", {}), values, shown)
    padded = [*units, *[""] * len(labels)]
    names = [f"{name} ({unit})" if unit else name for name, unit in zip(labels, padded, strict=False)]
    numbers = {name: values[i] for i, name in enumerate(names) if i not in used} | plates
    return LooseTable(Layout("", ".", 0, tuple(numbers)), f"rate {rate:g} Hz", numbers, {})


def _plates(group: Any, values: Floats, shown: str) -> tuple[dict[str, Floats], set[int]]:
    """Vertical load of every plate, and which channels the plates took. Raises BadFile for a type that is not known."""
    count = int(np.ravel(group["USED"]["value"])[0]) if "USED" in group else 0
    if not count:
        return {}, set()
    channels = np.asarray(group["CHANNEL"]["value"], dtype=np.int64).reshape(-1, count) - 1
    loads: dict[str, Floats] = {}
    for k, kind in enumerate(np.ravel(group["TYPE"]["value"])[:count].astype(int).tolist()):
        if kind not in VERTICAL:
            known = ", ".join(str(t) for t in VERTICAL)
            raise BadFile(shown, f"plate {k + 1} is of type {kind}", f"Export it as one of the types {known}.")
        own = channels[:, k]
        signal = values[own[: 8 if kind == 3 else 6]]
        if kind == CALIBRATED:
            signal = np.asarray(group["CAL_MATRIX"]["value"], dtype=np.float64)[:, :, k] @ signal
        vertical: Floats = signal[list(VERTICAL[kind])].sum(axis=0)
        # a plate tells its push on the foot or the foot's on it: a standing student's load points down
        loads[f"plate {k + 1} load (N)"] = vertical * (1.0 if np.median(vertical) >= 0.0 else -1.0)
    return loads, set(channels[channels >= 0].tolist())
