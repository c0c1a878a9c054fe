"""What an entry of the playbook holds, kind by kind, as it is kept and as it goes over the wire."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from agile_strike.core.drills.ladders import LADDERS, Ladder
from agile_strike.core.drills.signs import SIGNS, Sign
from agile_strike.core.playbook.cards import CARDS, Card
from agile_strike.core.playbook.points import POINTS, Point
from agile_strike.core.vocabulary import FACTORS, REMARKS
from agile_strike.gym.bodies import Finite, In, Line

LONGEST_REMARK = 20
Short = Annotated[Line, Field(min_length=1, max_length=80)]
Sentence = Annotated[Line, Field(max_length=240)]
Some = Annotated[Line, Field(min_length=1, max_length=240)]
Measure = Annotated[Line, Field(max_length=40)]
Code = Annotated[Line, Field(max_length=60)]


class CardText(In):
    """A strike: its counted parts, its weight, its end and its mistakes."""

    kind: Literal["strike"]
    name: Short
    parts: list[Some] = Field(max_length=12)
    weight: Sentence = ""
    ends: Sentence = ""
    mistakes: list[Some] = Field([], max_length=12)
    measures: list[Measure] = Field([], max_length=12)
    care: Sentence = ""
    lead_turn_deg: Finite = Field(0.0, ge=-180.0, le=180.0)
    rear_turn_deg: Finite = Field(0.0, ge=-180.0, le=180.0)
    lead_weight_pct: Finite = Field(50.0, ge=0.0, le=100.0)


class FactorText(In):
    """What a trial changes, and to what."""

    kind: Literal["factor"]
    name: Short
    levels: list[Short] = Field(max_length=12)


class DrillText(In):
    """A ladder of steps."""

    kind: Literal["drill"]
    name: Short
    steps: list[Some] = Field(max_length=12)
    dose: Sentence = ""
    care: Sentence = ""
    children: bool = True
    kit: Sentence = ""
    go_on: Sentence = ""

    def to_core(self, key: str) -> Ladder:
        return Ladder(key, self.name, tuple(self.steps), self.dose, self.care, self.children, self.kit, self.go_on)


class SignText(In):
    """What is seen, and which drill it asks for."""

    kind: Literal["sign"]
    name: Annotated[Line, Field(min_length=1, max_length=160)]  #: what is seen, and what it likely comes from
    drill: Code
    measure: Measure = ""
    low: bool = False
    edge: Finite | None = None
    step: Finite = Field(1.0, gt=0.0, le=1e6)
    strikes: list[Code] = Field([], max_length=20)
    remarks: list[Annotated[Line, Field(min_length=1, max_length=LONGEST_REMARK)]] = Field([], max_length=12)

    def to_core(self, key: str) -> Sign:
        return Sign(
            key, self.name, self.drill, self.measure or None, self.low, self.edge, self.step, tuple(self.strikes),
            tuple(self.remarks),
        )  # fmt: skip


class RemarksText(In):
    """What is said of a family's strikes in one tap."""

    kind: Literal["remarks"]
    name: Short
    words: list[Annotated[Line, Field(min_length=1, max_length=LONGEST_REMARK)]] = Field(max_length=24)


class PointText(In):
    """A line of the set-up check."""

    kind: Literal["point"]
    name: Short
    look_for: Sentence = ""
    mistake: Sentence = ""
    measures: list[Measure] = Field([], max_length=6)


Content = Annotated[CardText | FactorText | DrillText | SignText | RemarksText | PointText, Field(discriminator="kind")]
read: TypeAdapter[Content] = TypeAdapter(Content)

_FAMILIES = {"hand": "Hands", "elbow": "Elbows", "kick": "Knees and kicks", "any": "Any strike"}


def _card(one: Card) -> CardText:
    return CardText(
        kind="strike", name=one.name, parts=list(one.parts), weight=one.weight, ends=one.ends,
        mistakes=list(one.mistakes), measures=list(one.measures), care=one.care, lead_turn_deg=one.lead_turn_deg,
        rear_turn_deg=one.rear_turn_deg, lead_weight_pct=one.lead_weight_pct,
    )  # fmt: skip


def _drill(one: Ladder) -> DrillText:
    return DrillText(
        kind="drill", name=one.name, steps=list(one.steps), dose=one.dose, care=one.care, children=one.children,
        kit=one.kit, go_on=one.go_on,
    )  # fmt: skip


def _sign(one: Sign) -> SignText:
    return SignText(
        kind="sign", name=one.seen, drill=one.drill, measure=one.measure or "", low=one.low, edge=one.edge,
        step=one.step, strikes=list(one.strikes), remarks=list(one.remarks),
    )  # fmt: skip


def _point(one: Point) -> PointText:
    return PointText(
        kind="point", name=one.name, look_for=one.look_for, mistake=one.mistake, measures=list(one.measures)
    )


#: kind -> key -> what ships with the product, in its order
SHIPPED: dict[str, dict[str, Content]] = {
    "strike": {k: _card(c) for k, c in CARDS.items()},
    "factor": {f: FactorText(kind="factor", name=f, levels=list(levels)) for f, levels in FACTORS.items()},
    "drill": {k: _drill(ladder) for k, ladder in LADDERS.items()},
    "sign": {s.code: _sign(s) for s in SIGNS},
    "remarks": {f: RemarksText(kind="remarks", name=_FAMILIES[f], words=list(w)) for f, w in REMARKS.items()},
    "point": {k: _point(p) for k, p in POINTS.items()},
}
FIXED = ("remarks",)  #: kinds of which a gym changes entries and adds none
