"""Every sentence that the application forms of a gym: over 500 gyms drawn at random none holds a code, a figure that is
none, or a plural that is none. `python tests/core/test_sentences.py` lists them, figures left out, to be read.
"""

import ast
import datetime as dt
import re
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np

from agile_strike.core.drills.advice import Seen, advise
from agile_strike.core.drills.ladders import LADDERS
from agile_strike.core.drills.signs import SIGNS
from agile_strike.core.measured import Measured
from agile_strike.core.measures.plain import PLAIN
from agile_strike.core.playbook.cards import CARDS
from agile_strike.core.playbook.points import POINTS
from agile_strike.core.playbook.schools import SHIPPED, objections
from agile_strike.core.registry import MEASURES, NUMERIC, find
from agile_strike.core.trial import words
from agile_strike.core.trial.claim import Strikes, claim
from agile_strike.core.vocabulary import FACTORS, STRIKE_CODES
from agile_strike.core.weeks import attention
from agile_strike.core.weeks.course import course
from agile_strike.core.weeks.evenings import evenings

GYMS = 500
SOURCE = Path(__file__).parents[2] / "src" / "agile_strike"
CODES = [c for c in (*STRIKE_CODES, *MEASURES) if "_" in c or c.count("-") > 0]
WRONG = re.compile(
    r"\bNone\b|\bnan\b|\binf\b|  |\[\]|\(\)|\b1 (strikes|evenings|blocks|days|weeks|students)\b"
    r"|−0(\.0+)?(?![\d.])|\bdeg\b|_| [.,;:]|\.\."
)
#: raised with words that a coach reads
REFUSALS = ("BadInput", "NotAllowed", "NotMeasured", "RefusedAnalysis")


