"""Pelvis, torso and feet of a student through an evening: turning, leaning, stepping, and the load under each."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from agile_strike.core.simulation.limb_motion import flight_s
from agile_strike.core.simulation.student import (
    FINE_HZ,
    FOOT_S,
    NEXT_FOOT_S,
    Body,
    Step,
    Thrown,
    bell_step,
    noise,
    smooth_step,
    stirred,
)
from agile_strike.core.target import GRAVITY_M_S2

Floats = NDArray[np.float64]

UNLOADS_S = 0.12  # of a foot, before it is set elsewhere and after
BACK_S = 0.55  # the trunk turns back more slowly than it turned
PELVIS_LEVER_M = np.array([-0.12, 0.0, 0.0])  # the unit sits behind the axis
TORSO_LEVER_M = np.array([-0.10, 0.0, 0.35])


@dataclass(frozen=True, slots=True)
class PartMotion:
    """A unit on the trunk or a shank: position (n, 3) m and yaw, pitch, roll (n, 3) rad, world axes."""

    position_m: Floats
    angles_rad: Floats


@dataclass(frozen=True, slots=True)
class Loads:
    """Under each foot, newtons: heel and forefoot, (n,) each, by side."""

    heel_n: dict[str, Floats]
    forefoot_n: dict[str, Floats]


def toward(one: Thrown) -> float:
    """Sense of the turn into a strike: +1 (to the left) for the right limbs."""
    return 1.0 if one.side == "right" else -1.0


def trunk(
    body: Body, times_s: Floats, base_m: Floats, thrown: list[Thrown], rng: np.random.Generator
) -> dict[str, PartMotion]:
    """Pelvis and torso units."""
    n = len(times_s)
    stand = 25.0 if body.stance == "orthodox" else -25.0
    out = {}
    for part, lever in (("pelvis", PELVIS_LEVER_M), ("torso", TORSO_LEVER_M)):
        angles = stirred(body, times_s) * np.column_stack([w * noise(rng, n, 0.12, 1.2) for w in (2.5, 1.2, 1.2)])
        angles[:, 0] -= stand
        height = np.zeros(n)
        for one in thrown:
            q = one.technique
            i, j = np.searchsorted(times_s, [one.contact_s - 0.6, one.contact_s + 1.6])
            t = times_s[i:j] - one.contact_s
            flight = flight_s(q, one.contact_speed_m_s)[0]
            before = 1e-3 * (q.pelvis_before_ms if part == "pelvis" else q.torso_before_ms)
            width = 1e-3 * (q.pelvis_width_ms if part == "pelvis" else q.torso_width_ms)
            turn = q.turn_deg if part == "pelvis" else q.torso_turn_deg
            back = smooth_step((t - 0.12) / BACK_S)
            angles[i:j, 0] += toward(one) * turn * bell_step(t, -before, width) * (1.0 - back)
            inward = smooth_step((t + flight + 0.2) / (flight + 0.2)) * (1.0 - smooth_step((t - 0.06) / BACK_S))
            tilt = q.hip_tilt_deg if part == "pelvis" else q.shoulder_tilt_deg
            # pitch forward is positive about +y; right side down is positive roll about +x
            angles[i:j, 1] += (q.lean_deg if part == "torso" else 0.3 * q.lean_deg) * inward
            angles[i:j, 2] += tilt * inward
            height[i:j] += q.rise_m * inward
        angles = np.radians(angles)
        position = base_m.copy()
        position[:, 2] += height
        position += rotate(angles, np.tile(lever, (n, 1)))
        out[part] = PartMotion(position, angles)
    return out


def rotate(angles: Floats, vectors: Floats) -> Floats:
    """Body to world for yaw, pitch, roll (n, 3): R = Rz Ry Rx."""
    cy, sy = np.cos(angles[:, 0]), np.sin(angles[:, 0])
    cp, sp = np.cos(angles[:, 1]), np.sin(angles[:, 1])
    cr, sr = np.cos(angles[:, 2]), np.sin(angles[:, 2])
    x, y, z = vectors.T
    y1, z1 = cr * y - sr * z, sr * y + cr * z
    x2, z2 = cp * x + sp * z1, -sp * x + cp * z1
    return np.column_stack([cy * x2 - sy * y1, sy * x2 + cy * y1, z2])


def to_body(angles: Floats, vectors: Floats) -> Floats:
    """World to body for yaw, pitch, roll (n, 3)."""
    cy, sy = np.cos(angles[:, 0]), np.sin(angles[:, 0])
    cp, sp = np.cos(angles[:, 1]), np.sin(angles[:, 1])
    cr, sr = np.cos(angles[:, 2]), np.sin(angles[:, 2])
    x, y, z = vectors.T
    x1, y1 = cy * x + sy * y, -sy * x + cy * y
    x2, z2 = cp * x1 - sp * z, sp * x1 + cp * z
    return np.column_stack([x2, cr * y1 + sr * z2, -sr * y1 + cr * z2])


def body_rates(angles: Floats) -> Floats:
    """Angular rate in body axes (n, 3) from yaw, pitch, roll by their kinematic equations."""
    d = np.gradient(angles, 1.0 / FINE_HZ, axis=0)
    cp, sp = np.cos(angles[:, 1]), np.sin(angles[:, 1])
    cr, sr = np.cos(angles[:, 2]), np.sin(angles[:, 2])
    return np.column_stack(
        [d[:, 2] - d[:, 0] * sp, d[:, 1] * cr + d[:, 0] * cp * sr, -d[:, 1] * sr + d[:, 0] * cp * cr]
    )


def shanks(body: Body, times_s: Floats, thrown: list[Thrown], rng: np.random.Generator) -> dict[str, Floats]:
    """Yaw added to each standing shank by pivoting, degrees, (n,) by side."""
    out = {}
    for side in ("left", "right"):
        yaw = 0.8 * noise(rng, len(times_s), 0.12, 0.8) * stirred(body, times_s)[:, 0]
        for one in thrown:
            kick = one.limb.endswith(("foot", "knee"))
            turns = side != one.side if kick else side != body.lead
            if not turns:
                continue
            i, j = np.searchsorted(times_s, [one.contact_s - 0.5, one.contact_s + 1.4])
            t = times_s[i:j] - one.contact_s
            flight = flight_s(one.technique, one.contact_speed_m_s)[0]
            into = smooth_step((t + flight + 0.1) / (flight + 0.1))
            yaw[i:j] += toward(one) * one.technique.pivot_deg * into * (1.0 - smooth_step((t - 0.15) / 0.8))
        out[side] = yaw
    return out


def loads(
    body: Body,
    times_s: Floats,
    base_m: Floats,
    height_m: Floats,
    thrown: list[Thrown],
    stamps_s: list[float],
    walk: list[Step],
    rng: np.random.Generator,
) -> Loads:
    """What each foot carries. `height_m` (n,) is the pelvis's own rise; its acceleration loads the floor. A foot that
    walks carries nothing."""
    n = len(times_s)
    weight = body.mass_kg * GRAVITY_M_S2
    stir = stirred(body, times_s)[:, 0]
    lead_share = 0.5 + 0.025 * noise(rng, n, 0.1, 0.6) * stir
    heel = {side: 0.45 + 0.03 * noise(rng, n, 0.1, 0.6) * stir for side in ("left", "right")}
    stepping = np.ones(n)
    for one in thrown:
        q = one.technique
        i, j = np.searchsorted(times_s, [one.contact_s - 1.2, one.contact_s + 2.2])
        t = times_s[i:j] - one.contact_s
        flight = flight_s(q, one.contact_speed_m_s)[0]
        settle = 1e-3 * q.settle_ms
        start = smooth_step((t + flight + 0.75) / 0.3) * (1.0 - smooth_step((t - settle * 0.4) / 0.9))
        shift = smooth_step((t + flight + 0.02) / (flight - 0.005)) * (1.0 - smooth_step((t - 0.05) / settle))
        kick = one.limb.endswith(("foot", "knee"))
        lead_kicks = kick and one.side == body.lead
        to = 1.0 - q.lead_load_contact if lead_kicks else q.lead_load_contact
        lead_share[i:j] += (q.lead_load_start - 0.5) * start + (to - q.lead_load_start) * shift
        lead_heel = heel[body.lead]
        lead_heel[i:j] += (q.lead_heel - 0.45) * shift
        if q.step_ms is not None and not kick:
            land = -1e-3 * q.step_ms
            lifted = smooth_step((t - (land - 0.2)) / 0.06) * (1.0 - smooth_step((t - land + 0.004) / 0.03))
            stepping[i:j] = np.minimum(stepping[i:j], 1.0 - lifted)
    lead_share = np.clip(lead_share, 0.0, 1.0) * stepping
    for step in walk:
        for delay, carries in ((0.0, 0.0), (NEXT_FOOT_S, 1.0)):
            i, j = np.searchsorted(times_s, step.start_s + delay + np.array([-UNLOADS_S, FOOT_S + UNLOADS_S]))
            t = times_s[i:j] - step.start_s - delay
            lifted = smooth_step((t + UNLOADS_S) / UNLOADS_S) * (1.0 - smooth_step((t - FOOT_S) / UNLOADS_S))
            lead_share[i:j] += lifted * (carries - lead_share[i:j])
    acc = np.gradient(np.gradient(base_m[:, 2] + height_m, 1.0 / FINE_HZ), 1.0 / FINE_HZ)
    total = np.maximum(weight * (1.0 + acc / GRAVITY_M_S2), 0.0)
    by_side = {body.lead: lead_share * total}
    rear = "right" if body.lead == "left" else "left"
    by_side[rear] = (1.0 - lead_share) * total
    for at in stamps_s:
        i, j = np.searchsorted(times_s, [at - 0.25, at + 0.1])
        t = times_s[i:j] - at
        lift = smooth_step((t + 0.22) / 0.08) * (t < 0)
        spike = 2.2 * np.exp(-np.maximum(t, 0) / 0.025) * (1 - np.exp(-np.maximum(t, 0) / 0.003)) * (t >= 0)
        moved = by_side[rear][i:j] * lift
        by_side[rear][i:j] += spike * weight - moved
        by_side[body.lead][i:j] += moved
    return Loads({s: heel[s] * by_side[s] for s in by_side}, {s: (1 - heel[s]) * by_side[s] for s in by_side})
