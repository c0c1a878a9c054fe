"""One list of measures, and everything that must agree with it."""

from django.db.models import FloatField

from agile_strike.core.children import MAXIMAL
from agile_strike.core.measures.of_student import BODY_MEASURES
from agile_strike.core.measures.plain import PLAIN, USUAL, USUAL_OF_A_CHILD, plain
from agile_strike.core.registry import FLAG_MEANINGS, MEASURES, NUMERIC, PLAUSIBLE
from agile_strike.core.student.joined import HAPPENS, UNIT_OF, lacking
from agile_strike.core.vocabulary import FACTORS, STRIKE_CODES
from agile_strike.review.models import Strike

UNIT_ENDINGS = {
    "N": "_n",
    "N s": "_n_s",
    "ms": "_ms",
    "m": "_m",
    "mm": "_mm",
    "m/s": "_m_s",
    "deg": "_deg",
    "deg/s": "_deg_s",
    "%": "_pct",
    "kg": "_kg",
    "J": "_j",
    "s of weight": "_bw_s",
}


def test_a_name_carries_its_unit() -> None:
    for m in MEASURES.values():
        if m.unit:
            assert m.name.endswith(UNIT_ENDINGS[m.unit]), m.name


def test_labels_are_told_apart_and_every_measure_says_what_it_means() -> None:
    labels = [m.label for m in MEASURES.values()]
    assert len(set(labels)) == len(labels)
    assert all(m.meaning.endswith(".") and m.computed_from.endswith(".") for m in MEASURES.values())


def test_every_measure_has_its_place_from_the_floor_up_and_says_what_it_answers() -> None:
    told = [name for members in PLAIN.values() for name in members]
    assert sorted(told) == sorted(MEASURES)
    assert all(plain(n).endswith("?") for n in MEASURES)
    for eight in (USUAL, USUAL_OF_A_CHILD):
        assert list(eight) == [n for n in told if n in eight]
        assert len(eight) == 8
    assert not MAXIMAL & set(USUAL_OF_A_CHILD)


def test_every_numeric_measure_has_a_column_and_a_doubt() -> None:
    fields = {f.name: f for f in Strike._meta.concrete_fields}
    for name in NUMERIC:
        assert isinstance(fields[name], FloatField)
        assert isinstance(fields[f"{name}_sd"], FloatField)


def test_what_a_measure_needs_can_be_named_to_a_coach() -> None:
    for m in BODY_MEASURES:
        assert set(m.needs) <= UNIT_OF.keys()
    assert {m for m, _ in lacking(frozenset(UNIT_OF))} == set()
    assert {m for m, _ in lacking(frozenset({"bag"}))} == {m.name for m in BODY_MEASURES}
    assert HAPPENS | PLAUSIBLE.keys() <= MEASURES.keys()


def test_flags_and_words_are_of_one_kind() -> None:
    assert all(meaning.endswith(".") for meaning in FLAG_MEANINGS.values())
    assert len(set(STRIKE_CODES)) == len(STRIKE_CODES)
    assert all(code.split("-")[0] in ("lead", "rear") for code in STRIKE_CODES)
    assert all(len(set(levels)) == len(levels) >= 2 for levels in FACTORS.values())