def strikes(rng: np.random.Generator) -> tuple[Strikes, str]:
    """A trial as anything may have come of it: few strikes or many, uneven, fading, thrown out, on two bags."""
    name = str(rng.choice(NUMERIC))
    factor = str(rng.choice(list(FACTORS)))
    levels = tuple(str(x) for x in rng.choice(FACTORS[factor], 2, replace=False))
    many = int(rng.integers(1, 3))
    nights, each, n = int(rng.integers(1, 8)), int(rng.integers(1, 4)), int(rng.integers(1, 12))
    blocks = [(p, s, b) for p in range(many) for s in range(nights) for b in range(2 * each)]
    p, s, b = (np.repeat([x[k] for x in blocks], n) for k in range(3))
    level = np.where(rng.random() < 0.2, b // each, b % 2).astype(np.int64)
    effect, fade, drift, noise = rng.normal(0, 0.15), rng.normal(0, 0.03), rng.normal(0, 0.02), rng.uniform(0.02, 0.3)
    base = float(rng.choice([0.3, 8.0, 40.0, 900.0]))
    value = base * (1.0 + level * (effect + fade * s) + drift * b + noise * rng.standard_normal(len(s)))
    bag = ["48 kg", "60 kg"] if rng.random() < 0.1 else ["48 kg"]
    return Strikes(
        session=s + nights * p,
        block=(p * nights + s) * 2 * each + b,
        order=b.astype(np.float64),
        level=level,
        value=value,
        levels=levels,
        held={"bag": [bag[int(k) % len(bag)] for k in s], "mount": ["swivel"] * len(s)},
        participant=tuple(("Maren", "Idris")[k] for k in p) if many > 1 else (),
        limb=tuple(str(x) for x in rng.choice(["left_hand", "right_hand"], len(s))) if rng.random() < 0.3 else (),
        out=rng.random(len(s)) < rng.choice([0.0, 0.2]),
    ), name


def of_a_trial(rng: np.random.Generator) -> Iterator[str]:
    made, name = strikes(rng)
    measure = find(name)
    assert measure is not None
    told = claim(made, float(rng.choice([3.0, 8.0])))
    first = told.means.get(made.levels[0], 1.0) or 1.0
    pct = None if told.effect is None else (100.0 * told.effect.low / first, 100.0 * told.effect.high / first)
    yield words.sentence(told, measure, pct).text
    yield from (n.text for n in told.notes)
    yield words.still_needed(told, 8, 2, 3.0)
    others = [find(str(n)) for n in rng.choice(NUMERIC, 3, replace=False)]
    yield words.trade([(m, replace(told, refused=None)) for m in others if m is not None])


def of_an_evening(rng: np.random.Generator) -> Iterator[str]:
    code, school = str(rng.choice(STRIKE_CODES)), SHIPPED[int(rng.integers(len(SHIPPED)))]
    off = {s.measure: s.edge + (-1 if s.low else 1) * 3 * s.step for s in SIGNS if s.measure and s.edge is not None}
    said = [w for s in SIGNS for w in s.remarks]
    seen = [
        Seen(
            code,
            {n: Measured(v * rng.normal(1, 0.01), 0.1) for n, v in off.items() if n in NUMERIC and rng.random() < 0.4},
            str(rng.choice(["torso>pelvis>hand", "pelvis>torso>hand"])),
            tuple(str(w) for w in rng.choice(said, int(rng.integers(3)))),
            school,
        )
        for _ in range(int(rng.integers(4, 12)))
    ]
    for a in advise(seen, child=rng.random() < 0.3):
        yield from (a.sign.seen, a.words, a.ladder.care, *a.ladder.steps)
    typical = {n: (float(rng.normal(50, 60)), float(rng.normal(50, 60))) for n in NUMERIC}
    for other in SHIPPED:
        yield from (f"A {other.name} coach would object: {text}." for text in objections(other, code, typical))


def of_weeks(rng: np.random.Generator) -> Iterator[str]:
    today = dt.date(2026, 11, 28)
    days = sorted({today - dt.timedelta(days=int(k)) for k in rng.integers(0, 80, 40)})
    on = [day for day in days for _ in range(int(rng.integers(1, 90)))]
    limb = [str(x) for x in rng.choice(["left_hand", "right_hand", "left_foot"], len(on), p=[0.2, 0.7, 0.1])]
    found = attention.of_strikes(1, "Maren", attention.Strikes(on, limb), today)
    found += [
        n
        for n in (
            attention.retest(1, "Maren", 1, "Weight transfer", days[-1], today),
            attention.away(1, "Maren", days[0], today),
            attention.battery("left wrist", float(rng.uniform(0, 40))),
            attention.calibration("the bag", today + dt.timedelta(days=int(rng.integers(-3, 9))), today),
        )
        if n is not None
    ]
    yield from (n.text for n in found)
    nights = evenings(on, np.zeros(len(on), np.int64), rng.normal(20, 3, len(on)))
    marks = [days[int(k)] for k in rng.integers(0, len(days), 2)]
    yield from (f"No step can be told: {m.why_not}." for m in course(nights[:8], marks).marks if m.why_not)


def everything_said() -> list[str]:
    out = []
    for seed in range(GYMS):
        rng = np.random.default_rng([11, seed])
        out += [*of_a_trial(rng), *of_an_evening(rng), *of_weeks(rng)]
    return [text for text in out if text]


def written_down() -> Iterator[str]:
    """What stands in the registry, the playbook and the drills."""
    for m in MEASURES.values():
        yield from (m.meaning, m.computed_from)
    yield from (text for members in PLAIN.values() for text in members.values())
    for card in CARDS.values():
        yield from (t for t in (*card.parts, card.weight, card.ends, *card.mistakes, card.care) if t)
    for ladder in LADDERS.values():
        yield from (t for t in (*ladder.steps, ladder.dose, ladder.care, ladder.kit, ladder.go_on) if t)
    for point in POINTS.values():
        yield from (point.look_for, point.mistake)


def refusals() -> Iterator[tuple[str, str]]:
    """Words of every refusal in the source, with what is put in at run time left open, and where they stand."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in REFUSALS:
                for arg in node.args[-2:]:
                    if isinstance(arg, ast.JoinedStr) or (isinstance(arg, ast.Constant) and isinstance(arg.value, str)):
                        parts = arg.values if isinstance(arg, ast.JoinedStr) else [arg]
                        text = "".join(str(p.value) if isinstance(p, ast.Constant) else "…" for p in parts)
                        if " " in text:
                            yield f"{path.relative_to(SOURCE)}:{node.lineno}", text


def wrong_in(text: str) -> str | None:
    found = WRONG.search(text)
    return found.group() if found else next((c for c in CODES if c in text), None)


def test_no_sentence_of_500_gyms_is_wrong_in_form() -> None:
    said = everything_said()
    assert len(said) > 10 * GYMS
    assert [(text, bad) for text in said if (bad := wrong_in(text))] == []
    assert [text for text in said if not (text[0].isupper() or text[0].isdigit())] == []


def test_what_is_written_down_holds_no_code() -> None:
    assert [(text, bad) for text in written_down() if (bad := wrong_in(text))] == []


def test_every_refusal_is_a_sentence() -> None:
    told = [(where, text) for where, text in refusals() if where.split(":")[0].startswith(("trials", "people", "kit"))]
    assert len(told) > 30
    assert [t for t in told if not re.search(r"[.!?…]$", t[1])] == []


def test_a_sentence_that_is_wrong_would_be_seen() -> None:
    for text in (
        "It took 1 evenings.",
        "A rear-straight it is.",
        "The impulse_n_s rose.",
        "Up by nan N.",
        "So  it is.",
    ):
        assert wrong_in(text) is not None


if __name__ == "__main__":
    forms = sorted({re.sub(r"[−+]?\d[\d,.]*(?<![.,])", "#", text) for text in everything_said()})
    for before, form in pairwise(["", *forms]):
        if form[:60] != before[:60]:
            print(form)
    print("---")
    for where, text in refusals():
        print(where, text)
