"""Between an analysis's row and the core's types."""

from typing import Any

import numpy as np

from agile_strike.capture.models import AnalysisRun
from agile_strike.core.bag.mounting import Mounting


def mounting_to_json(seat: Mounting | None) -> dict[str, Any] | None:
    if seat is None:
        return None
    return {
        "rotation": seat.rotation.tolist(),
        "position_m": seat.position_m.tolist(),
        "tilt_deg": seat.tilt_deg,
        "yaw_deg": seat.yaw_deg,
        "yaw_sd_rad": seat.yaw_sd_rad,
        "upright": seat.upright,
        "gyro_bias_rad_s": seat.gyro_bias_rad_s.tolist(),
    }


def mounting_of(run: AnalysisRun) -> Mounting:
    m = run.bag_state
    assert m is not None
    return Mounting(
        np.array(m["rotation"]),
        np.array(m["position_m"]),
        m["tilt_deg"],
        m["yaw_deg"],
        m["yaw_sd_rad"],
        m["upright"],
        np.array(m["gyro_bias_rad_s"]),
    )
