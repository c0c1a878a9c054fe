"""How a quantity is shown: in which unit of a system, to which digit. Everything is stored and computed in SI.

The one table of units: screens have it too (`scripts/client` writes it for them).
"""

import math
import re
from dataclasses import dataclass
from typing import Literal

System = Literal["si", "us"]
MINUS = "−"


@dataclass(frozen=True, slots=True)
class Rule:
    unit: str
    factor: float  #: from SI
    decimals: int  #: more or fewer than in SI


US: dict[str, Rule] = {
    "N": Rule("lbf", 0.224809, 0),
    "N s": Rule("lbf s", 0.224809, 1),
    "m": Rule("in", 39.3701, -1),
    "kg": Rule("lb", 2.20462, 0),
    "J": Rule("ft lbf", 0.737562, 0),
    "m/s": Rule("ft/s", 3.28084, 0),
    "mm": Rule("in", 0.0393701, 1),
}
SPOKEN = {"deg": "°", "deg/s": "°/s"}


def convert(value: float, unit: str, decimals: int, system: System) -> tuple[float, str, int]:
    """A quantity in a system: value, unit, decimals."""
    if system == "si" and unit == "m" and decimals >= 3:
        return 1000.0 * value, "mm", decimals - 3
    rule = US.get(unit) if system == "us" else None
    if rule is None:
        return value, SPOKEN.get(unit, unit), decimals
    return value * rule.factor, rule.unit, max(0, decimals + rule.decimals)


def digits(value: float, decimals: int) -> str:
    text = f"{abs(value):,.{max(0, decimals)}f}"
    return MINUS + text if value < 0.0 and float(text.replace(",", "")) != 0.0 else text


def worth(doubt: float, decimals: int) -> int:
    """How many decimals are worth telling beside a doubt: none beyond its second figure, or its first from 3 on."""
    if not math.isfinite(doubt) or doubt <= 0.0:
        return decimals
    first = math.floor(math.log10(doubt))
    return max(0, min(decimals, -first + (1 if doubt / 10.0**first < 3.0 else 0)))


_QUANTITY = re.compile(r"([−+]?[\d,]+(?:\.\d+)?)(?: to ([−+]?[\d,]+(?:\.\d+)?))? (N s|N(?! s)|m/s|kg|J|mm|m)(?![\w/])")


def said(text: str, system: System) -> str:
    """A sentence in SI with its quantities in another system."""
    if system == "si":
        return text

    def one(figure: str, rule: Rule) -> str:
        places = len(figure.split(".")[1]) if "." in figure else 0
        value = float(figure.replace(",", "").replace(MINUS, "-")) * rule.factor
        return ("+" if figure.startswith("+") else "") + digits(value, max(0, places + rule.decimals))

    def shown(found: re.Match[str]) -> str:
        rule = US[found[3]]
        until = f" to {one(found[2], rule)}" if found[2] else ""
        return f"{one(found[1], rule)}{until} {rule.unit}"

    return _QUANTITY.sub(shown, text)
