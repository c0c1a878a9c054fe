"""The plots of a report as SVG: the means of evenings with their intervals, and strikes a week, left and right."""

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

from agile_strike.core.measures.units import digits
from agile_strike.core.weeks.balance import Week

INK, SOFT, LINE, OAR, BUOY = "#0D2529", "#4c6063", "#C9D6D2", "#1A5DAB", "#BF4E0B"
WIDTH, LEFT, RIGHT, TOP, BOTTOM = 640.0, 52.0, 12.0, 14.0, 30.0
STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)


@dataclass(frozen=True, slots=True)
class At:
    """One evening, in the unit that it is shown in."""

    on: dt.date
    mean: float
    low: float
    high: float


def ticks(low: float, high: float, wanted: int = 4) -> list[float]:
    """Round values over a range, about as many as wanted."""
    span = max(high - low, 1e-9)
    power = 10.0 ** math.floor(math.log10(span / wanted))
    step = next((s * power for s in STEPS if span / (s * power) <= wanted + 1.0), 10.0 * power)
    first = math.ceil(low / step - 1e-9)
    return [round(k * step, 10) for k in range(first, math.floor(high / step + 1e-9) + 1)]


def _places(values: Sequence[float]) -> int:
    return next((d for d in range(4) if all(abs(round(v, d) - v) < 1e-9 for v in values)), 3)


def _text(x: float, y: float, words: str, anchor: str = "middle", fill: str = SOFT) -> str:
    return f'<text x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{fill}" font-size="11">{escape(words)}</text>'


def _line(x1: float, y1: float, x2: float, y2: float, stroke: str, width: float = 1.0, dash: str = "") -> str:
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    at = f'x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}"'
    return f'<line {at} stroke="{stroke}" stroke-width="{width}"{dashed}/>'


def _frame(height: float, inside: list[str]) -> str:
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {height:.0f}" font-family="Archivo">'
    return head + "".join(inside) + "</svg>"


def _days(first: dt.date, last: dt.date, y: float, place: "_Across") -> list[str]:
    """Months along the foot; weeks where there are few of them."""
    out = []
    span = (last - first).days
    if span > 80:
        day = first.replace(day=1)
        every = 1 + span // 400
        while day <= last:
            if day >= first and (day.month - 1) % every == 0:
                out.append(_text(place(day), y, f"{day:%b}" if day.month > 1 else f"{day:%b %Y}"))
            day = (day + dt.timedelta(days=32)).replace(day=1)
        return out
    for k in range(0, span + 1, 7 if span > 14 else max(1, span // 2 or 1)):
        day = first + dt.timedelta(days=k)
        if k == 0 or place(day) - place(first) > 44.0 * len(out) * 0.9:
            out.append(_text(place(day), y, f"{day.day} {day:%b}"))
    return out


@dataclass(frozen=True, slots=True)
class _Across:
    """Days to places along a plot."""

    first: dt.date
    last: dt.date

    def __call__(self, day: dt.date) -> float:
        span = max((self.last - self.first).days, 1)
        return LEFT + 10.0 + (WIDTH - LEFT - RIGHT - 20.0) * (day - self.first).days / span


def course(evenings: Sequence[At], marks: Sequence[tuple[dt.date, str]] = (), height: float = 190.0) -> str:
    """Means of evenings with their 95 % intervals; marks as dashed lines with a number, told beneath."""
    low, high = min(e.low for e in evenings), max(e.high for e in evenings)
    room = 0.06 * max(high - low, 1e-9)
    low, high = low - room, high + room
    foot = height - BOTTOM

    def up(value: float) -> float:
        return TOP + (foot - TOP) * (high - value) / (high - low)

    place = _Across(evenings[0].on, evenings[-1].on)
    marked = ticks(low, high)
    places = _places(marked)
    out = []
    for v in marked:
        out += [
            _line(LEFT, up(v), WIDTH - RIGHT, up(v), LINE),
            _text(LEFT - 6.0, up(v) + 4.0, digits(v, places), "end"),
        ]
    for k, (day, _) in enumerate(marks):
        if place.first <= day <= place.last:
            out += [
                _line(place(day), TOP, place(day), foot, SOFT, 1.0, "3 3"),
                _text(place(day), TOP - 3.0, str(k + 1)),
            ]
    for e in evenings:
        out.append(_line(place(e.on), up(e.low), place(e.on), up(e.high), OAR, 1.4))
        out.append(f'<circle cx="{place(e.on):.1f}" cy="{up(e.mean):.1f}" r="3.4" fill="{OAR}"/>')
    out.append(_line(LEFT, foot, WIDTH - RIGHT, foot, INK))
    return _frame(height, [*out, *_days(place.first, place.last, foot + 18.0, place)])


def volume(weeks: Sequence[Week], height: float = 120.0) -> str:
    """Strikes of each week: left filled, right in outline above it, as told by shape and colour."""
    most = max((w.left + w.right for w in weeks), default=0) or 1
    foot = height - BOTTOM
    place = _Across(weeks[0].monday, weeks[-1].monday)
    wide = min(26.0, 0.8 * (WIDTH - LEFT - RIGHT - 20.0) / max(len(weeks), 1))
    out = []
    for v in ticks(0.0, 1.05 * most, 3):
        y = foot - (foot - TOP) * v / (1.05 * most)
        out += [_line(LEFT, y, WIDTH - RIGHT, y, LINE), _text(LEFT - 6.0, y + 4.0, digits(v, 0), "end")]
    for w in weeks:
        x = place(w.monday) - wide / 2.0
        one, other = ((foot - TOP) * n / (1.05 * most) for n in (w.left, w.right))
        out.append(f'<rect x="{x:.1f}" y="{foot - one:.1f}" width="{wide:.1f}" height="{one:.1f}" fill="{OAR}"/>')
        if other > 0.0:
            box = f'x="{x + 0.6:.1f}" y="{foot - one - other:.1f}" width="{wide - 1.2:.1f}" height="{other:.1f}"'
            out.append(f'<rect {box} fill="#ffffff" stroke="{BUOY}" stroke-width="1.2"/>')
    out.append(_line(LEFT, foot, WIDTH - RIGHT, foot, INK))
    return _frame(height, [*out, *_days(weeks[0].monday, weeks[-1].monday, foot + 18.0, place)])
