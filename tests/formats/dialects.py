"""Tables as other people's loggers write them, drawn from a made-up evening, with what is true of each."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

import numpy as np
from kept import simulate
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from agile_strike.core.recording import Participant, Recording
from agile_strike.core.simulation.plan import Evening, SetPlan
from agile_strike.core.target import GRAVITY_M_S2
from agile_strike.hub.student import USUAL_BAG

Floats = NDArray[np.float64]

#: language: acceleration, turn rate, the same shortly, time, magnetic field, left wrist, right wrist, bag
LANGUAGES = {
    "en": "Acceleration {a}|Angular velocity {a}|Acc{A}|Gyr{A}|Time|Mag {a}|left wrist|right wrist|bag",
    "de": "Beschleunigung {a}|Winkelgeschwindigkeit {a}|Beschl_{a}|Drehrate_{a}|Zeit|Magnetfeld {a}|linkes Handgelenk|"
    "rechtes Handgelenk|Sandsack",
    "fr": "Accélération {A}|Vitesse angulaire {A}|Acc. {a}|Vit. ang. {a}|Temps|Champ magnétique {a}|poignet gauche|"
    "poignet droit|sac",
    "es": "Aceleración {A}|Velocidad angular {A}|Acel {a}|Giro {a}|Tiempo|Campo magnético {a}|muñeca izquierda|"
    "muñeca derecha|saco",
    "it": "Accelerazione {A}|Velocità angolare {A}|Acc {a}|Giroscopio {a}|Tempo|Campo magnetico {a}|polso sinistro|"
    "polso destro|sacco",
    "pt": "Aceleração {A}|Velocidade angular {A}|Acel_{a}|Giroscópio_{a}|Tempo|Campo magnético {a}|pulso esquerdo|"
    "pulso direito|saco",
    "nl": "Versnelling {a}|Hoeksnelheid {a}|Versn {a}|Gyroscoop {a}|Tijd|Magneetveld {a}|linker pols|"
    "rechter pols|bokszak",
    "no": "Akselerasjon {a}|Vinkelhastighet {a}|Aks_{a}|Gyro_{a}|Tid|Magnetfelt {a}|venstre håndledd|høyre håndledd|"
    "boksesekk",
}
PLACES = ("leftwrist", "rightwrist", "bag")
BEGAN = dt.datetime(2026, 11, 24, 19, 30, 12, 250000)
ACCEL = {"m/s^2": 1.0, "g": GRAVITY_M_S2, "mg": GRAVITY_M_S2 / 1000.0}
GYRO = {"rad/s": 1.0, "deg/s": np.pi / 180.0}
CLOCKS = ("s", "ms", "us", "iso", "epoch_s", "epoch_ms", "counter", "clock", "")


@dataclass(frozen=True)
class Drawn:
    name: str
    content: bytes
    placement: str | None
    accel: list[int]
    gyro: list[int]
    accel_factor: float
    gyro_factor: float
    rate_hz: float
    kind: str  #: of time; "" for none
    gap: tuple[int, float] | None  #: line and seconds
    wrong: str  #: what its labels say wrongly


def evening() -> Recording:
    sets = tuple(
        SetPlan(f"{s}-straight", f"{h}_hand", "head", 10, gap_s=2.4) for s, h in (("rear", "right"), ("lead", "left"))
    )
    planned = Evening(USUAL_BAG, sets, Participant("01", 70.0, None, None, "orthodox"), bumps=2, worn=PLACES[:2])
    return simulate(planned, np.random.default_rng(5)).recording


def drawn(recording: Recording, seed: int) -> Drawn:
    rng = np.random.default_rng(seed)

    def one(*of: Any) -> Any:
        return of[rng.integers(len(of))]

    place, language, every = one(*PLACES), one(*LANGUAGES), one(2, 5, 10)
    long_a, long_g, short_a, short_g, time, field, *names = LANGUAGES[language].split("|")
    unit = recording.units[place]
    rate = unit.rate_hz / every
    n = int(one(26, 32) * rate)
    turn = Rotation.create_group("O").as_matrix()[rng.integers(24)]
    accel = unit.accel_m_s2[::every][:n].astype(float) @ turn.T
    gyro = unit.gyro_rad_s[::every][:n].astype(float) @ turn.T
    n = len(accel)
    counts = rng.random() < 0.2
    per_g, per_deg = one(2048, 4096, 8192), one(16.4, 32.8, 65.5)
    in_a, in_g = ("LSB", "LSB") if counts else (one(*ACCEL), one(*GYRO))
    factor_a = GRAVITY_M_S2 / per_g if counts else ACCEL[in_a]
    factor_g = GYRO["deg/s"] / per_deg if counts else GYRO[in_g]
    accel, gyro = accel / factor_a, gyro / factor_g
    if counts:
        accel, gyro = np.rint(accel), np.rint(gyro)
    labelled = rng.random() < 0.7
    wrong = one("accel.unit", "gyro.unit", "columns") if labelled and not counts and rng.random() < 0.15 else ""
    said_a = one(*(u for u in ACCEL if u != in_a)) if wrong == "accel.unit" else in_a
    said_g = next(u for u in GYRO if u != in_g) if wrong == "gyro.unit" else in_g
    short = rng.random() < 0.4
    named = [(short_a if short else long_a, said_a, accel), (short_g if short else long_g, said_g, gyro)]
    if wrong == "columns":
        named = [(*named[0][:2], gyro), (*named[1][:2], accel)]
    if one(True, False):
        named = named[::-1]
    kind = one(*CLOCKS)
    seconds = np.arange(n) / rate
    columns = _clock(kind, time, seconds, rate)
    for name, in_, values in named:
        for k, axis in enumerate("xyz"):
            columns.append((name.format(a=axis, A=axis.upper()), in_ if labelled else "", values[:, k]))
    if rng.random() < 0.3:
        still = np.array([20.0, 5.0, -42.0]) @ turn.T + rng.normal(0.0, 0.3, (n, 3))
        columns += [
            (field.format(a=a, A=a.upper()), "µT" if labelled else "", still[:, k]) for k, a in enumerate("xyz")
        ]
    keep = np.ones(n, bool)
    lost = int(rng.integers(3, int(1.5 * rate))) if kind and rng.random() < 0.3 else 0
    at = int(rng.integers(n // 4, n // 2))
    keep[at : at + lost] = False
    decimal = one(".", ".", ",")
    separator = one(";", "\t", "|") if decimal == "," else one(",", ";", "\t", "|")
    above = (
        [f"Device: KQ-{rng.integers(100, 120)}", "Baud rate: 9600", f"Sample rate: {rate:g} Hz"]
        if kind in ("", "counter")
        else []
    )
    style = one("[{}]", "({})", "{}", "row")
    heads = [f"{name} {style.format(u)}" if u and style != "row" else name for name, u, _ in columns]
    lines = [*above, separator.join(heads)]
    if style == "row" and labelled:
        lines.append(separator.join(u for _, u, _ in columns))
    first = len(lines) + 1
    cells = [[_cell(v, decimal) for v in values] for _, _, values in columns]
    lines += [separator.join(row) for row, kept in zip(zip(*cells, strict=True), keep.tolist(), strict=True) if kept]
    text = "\n".join(lines) + "\n"
    encoding = one("utf-8", "utf-8-sig", "utf-16", "cp1252", "utf-16-le")
    own = rng.random() < 0.8
    zero = len(columns) - len(cells) + (1 if kind else 0)
    places = {id(values): [zero + 3 * k + j for j in range(3)] for k, (_, _, values) in enumerate(named)}
    return Drawn(
        f"{names[PLACES.index(place)].replace(' ', '_')}.csv" if own else f"recording{seed}.csv",
        text.encode(encoding, "replace"), place if own else None, places[id(accel)], places[id(gyro)],
        factor_a, factor_g, rate, kind, (first + at, lost / rate) if lost else None, wrong,
    )  # fmt: skip


def _clock(kind: str, time: str, seconds: Floats, rate: float) -> list[tuple[str, str, Any]]:
    epoch = BEGAN.replace(tzinfo=dt.UTC).timestamp()
    instants = [BEGAN + dt.timedelta(seconds=float(s)) for s in seconds]
    if kind in ("s", "ms", "us"):
        return [(time, kind, np.round((seconds + 12.345) * {"s": 1.0, "ms": 1e3, "us": 1e6}[kind], 6))]
    columns: dict[str, tuple[str, str, Any]] = {
        "iso": (time, "", [i.isoformat(timespec="microseconds") for i in instants]),
        "clock": (time, "", [i.strftime("%H:%M:%S.%f") for i in instants]),
        "epoch_s": ("timestamp", "", np.round(epoch + seconds, 6)),
        "epoch_ms": ("timestamp", "", np.round(1000.0 * (epoch + seconds), 3)),
        "counter": ("Packet counter", "", np.arange(len(seconds)).astype(float)),
    }
    return [columns[kind]] if kind else []


def _cell(value: Any, decimal: str) -> str:
    if isinstance(value, str):
        return value
    text = f"{value:.17g}" if abs(value) > 1e6 else f"{value:.7g}"
    return text.replace(".", decimal)
