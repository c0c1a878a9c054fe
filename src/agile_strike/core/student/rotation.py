"""Quaternions (w, x, y, z) over arrays (..., 4): the few operations that strapdown integration needs, vectorised."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def multiply(a: Floats, b: Floats) -> Floats:
    """Hamilton product, (..., 4)."""
    aw, ax, ay, az = a[..., 0], a[..., 1], a[..., 2], a[..., 3]
    bw, bx, by, bz = b[..., 0], b[..., 1], b[..., 2], b[..., 3]
    out = np.empty(np.broadcast_shapes(a.shape, b.shape))
    out[..., 0] = aw * bw - ax * bx - ay * by - az * bz
    out[..., 1] = aw * bx + ax * bw + ay * bz - az * by
    out[..., 2] = aw * by - ax * bz + ay * bw + az * bx
    out[..., 3] = aw * bz + ax * by - ay * bx + az * bw
    return out


def conjugate(q: Floats) -> Floats:
    return np.asarray(q * np.array([1.0, -1.0, -1.0, -1.0]))


def exp(turn: Floats) -> Floats:
    """Quaternions of small rotation vectors (..., 3), below half a radian."""
    half = 0.5 * turn
    square = half[..., 0] ** 2 + half[..., 1] ** 2 + half[..., 2] ** 2
    out = np.empty((*turn.shape[:-1], 4))
    out[..., 0] = 1.0 - square / 2.0 + square * square / 24.0
    out[..., 1:] = (1.0 - square / 6.0 + square * square / 120.0)[..., None] * half
    return out


def rotate(q: Floats, v: Floats) -> Floats:
    """Vectors (..., 3) turned by q (..., 4)."""
    w, x, y, z = q[..., 0], q[..., 1], q[..., 2], q[..., 3]
    a, b, c = v[..., 0], v[..., 1], v[..., 2]
    tx, ty, tz = 2.0 * (y * c - z * b), 2.0 * (z * a - x * c), 2.0 * (x * b - y * a)
    out = np.empty((*np.broadcast_shapes(q.shape[:-1], v.shape[:-1]), 3))
    out[..., 0] = a + w * tx + y * tz - z * ty
    out[..., 1] = b + w * ty + z * tx - x * tz
    out[..., 2] = c + w * tz + x * ty - y * tx
    return out


def running(q: Floats) -> Floats:
    """Running products q0, q0 q1, q0 q1 q2, ... along the second axis of (s, m, 4), in log2(m) passes
    (Hillis and Steele 1986)."""
    w, x, y, z = (np.ascontiguousarray(q[..., i]) for i in range(4))  # parts apart: four times as fast
    shift = 1
    while shift < q.shape[1]:
        a, b, c, d = (part[:, :-shift] for part in (w, x, y, z))
        e, f, g, h = (part[:, shift:] for part in (w, x, y, z))
        moved = (
            a * e - b * f - c * g - d * h,
            a * f + b * e + c * h - d * g,
            a * g - b * h + c * e + d * f,
            a * h + b * g - c * f + d * e,
        )
        for part, new in zip((w, x, y, z), moved, strict=True):
            part[:, shift:] = new
        shift *= 2
    return np.stack([w, x, y, z], axis=-1)


def unit(v: Floats) -> Floats:
    """Vectors (..., 3) at length one."""
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-9))


def onto_upright(way: Floats) -> Floats:
    """The shortest turns (s, 4) that carry `way` (s, 3), of any length, onto z."""
    up = unit(way)
    q = np.stack([1.0 + up[:, 2], up[:, 1], -up[:, 0], np.zeros(len(up))], axis=1)
    q[np.linalg.norm(q, axis=1) < 1e-9] = [0.0, 1.0, 0.0, 0.0]  # straight down: any half turn does
    return np.asarray(q / np.linalg.norm(q, axis=1, keepdims=True))
